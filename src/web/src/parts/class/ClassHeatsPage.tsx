import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from 'react-router'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import { client, Problem, sentencesOf, unwrap } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { useHeatsOf } from './heats'
import { NotThere } from './NotThere'

/** The heats of a class, and beginning more. */
export default function ClassHeatsPage() {
  const { id = '' } = useParams()
  const key = Number(id)
  const queries = useQueryClient()
  const navigate = useNavigate()
  const [challenge, setChallenge] = useState('')
  const [without, setWithout] = useState<number[]>([])
  const heats = useHeatsOf(key, Number.isInteger(key))
  const room = useQuery({
    queryKey: ['room', 'class', key],
    queryFn: () => unwrap(client.GET('/api/classes/{id}', { params: { path: { id: key } } })),
    enabled: Number.isInteger(key),
  })
  const challenges = useQuery({ queryKey: ['challenges'], queryFn: () => unwrap(client.GET('/api/challenges')), staleTime: 0 })
  const teams = room.data?.teams ?? []
  const meet = teams.filter((t) => !without.includes(t.id))
  const begin = useMutation({
    mutationFn: () =>
      unwrap(client.POST('/api/classes/{id}/heats', { params: { path: { id: key } }, body: { challenge, teams: meet.map((t) => t.id) } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['room'] })
      await navigate(`/class/${key}/heats/${made.id}`)
    },
  })
  if (heats.error instanceof Problem || !Number.isInteger(key))
    return <NotThere title={heats.error?.message ?? 'There is no such class.'} to="/class" back="Go to the classes" />
  const offered = (challenges.data ?? []).filter((c) => !c.archived)
  return (
    <ClassFrame>
      <main className="page">
        <p className="fine no-print">
          <Link to={`/class/${key}`}>{room.data?.name ?? 'The class'}</Link>
        </p>
        <h1 className="page-title">Heats</h1>
        {heats.data?.length === 0 && <p className="lead">No heats have begun yet. Every pair of teams meets once at a challenge.</p>}
        {heats.data?.map((h) => (
          <section key={h.id} className="rig-row" aria-label={`${h.name}, begun ${new Date(h.beganUtc).toLocaleString()}`}>
            <div>
              <Link to={`/class/${key}/heats/${h.id}`} style={{ fontSize: 17 }}>
                <b>{h.name}</b>
              </Link>
              <span className="fine muted" style={{ display: 'block' }}>
                {h.teams} teams, begun {new Date(h.beganUtc).toLocaleString()}
              </span>
            </div>
            <span>
              {h.held} of {h.all} heats held{h.leads && `; ${h.leads} first`}
            </span>
          </section>
        ))}
        <form
          aria-label="Begin heats"
          onSubmit={(e) => {
            e.preventDefault()
            begin.mutate()
          }}
        >
          <h2 className="small-head" style={{ marginTop: 22 }}>
            Begin heats
          </h2>
          <Choose
            label="Challenge"
            value={challenge}
            onChange={setChallenge}
            width={260}
            all={[['', 'choose a challenge'], ...offered.map((c): [string, string] => [c.id, c.name])]}
          />
          {teams.length > 0 && (
            <fieldset className="plain-set" style={{ marginTop: 10 }}>
              <legend className="fine muted">Who meets, in this order</legend>
              {teams.map((t) => (
                <FormControlLabel
                  key={t.id}
                  control={
                    <Checkbox
                      checked={!without.includes(t.id)}
                      onChange={(e) => setWithout(e.target.checked ? without.filter((x) => x !== t.id) : [...without, t.id])}
                    />
                  }
                  label={t.name}
                />
              ))}
            </fieldset>
          )}
          <p className="row">
            <Button type="submit" variant="contained" disabled={begin.isPending || challenge === '' || meet.length < 2}>
              Begin
            </Button>
            <span className="fine muted">
              {meet.length < 2
                ? 'Two teams at least.'
                : meet.length > 16
                  ? `Sixteen teams at most; here are ${meet.length}.`
                  : `${(meet.length * (meet.length - 1)) / 2} heats in ${meet.length - 1 + (meet.length % 2)} rounds.`}
            </span>
          </p>
          {begin.isError && <Faults sentences={sentencesOf(begin.error)} />}
        </form>
        <p className="fine">
          <Link to="/challenges">Make or change a challenge</Link>
        </p>
      </main>
    </ClassFrame>
  )
}
