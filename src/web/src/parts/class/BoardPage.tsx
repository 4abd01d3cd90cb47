import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import { client, Problem, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { parts } from '../../app/parts'
import { Faults } from '../../shared/Faults'
import { ClassFrame } from './ClassFrame'

const partName = (part: string) => parts.find((p) => p.part === part)?.name ?? ''

/** The room at a glance: a line a team, live. */
export default function BoardPage() {
  const queries = useQueryClient()
  const [order, setOrder] = useState<'seat' | 'stuck'>('seat')
  const board = useQuery({
    queryKey: ['room', 'board', order],
    queryFn: () => unwrap(client.GET('/api/room/board', { params: { query: { order } } })),
    staleTime: 0,
    // Minutes go on by themselves.
    refetchInterval: 15_000,
    placeholderData: (before) => before,
  })
  const lower = useMutation({
    mutationFn: (team: number) => unwrap(client.POST('/api/teams/{team}/hand', { params: { path: { team } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['room'] }),
  })
  return (
    <ClassFrame>
      <main className="page">
        <h1 className="page-title">Board</h1>
        {board.error instanceof Problem ? (
          <p className="lead">
            {board.error.message} <Link to="/class">Go to the classes</Link>
          </p>
        ) : (
          <>
            <div className="row no-print" role="group" aria-label="Order">
              <Button aria-pressed={order === 'seat'} className="pick" onClick={() => setOrder('seat')}>
                By seat
              </Button>
              <Button aria-pressed={order === 'stuck'} className="pick" onClick={() => setOrder('stuck')}>
                Longest stuck first
              </Button>
              <Button component={Link} to="/class/projector" variant="text">
                For the wall
              </Button>
            </div>
            {board.data?.lines.length === 0 && <p className="lead">No team has joined yet.</p>}
            {order === 'seat' && (board.data?.lines.length ?? 0) > 0 && <Plan lines={board.data!.lines} />}
            {(board.data?.lines.length ?? 0) > 0 && (
              <div className="wide" tabIndex={0} role="region" aria-label="Teams">
                <table className="ruled board">
                  <thead>
                    <tr>
                      <th scope="col">Table</th>
                      <th scope="col">Team</th>
                      <th scope="col">Lesson</th>
                      <th scope="col">Part</th>
                      <th scope="col">How often it works</th>
                      <th scope="col">Controller</th>
                      <th scope="col">First to settle</th>
                      <th scope="col">Unchanged</th>
                      <th scope="col">Hand</th>
                    </tr>
                  </thead>
                  <tbody>
                    {board.data?.lines.map((l) => (
                      <Line key={l.team} line={l} onLower={() => lower.mutate(l.team)} />
                    ))}
                  </tbody>
                </table>
              </div>
            )}
            {lower.isError && <Faults sentences={sentencesOf(lower.error)} />}
          </>
        )}
      </main>
    </ClassFrame>
  )
}

/** The tables as they stand in a row, with what calls for a look. */
function Plan({ lines }: { lines: Schemas['BoardLine'][] }) {
  const tables = Map.groupBy(lines, (l) => l.table)
  const last = Math.min(Math.max(...tables.keys()), 40)
  return (
    <ul className="table-plan" aria-label="Tables">
      {Array.from({ length: last }, (_, i) => i + 1).map((n) => (
        <li key={n} className={tables.get(n)?.some((l) => l.handMin !== null && l.handMin !== undefined) ? 'hand-up' : undefined}>
          <span className="mono muted">{n}</span>
          {(tables.get(n) ?? []).map((l) => (
            <span key={l.team}>
              <b>{l.name}</b>
              <small>
                {l.handMin !== null && l.handMin !== undefined
                  ? 'hand up'
                  : l.unchanged >= 10
                    ? `${l.unchanged} min unchanged`
                    : partName(l.part) || 'not seen yet'}
              </small>
            </span>
          ))}
          {!tables.has(n) && <small className="muted">nobody</small>}
        </li>
      ))}
    </ul>
  )
}

function Line({ line, onLower }: { line: Schemas['BoardLine']; onLower: () => void }) {
  return (
    <tr className={line.handMin !== null && line.handMin !== undefined ? 'hand-up' : undefined}>
      <td className="mono">{line.table}</td>
      <th scope="row">
        {line.rig ? <Link to={`/rigs/${line.rig}/${line.part || 'program'}`}>{line.name}</Link> : line.name}
        <span className="fine muted" style={{ display: 'block', fontWeight: 400 }}>
          {line.rigName || 'no rig yet'}
          {line.pages === 0 && ', not connected'}
        </span>
      </th>
      <td>
        {line.lesson || <span className="muted">none</span>}
        {line.lessonSay && <span className="fine muted"> {line.lessonSay}</span>}
      </td>
      <td>{partName(line.part) || <span className="muted">not seen yet</span>}</td>
      <td>
        {line.rate.replace(/^Revision \d+: /, '')}
        {line.likely && <span className="fine muted"> {line.likely}</span>}
      </td>
      <td>
        {line.holds === null || line.holds === undefined ? (
          <span className="muted">nothing sent</span>
        ) : line.holds ? (
          'holds it'
        ) : (
          <span className="risky">holds another</span>
        )}
      </td>
      <td>{line.unsettled ? line.finding : <span className="muted">{line.finding}</span>}</td>
      <td className="mono">{line.unchanged} min</td>
      <td>
        {line.handMin !== null && line.handMin !== undefined && (
          <Button onClick={onLower} aria-label={`${line.name}: hand up, take it down`}>
            {line.handMin === 0 ? 'up' : `up ${line.handMin} min`}
          </Button>
        )}
      </td>
    </tr>
  )
}
