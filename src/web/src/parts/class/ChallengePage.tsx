import { useEffect, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, Problem, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Place } from '../simulate/Place'
import { scoredBy } from './ChallengesPage'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { FieldList } from './FieldDrawing'
import { NotThere } from './NotThere'
import { Part } from './Part'
import { RigSelect } from './RigSelect'
import { Moment } from '../../shared/Moment'

type Challenge = Schemas['Challenge']
// Numbers are kept as typed until they are sent, so that nothing typed is changed under the hand.
type Draft = { challenge: Challenge; typed: Record<string, string>; base: number }

const draftName = (id: string) => `chiton.challenge.${id}`
const readDraft = (id: string): Draft | null => {
  try {
    return JSON.parse(localStorage.getItem(draftName(id)) ?? 'null') as Draft | null
  } catch {
    return null
  }
}

export function useChallenge(id: string) {
  return useQuery({
    queryKey: ['challenges', id],
    queryFn: () => unwrap(client.GET('/api/challenges/{challenge}', { params: { path: { challenge: id } } })),
    staleTime: 0,
  })
}

/** A challenge being written. */
export default function ChallengePage() {
  const { id = '' } = useParams()
  const view = useChallenge(id)
  if (view.error instanceof Problem) return <NotThere title={view.error.message} to="/challenges" back="Go to the challenges" />
  return <ClassFrame>{view.data ? <Writing key={id} id={id} view={view.data} /> : <Moment />}</ClassFrame>
}

