import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from 'react-router'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { client, Problem, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { useMe } from '../../app/me'
import { Faults } from '../../shared/Faults'
import { ClassFrame } from './ClassFrame'
import { NotThere } from './NotThere'
import { Changes } from './ClassLessonsPage'
import { RoomPanel } from './RoomPanel'
import { Moment } from '../../shared/Moment'

/** One class: its room, its teams, and what is handed out to them. */
export default function OneClassPage() {
  const { id = '' } = useParams()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const me = useMe()
  const key = Number(id)
  const [team, setTeam] = useState('')
  const [rig, setRig] = useState('')
  const [going, setGoing] = useState<'class' | Schemas['TeamView'] | null>(null)
  const view = useQuery({
    queryKey: ['room', 'class', key],
    queryFn: () => unwrap(client.GET('/api/classes/{id}', { params: { path: { id: key } } })),
    staleTime: 0,
    enabled: Number.isInteger(key),
  })
  const rigs = useQuery({ queryKey: ['rigs'], queryFn: () => unwrap(client.GET('/api/rigs')), staleTime: 0 })
  const fresh = () => queries.invalidateQueries({ queryKey: ['room'] })
  const add = useMutation({
    mutationFn: () => unwrap(client.POST('/api/classes/{id}/teams', { params: { path: { id: key } }, body: { name: team, table: null } })),
    onSuccess: () => {
      setTeam('')
      return fresh()
    },
  })
  const hand = useMutation({
    mutationFn: (teams: number[] | null) =>
      unwrap(client.POST('/api/classes/{id}/hand-out', { params: { path: { id: key } }, body: { rig, teams } })),
    onSuccess: fresh,
  })
  const erase = useMutation({
    mutationFn: async (what: 'class' | Schemas['TeamView']) => {
      if (what === 'class') await unwrap(client.DELETE('/api/classes/{id}', { params: { path: { id: key } } }))
      else await unwrap(client.DELETE('/api/teams/{team}', { params: { path: { team: what.id } } }))
      return what
    },
    onSuccess: async (what) => {
      setGoing(null)
      if (what === 'class') await navigate('/class')
      await fresh()
    },
  })
  if (view.error instanceof Problem || !Number.isInteger(key))
    return <NotThere title={view.error?.message ?? 'There is no such class.'} to="/class" back="Go to the classes" />
  if (!view.data)
    return (
      <ClassFrame>
        <Moment />
      </ClassFrame>
    )
  const { teams } = view.data
  return (
    <ClassFrame>
      <main className="page">
        <p className="fine no-print">
          <Link to="/class">Classes</Link>
        </p>
        <h1 className="page-title">{view.data.name}</h1>
        <RoomPanel id={key} />
        <p style={{ marginTop: 16 }}>
          <Button component={Link} to={`/class/${key}/lessons`}>
            Lessons of the class
          </Button>{' '}
          <Button component={Link} to={`/class/${key}/heats`}>
            Heats of the class
          </Button>
        </p>
        <h2 className="small-head" style={{ marginTop: 22 }}>
          Teams
        </h2>
        {teams.length === 0 && <p className="lead">No team yet. Teams make themselves when they join the room, or you add them here.</p>}
        {teams.length > 0 && (
          <div className="wide" tabIndex={0} role="region" aria-label="Teams">
            <table className="ruled class-teams">
              <thead>
                <tr>
                  <th scope="col">Table</th>
                  <th scope="col">Team</th>
                  <th scope="col">Its own code</th>
                  <th scope="col">Rigs</th>
                  <th scope="col">
                    <span className="hidden-text">What can be done</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {teams.map((t) => (
                  <TeamRow
                    key={t.id}
                    team={t}
                    room={key}
                    late={t.rigs.length === 0 && teams.some((o) => o.rigs.length > 0)}
                    desk={me.data?.who === 'desk'}
                    onDelete={() => setGoing(t)}
                  />
                ))}
              </tbody>
            </table>
          </div>
        )}
        <form
          className="row"
          style={{ margin: '12px 0 18px' }}
          onSubmit={(e) => {
            e.preventDefault()
            add.mutate()
          }}
        >
          <TextField
            size="small"
            label="Name of a new team"
            value={team}
            onChange={(e) => setTeam(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <Button type="submit" disabled={add.isPending}>
            Add the team
          </Button>
        </form>
        {add.isError && <Faults sentences={sentencesOf(add.error)} />}
        {teams.flatMap((t) => t.rigs).length > 1 && (
          <p>
            <Link to={`/class/${key}/compare`}>Compare two teams’ programs</Link>
          </p>
        )}
        {teams.length > 0 && (
          <section aria-label="Hand out a rig">
            <h2 className="small-head">Hand out a rig</h2>
            <p className="lead">
              Each team gets a rig of its own, as yours is now, with a stand-in that behaves like yours. What they change there changes
              nothing here.
            </p>
            <div className="row">
              <TextField
                select
                size="small"
                label="Rig"
                value={rig}
                onChange={(e) => setRig(e.target.value)}
                slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
                style={{ minWidth: 240 }}
              >
                <option value="">choose a rig</option>
                {(rigs.data ?? [])
                  .filter((r) => !r.archived)
                  .map((r) => (
                    <option key={r.id} value={r.id}>
                      {r.name}
                    </option>
                  ))}
              </TextField>
              <Button variant="contained" disabled={rig === '' || hand.isPending} onClick={() => hand.mutate(null)}>
                To all teams
              </Button>
              {teams.some((t) => t.rigs.length === 0) && teams.some((t) => t.rigs.length > 0) && (
                <Button
                  disabled={rig === '' || hand.isPending}
                  onClick={() => hand.mutate(teams.filter((t) => t.rigs.length === 0).map((t) => t.id))}
                >
                  To those that have none
                </Button>
              )}
            </div>
            {rig !== '' && teams.some((t) => t.rigs.length > 0) && <Changes key={rig} room={key} rig={rig} changed={[]} />}
            {hand.data && <p role="status">{hand.data.say}</p>}
            {hand.isError && <Faults sentences={sentencesOf(hand.error)} />}
          </section>
        )}
        {me.data?.who === 'desk' && (
          <p className="row no-print" style={{ marginTop: 26 }}>
            <Button component="a" href={`/api/classes/${key}/export`} variant="text">
              Export the class
            </Button>
            <Button variant="text" onClick={() => setGoing('class')}>
              Delete the class
            </Button>
          </p>
        )}
      </main>
      {going && (
        <Dialog open onClose={() => setGoing(null)} aria-labelledby="going-title">
          <DialogTitle id="going-title" sx={{ fontSize: 17 }}>
            Delete {going === 'class' ? view.data.name : going.name}?
          </DialogTitle>
          <DialogContent>
            <p>
              {going === 'class'
                ? 'Its teams go with it, and their rigs, readings, trials and logs. There is no way back.'
                : 'Its rigs go with it, and their readings, trials and logs. There is no way back.'}
            </p>
            {view.data.backups.length > 0 && (
              <p>
                These backups in the data folder still hold the class: {view.data.backups.join(', ')}. Delete them by hand if nothing of it
                may stay.
              </p>
            )}
            {erase.isError && <Faults sentences={sentencesOf(erase.error)} />}
          </DialogContent>
          <DialogActions>
            <Button component="a" href={`/api/classes/${key}/export`} variant="text">
              Export it first
            </Button>
            <Button onClick={() => setGoing(null)} autoFocus>
              Leave it
            </Button>
            <Button variant="contained" onClick={() => erase.mutate(going)} disabled={erase.isPending}>
              Delete it
            </Button>
          </DialogActions>
        </Dialog>
      )}
    </ClassFrame>
  )
}

function TeamRow({
  team,
  room,
  late,
  desk,
  onDelete,
}: {
  team: Schemas['TeamView']
  room: number
  late: boolean
  desk: boolean
  onDelete: () => void
}) {
  const queries = useQueryClient()
  const [table, setTable] = useState('')
  const [moving, setMoving] = useState(false)
  const fresh = () => queries.invalidateQueries({ queryKey: ['room'] })
  const code = useMutation({
    mutationFn: () => unwrap(client.POST('/api/teams/{team}/code', { params: { path: { team: team.id } } })),
    onSuccess: fresh,
  })
  const start = useMutation({
    mutationFn: () => unwrap(client.POST('/api/teams/{team}/same-start', { params: { path: { team: team.id } } })),
    onSuccess: fresh,
  })
  const move = useMutation({
    mutationFn: () =>
      unwrap(client.POST('/api/teams/{team}/table', { params: { path: { team: team.id } }, body: { name: null, table: Number(table) } })),
    onSuccess: () => {
      setMoving(false)
      return fresh()
    },
  })
  return (
    <tr>
      <td className="mono">{team.table}</td>
      <th scope="row">{team.name}</th>
      <td>
        <span className="mono">{team.code}</span>
        <span className="fine muted">
          {' '}
          {team.devices === 0 ? 'no device' : team.devices === 1 ? '1 device' : `${team.devices} devices`}
        </span>
      </td>
      <td>
        {team.rigs.length === 0 ? (
          <span className="muted">none yet</span>
        ) : (
          <ul className="plain-list">
            {team.rigs.map((r) => (
              <li key={r.id}>
                <Link to={`/rigs/${r.id}/program`}>{r.name}</Link>
                {r.different !== null && r.different !== undefined && (
                  <span className="fine muted">
                    {' '}
                    {r.different === 0 ? (
                      'as it was handed out'
                    ) : (
                      <Link to={`/class/${room}/compare?one=${r.id}`}>
                        {r.different === 1
                          ? '1 sentence differs from what was handed out'
                          : `${r.different} sentences differ from what was handed out`}
                      </Link>
                    )}
                  </span>
                )}
              </li>
            ))}
          </ul>
        )}
      </td>
      <td>
        <div className="row" style={{ gap: 2 }}>
          {late && (
            <Button onClick={() => start.mutate()} disabled={start.isPending} aria-label={`The same start for ${team.name}`}>
              The same start
            </Button>
          )}
          <Button variant="text" onClick={() => code.mutate()} aria-label={`New code for ${team.name}`}>
            New code
          </Button>
          {moving ? (
            <form
              className="row"
              onSubmit={(e) => {
                e.preventDefault()
                move.mutate()
              }}
            >
              <TextField
                size="small"
                autoFocus
                label="To table"
                value={table}
                onChange={(e) => setTable(e.target.value)}
                slotProps={{ htmlInput: { inputMode: 'numeric', maxLength: 2 } }}
                style={{ width: 100 }}
              />
              <Button type="submit">Move</Button>
            </form>
          ) : (
            <Button variant="text" onClick={() => setMoving(true)} aria-label={`Another table for ${team.name}`}>
              Another table
            </Button>
          )}
          {desk && (
            <Button variant="text" onClick={onDelete} aria-label={`Delete ${team.name}`}>
              Delete
            </Button>
          )}
        </div>
        {code.isError && <Faults sentences={sentencesOf(code.error)} />}
        {start.isError && <Faults sentences={sentencesOf(start.error)} />}
        {move.isError && <Faults sentences={sentencesOf(move.error)} />}
      </td>
    </tr>
  )
}
