import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { client, Problem, unwrap } from '../../app/api'
import { leftWords, useLeft } from '../../app/left'
import { useFollowRoom } from '../../app/me'
import { parts } from '../../app/parts'
import { HeatTable } from './HeatTable'
import { useHeats, useHeatsOf } from './heats'

/** For the wall: how to join, the time, what is said, and who is where. No code of a team, no judge's, no finding. */
export default function ProjectorPage() {
  useFollowRoom(true)
  const wall = useQuery({
    queryKey: ['room', 'projector'],
    queryFn: () => unwrap(client.GET('/api/room/projector')),
    staleTime: 0,
    refetchInterval: 20_000,
  })
  const left = useLeft(wall.data?.leftS)
  const room = useQuery({ queryKey: ['room', 'state'], queryFn: () => unwrap(client.GET('/api/room')), staleTime: 0 })
  const heats = useHeatsOf(room.data?.class ?? null, room.data?.class != null)
  // What is under way is for all to see; what is over was.
  const running = useHeats(heats.data?.find((h) => h.held < h.all)?.id ?? null)
  if (wall.error instanceof Problem)
    return (
      <main className="wall">
        <h1>{wall.error.message}</h1>
        <p>
          <Link to="/class">Go to the classes</Link>
        </p>
      </main>
    )
  if (!wall.data) return <main className="wall" aria-busy="true" />
  const { squares } = wall.data
  return (
    <main className="wall">
      <h1>{wall.data.className}</h1>
      <div className="wall-join">
        <svg
          role="img"
          aria-label={`A camera reads ${wall.data.url} here`}
          viewBox={`0 0 ${squares.length} ${squares.length}`}
          width="260"
          height="260"
          shapeRendering="crispEdges"
        >
          <rect width={squares.length} height={squares.length} fill="#fff" />
          <path
            d={squares.flatMap((row, y) => [...row].flatMap((c, x) => (c === '1' ? [`M${x} ${y}h1v1h-1z`] : []))).join('')}
            fill="#000"
          />
        </svg>
        <div>
          <p className="wall-url mono">{wall.data.url}</p>
          <p>and the code</p>
          <p className="wall-code mono">{wall.data.joinCode}</p>
        </div>
        {left !== null && <p className="wall-left">{leftWords(left)}</p>}
      </div>
      {wall.data.message && <p className="wall-said">{wall.data.message}</p>}
      {wall.data.teams.length > 0 && (
        <ul className="wall-teams">
          {wall.data.teams.map((t) => (
            <li key={t.name} className={t.handUp ? 'hand-up' : undefined}>
              <span className="mono">{t.table}</span> <b>{t.name}</b> <span>{parts.find((p) => p.part === t.part)?.name ?? ''}</span>
              {t.handUp && <i>hand up</i>}
            </li>
          ))}
        </ul>
      )}
      {running.data && (
        <section className="wall-heats" aria-label={`Heats: ${running.data.name}`}>
          <h2>{running.data.name}</h2>
          {running.data.next && (
            <p>
              Next: {running.data.teams[running.data.next.first]!.name} against {running.data.teams[running.data.next.second]!.name}
            </p>
          )}
          <HeatTable heats={running.data} />
        </section>
      )}
      <p className="fine no-print">
        <Link to="/class/board">Back to the board</Link>
      </p>
    </main>
  )
}
