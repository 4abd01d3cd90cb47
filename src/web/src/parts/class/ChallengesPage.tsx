import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { RigSelect } from './RigSelect'
import { TakeIn } from './TakeIn'

/** What a heat is scored by, in a few words. */
export const scoredBy: Record<Schemas['HeatScore'], string> = {
  points: 'points',
  time: 'time',
  distance: 'distance',
  stays: 'who stays up',
}

/** All challenges. */
export default function ChallengesPage() {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const [rig, setRig] = useState('')
  const [scene, setScene] = useState('')
  const [away, setAway] = useState(false)
  const challenges = useQuery({ queryKey: ['challenges'], queryFn: () => unwrap(client.GET('/api/challenges')), staleTime: 0 })
  const stuff = useQuery({
    queryKey: ['courses', 'stuff', rig],
    queryFn: () => unwrap(client.GET('/api/courses/stuff', { params: { query: { rig } } })),
    enabled: rig !== '',
  })
  const make = useMutation({
    mutationFn: () => unwrap(client.POST('/api/challenges', { body: { rig, scene } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['challenges'] })
      await navigate(`/challenges/${made.id}`)
    },
  })
  const all = challenges.data ?? []
  const shown = all.filter((c) => c.archived === away)
  return (
    <ClassFrame>
      <main className="page">
        <h1 className="page-title">Challenges</h1>
        <p className="lead">
          A challenge is a scene with scores, and rules in sentences. The teams of a class meet in heats at it, each pair once.
        </p>
        {challenges.data && shown.length === 0 && (
          <p className="lead">{away ? 'No challenge is put away.' : 'There is no challenge yet. Make one of any rig’s scene.'}</p>
        )}
        {shown.map((c) => (
          <section key={c.id} className="rig-row" aria-label={c.name}>
            <div>
              <Link to={`/challenges/${c.id}`} style={{ fontSize: 17 }}>
                <b>{c.name}</b>
              </Link>
              <span className="fine muted" style={{ display: 'block', maxWidth: '62ch' }}>
                {c.task}
              </span>
            </div>
            <span>
              by {scoredBy[c.by]}, {c.together ? 'both in one place' : 'a field for each'}
            </span>
          </section>
        ))}
        {all.some((c) => c.archived) && (
          <Button variant="text" onClick={() => setAway(!away)}>
            {away ? 'Show the others' : 'Show what is put away'}
          </Button>
        )}
        <h2 className="small-head" style={{ marginTop: 22 }}>
          Make one
        </h2>
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault()
            make.mutate()
          }}
        >
          <RigSelect
            label="Of the scene of"
            value={rig}
            none="choose a rig"
            onChange={(r) => {
              setRig(r)
              setScene('')
            }}
          />
          {rig !== '' && (
            <Choose
              label="Scene"
              value={scene}
              onChange={setScene}
              all={[['', 'the one that counts'], ...(stuff.data?.scenes ?? []).map((s): [string, string] => [s, s])]}
            />
          )}
          <Button type="submit" variant="contained" disabled={make.isPending || rig === ''}>
            Make it
          </Button>
        </form>
        {make.isError && <Faults sentences={sentencesOf(make.error)} />}
        <TakeIn
          kind="challenge"
          schema="/api/challenges/schema"
          send={(body) => unwrap(client.POST('/api/challenges/import', { body }))}
          keys={['challenges']}
          to={(id) => `/challenges/${id}`}
        />
        {challenges.isError && <Faults sentences={sentencesOf(challenges.error)} />}
      </main>
    </ClassFrame>
  )
}
