import { useRef, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { RigSelect } from './RigSelect'

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
  const file = useRef<HTMLInputElement>(null)
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
  const bring = useMutation({
    mutationFn: async (chosen: File) => {
      let body
      try {
        body = JSON.parse(await chosen.text())
      } catch {
        throw new SyntaxError(`${chosen.name} is no challenge: it cannot be read as JSON.`)
      }
      return unwrap(client.POST('/api/challenges/import', { body }))
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['challenges'] }),
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
        <p className="row" style={{ marginTop: 14 }}>
          <Button onClick={() => file.current?.click()}>Take in a file</Button>
          <a className="fine" href="/api/challenges/schema" target="_blank" rel="noreferrer">
            What such a file looks like
          </a>
          <input
            ref={file}
            type="file"
            accept=".json,application/json"
            hidden
            aria-label="File of a challenge"
            onChange={(e) => {
              const chosen = e.target.files?.[0]
              if (chosen) bring.mutate(chosen)
              e.target.value = ''
            }}
          />
        </p>
        {bring.data && (
          <p role="status">
            {bring.data.say} <Link to={`/challenges/${bring.data.id}`}>Open it</Link>
          </p>
        )}
        {bring.isError && <Faults sentences={bring.error instanceof SyntaxError ? [bring.error.message] : sentencesOf(bring.error)} />}
        {challenges.isError && <Faults sentences={sentencesOf(challenges.error)} />}
      </main>
    </ClassFrame>
  )
}
