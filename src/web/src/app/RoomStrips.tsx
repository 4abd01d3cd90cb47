import { useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from './api'
import { leftWords, useLeft } from './left'
import { meKey } from './me'

/** The line over every page while the room is open: at the desk that it is, for a team who it is, what the educator says, and its hand. */
export default function RoomStrips({ me }: { me: Schemas['MeView'] }) {
  if (me.who === 'team' && me.team) return <TeamStrip me={me} team={me.team} />
  return me.who === 'judge' ? <JudgeStrip me={me} /> : <DeskStrip me={me} />
}

function Left({ leftS }: { leftS: number | null | undefined }) {
  const left = useLeft(leftS)
  if (left === null) return null
  return <span className={left <= 0 ? 'risky' : undefined}>{leftWords(left)}</span>
}

function TeamStrip({ me, team }: { me: Schemas['MeView']; team: Schemas['MyTeam'] }) {
  const queries = useQueryClient()
  const [code, setCode] = useState(false)
  const hand = useMutation({
    mutationFn: (up: boolean) => unwrap(client.POST('/api/me/hand', { body: { up } })),
    onSettled: () => queries.invalidateQueries({ queryKey: meKey }),
  })
  return (
    <section className="room-strip no-print" aria-label="Your team">
      <b>{team.name}</b>
      <span>table {team.table}</span>
      <Left leftS={me.leftS} />
      {me.message && (
        <span className="room-said" role="status">
          {me.message}
        </span>
      )}
      <span className="room-acts">
        <Button component={Link} to="/lesson" variant="text">
          {team.waits > 0 ? `Lesson, ${team.waits} new` : 'Lesson'}
        </Button>
        {team.heats && (
          <Button component={Link} to="/heats" variant="text">
            Heats
          </Button>
        )}
        {code ? (
          <span>
            Another device joins with <b className="mono">{team.code}</b>
          </span>
        ) : (
          <Button variant="text" onClick={() => setCode(true)}>
            Another device
          </Button>
        )}
        <Button variant={team.handUp ? 'contained' : 'outlined'} aria-pressed={team.handUp} onClick={() => hand.mutate(!team.handUp)}>
          {team.handUp ? 'Take the hand down' : 'Put a hand up'}
        </Button>
      </span>
      {hand.isError && <span className="fault">{sentencesOf(hand.error)[0]}</span>}
    </section>
  )
}

function JudgeStrip({ me }: { me: Schemas['MeView'] }) {
  return (
    <section className="room-strip no-print" aria-label="The open room">
      <b>Judge</b>
      <span>{me.className}</span>
      <Left leftS={me.leftS} />
      {me.message && <span className="room-said">{me.message}</span>}
    </section>
  )
}

function DeskStrip({ me }: { me: Schemas['MeView'] }) {
  return (
    <section className="room-strip no-print" aria-label="The open room">
      <span>
        The room of <b>{me.className}</b> is open
      </span>
      <Left leftS={me.leftS} />
      {me.hands > 0 && <b className="risky">{me.hands === 1 ? '1 hand is up' : `${me.hands} hands are up`}</b>}
      <span className="room-acts">
        <Button component={Link} to="/class/board" variant="text">
          Board
        </Button>
        <Button component={Link} to="/class" variant="text">
          Class
        </Button>
      </span>
    </section>
  )
}