function Writing({ id, view }: { id: string; view: Schemas['ChallengeView'] }) {
  const queries = useQueryClient()
  const [draft, setDraft] = useState<Draft | null>(() => readDraft(id))
  const challenge = draft?.challenge ?? view.challenge
  useEffect(() => {
    if (draft) localStorage.setItem(draftName(id), JSON.stringify(draft))
    else localStorage.removeItem(draftName(id))
  }, [draft, id])
  const set = (change: Partial<Challenge>, typed: Record<string, string> = {}) => {
    save.reset()
    setDraft({ challenge: { ...challenge, ...change }, typed: { ...draft?.typed, ...typed }, base: draft?.base ?? view.version })
  }
  // What it comes to is looked at a moment after the last key.
  const [asked, setAsked] = useState(challenge)
  useEffect(() => {
    const later = setTimeout(() => setAsked(challenge), 400)
    return () => clearTimeout(later)
  }, [challenge])
  const look = useQuery({
    queryKey: ['challenges', 'look', JSON.stringify(asked)],
    queryFn: () => unwrap(client.POST('/api/challenges/look', { body: asked })),
    enabled: draft !== null,
    placeholderData: (before) => before,
  })
  const field = draft ? (look.data ?? view.field) : view.field
  const save = useMutation({
    mutationFn: () =>
      unwrap(
        client.PUT('/api/challenges/{challenge}', {
          params: { path: { challenge: id } },
          body: { baseVersion: draft?.base ?? view.version, challenge },
        }),
      ),
    onSuccess: () => setDraft(null),
    onSettled: () => queries.invalidateQueries({ queryKey: ['challenges'] }),
  })
  const away = useMutation({
    mutationFn: (archived: boolean) =>
      unwrap(client.PUT('/api/challenges/{challenge}/archived', { params: { path: { challenge: id } }, body: { archived } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ['challenges'] }),
  })
  const scenes = useQuery({
    queryKey: ['challenges', 'scenes', challenge.rig],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/scenes', { params: { path: { id: challenge.rig } } })),
    enabled: challenge.rig !== '',
    retry: false,
  })
  const fields = save.error instanceof Problem ? save.error.fields : {}
  const wrong = (name: string) => fields[name]?.join(' ') ?? (draft ? field.trouble[name] : undefined)
  const elsewhere = Object.keys(fields).filter((f) => !shownFields.some((s) => f === s || f.startsWith('rules')))
  const number = (name: string, label: string, value: number, onChange: (n: number) => Partial<Challenge>, width = 150) => (
    <TextField
      size="small"
      label={label}
      value={draft?.typed[name] ?? String(value)}
      onChange={(e) => {
        const n = Number(e.target.value.trim().replace(',', '.'))
        // What is no number yet is told, and kept as it was typed.
        set(onChange(e.target.value.trim() === '' || !Number.isFinite(n) ? -1e6 : n), { [name]: e.target.value })
      }}
      error={wrong(name) !== undefined}
      helperText={wrong(name)}
      slotProps={{ htmlInput: { inputMode: 'decimal', maxLength: 9 } }}
      style={{ width }}
    />
  )
  const whole = (name: string, label: string, value: number, onChange: (n: number) => Partial<Challenge>) =>
    number(name, label, value, (n) => onChange(Number.isInteger(n) ? n : -1))
  const second = challenge.second ?? { x: 500, y: 500, facing: 180 }
  return (
    <main className="page lesson-write">
      <p className="fine">
        <Link to="/challenges">Challenges</Link> · <Link to={`/challenges/${id}/sheet`}>On paper</Link>
      </p>
      <h1 className="page-title">{view.challenge.name}</h1>
      {draft && <p role="status">What you changed is not kept yet.</p>}
      <Part title="The task">
        <TextField
          size="small"
          label="Name of the challenge"
          value={challenge.name}
          onChange={(e) => set({ name: e.target.value })}
          error={wrong('name') !== undefined}
          helperText={wrong('name')}
          slotProps={{ htmlInput: { maxLength: 60 } }}
          fullWidth
        />
        <TextField
          size="small"
          label="What is to be done"
          multiline
          minRows={2}
          value={challenge.task}
          onChange={(e) => set({ task: e.target.value })}
          error={wrong('task') !== undefined}
          helperText={wrong('task')}
          slotProps={{ htmlInput: { maxLength: 2000 } }}
          fullWidth
        />
      </Part>
      <Part title="How a heat is won">
        <div className="row">
          <Choose
            label="Scored by"
            value={challenge.by}
            onChange={(by) => set({ by: by as Challenge['by'] })}
            all={Object.entries(scoredBy)}
            fault={wrong('by')}
          />
          <Choose
            label="The two teams of a heat"
            value={challenge.together ? 'one' : 'each'}
            onChange={(v) => set({ together: v === 'one', second: v === 'one' ? second : null })}
            all={[
              ['each', 'have a field each'],
              ['one', 'are both in one place'],
            ]}
          />
          {number('within', `A draw within (${field.unit})`, challenge.within, (within) => ({ within }))}
        </div>
        {challenge.together && (
          <div className="row" role="group" aria-label="Where the second is put down">
            {number('second.x', 'Second: x (mm)', second.x, (x) => ({ second: { ...second, x } }))}
            {number('second.y', 'Second: y (mm)', second.y, (y) => ({ second: { ...second, y } }))}
            {number('second.facing', 'Second: facing (°)', second.facing, (facing) => ({ second: { ...second, facing } }))}
          </div>
        )}
        <div className="row">
          {whole('touches', 'Touches allowed', challenge.touches, (touches) => ({ touches }))}
          {number('touchCost', `A touch costs (${field.unit})`, challenge.touchCost, (touchCost) => ({ touchCost }))}
          {challenge.by !== 'stays' && number('fallCost', `A fall costs (${field.unit})`, challenge.fallCost, (fallCost) => ({ fallCost }))}
          {whole('reruns', 'Re-runs a team', challenge.reruns, (reruns) => ({ reruns }))}
        </div>
      </Part>
      <Part title="The rules">
        <p className="fine muted">One rule a line. What the numbers say is added by itself.</p>
        <TextField
          size="small"
          label="Your rules"
          multiline
          minRows={3}
          value={challenge.rules.join('\n')}
          onChange={(e) => set({ rules: e.target.value.split('\n') })}
          error={Object.keys(field.trouble).some((f) => draft && f.startsWith('rules'))}
          helperText={draft ? Object.entries(field.trouble).find(([f]) => f.startsWith('rules'))?.[1] : undefined}
          fullWidth
        />
        <ul className="challenge-rules">
          {field.sentences.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      </Part>
      <Part title="The scene">
        <div className="row">
          <RigSelect
            label="It speaks of the devices of"
            value={challenge.rig}
            none="choose a rig"
            onChange={(rig) => set({ rig })}
            fault={wrong('rig')}
          />
          {scenes.data && (
            <Choose
              label="Take the scene of the rig"
              value=""
              onChange={(name) => {
                const chosen = scenes.data.scenes.find((s) => s.name === name)
                if (chosen) set({ scene: chosen.text })
              }}
              all={[['', 'choose a scene'], ...scenes.data.scenes.map((s): [string, string] => [s.name, s.name])]}
            />
          )}
        </div>
        <TextField
          label="Its sentences"
          multiline
          minRows={6}
          value={challenge.scene}
          onChange={(e) => set({ scene: e.target.value })}
          error={wrong('scene') !== undefined}
          helperText={wrong('scene')}
          slotProps={{ htmlInput: { spellCheck: false } }}
          sx={{ '& textarea': { fontFamily: 'var(--mono)', fontSize: 13.5 } }}
          fullWidth
        />
        {field.counts.length > 0 && (
          <ul className="challenge-rules mono">
            {field.counts.map((c, i) => (
              <li key={i}>{c}</li>
            ))}
          </ul>
        )}
        {field.plan && <Place plan={field.plan} run={null} t={0} eventIndex={null} line={null} />}
        {field.parts.length > 0 && (
          <div className="wide" tabIndex={0} role="region" aria-label="What the field is built from">
            <FieldList parts={field.parts} />
          </div>
        )}
      </Part>
      {elsewhere.length > 0 && <Faults sentences={elsewhere.map((f) => fields[f]!.join(' '))} />}
      {save.isError && (
        <Faults
          sentences={
            save.error instanceof Problem && save.error.status === 409
              ? ['Somebody changed the challenge meanwhile. Leave your changes to see it, or note them and make them again.']
              : Object.keys(fields).length > 0
                ? ['It is not kept: something above is wrong.']
                : sentencesOf(save.error)
          }
        />
      )}
      <p className="row lesson-keep">
        <Button variant="contained" disabled={!draft || save.isPending} onClick={() => save.mutate()}>
          Keep the challenge
        </Button>
        {draft && (
          <Button
            variant="text"
            onClick={() => {
              save.reset()
              setDraft(null)
            }}
          >
            Leave it as it was
          </Button>
        )}
        <Button component="a" href={`/api/challenges/${id}/export`} variant="text">
          Export it
        </Button>
        <Button variant="text" onClick={() => away.mutate(!view.archived)}>
          {view.archived ? 'Take it out again' : 'Put it away'}
        </Button>
      </p>
      {away.isError && <Faults sentences={sentencesOf(away.error)} />}
    </main>
  )
}

const shownFields = [
  'name',
  'task',
  'by',
  'within',
  'second',
  'second.x',
  'second.y',
  'second.facing',
  'touches',
  'touchCost',
  'fallCost',
  'reruns',
  'rules',
  'rig',
  'scene',
]
