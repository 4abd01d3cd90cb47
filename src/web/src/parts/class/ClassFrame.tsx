import type { ReactNode } from 'react'
import { Link, NavLink } from 'react-router'
import { useIsTeam } from '../../app/me'
import { RoomStrip } from '../../app/RoomStrip'

/** The frame of the pages about classes: beside the eight parts, not one of them. */
export function ClassFrame({ children }: { children: ReactNode }) {
  const team = useIsTeam()
  return (
    <div className="app">
      <nav className="spine" aria-label="Chiton">
        <Link to="/" className="wordmark">
          chiton
        </Link>
        <ul className="class-ways">
          <li>
            <NavLink to="/" end>
              Rigs
            </NavLink>
          </li>
          {team ? (
            <>
              <li>
                <NavLink to="/lesson">Lesson</NavLink>
              </li>
              <li>
                <NavLink to="/heats">Heats</NavLink>
              </li>
            </>
          ) : (
            <>
              <li>
                <NavLink to="/class">Class</NavLink>
              </li>
              <li>
                <NavLink to="/courses">Courses</NavLink>
              </li>
              <li>
                <NavLink to="/challenges">Challenges</NavLink>
              </li>
            </>
          )}
          <li>
            <NavLink to="/train">Practise</NavLink>
          </li>
        </ul>
      </nav>
      <div className="desk">
        <RoomStrip />
        {children}
      </div>
    </div>
  )
}
