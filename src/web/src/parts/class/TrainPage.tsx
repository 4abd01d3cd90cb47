import { useRef, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { Dots } from './Dots'

const stopped = (error: unknown) => error instanceof DOMException && error.name === 'AbortError'

type Asked = Schemas['ExerciseView']
type Told = Schemas['AnswerView']

/** Practice: one exercise after the other, from the rigs at hand. */
export default function TrainPage() {
  const queries = useQueryClient()
  const [kind, setKind] = useState('')
  const [rig, setRig] = useState('')
  const stop = useRef<AbortController | null>(null)
  const training = useQuery({ queryKey: ['training'], queryFn: () => unwrap(client.GET('/api/training')), staleTime: 0 })
  const answer = useMutation({
    mutationFn: ({ id, body }: { id: number; body: Schemas['AnswerRequest'] }) =>
      unwrap(client.POST('/api/training/{exercise}', { params: { path: { exercise: id } }, body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ['training'] }),
  })
  const next = useMutation({
    mutationFn: () => {
      stop.current = new AbortController()
      return unwrap(client.POST('/api/training/next', { body: { kind, rig }, signal: stop.current.signal }))
    },
    onSuccess: () => answer.reset(),
  })
  const sheet = useMutation({
    mutationFn: () => {
      stop.current = new AbortController()
      return unwrap(client.POST('/api/training/sheet', { body: { count: 6, kind, rig }, signal: stop.current.signal }))
    },
    onSuccess: () => setTimeout(() => window.print(), 300),
  })
  const asked = next.data
  return (
    <ClassFrame>
      <main className="page">
        <div className="no-print">
          <h1 className="page-title">Practise</h1>
          {!asked && (
            <p className="lead">
              Short exercises from your own machines, readings and trials, one at a time. After each answer stands the reason. Nothing is
              counted but how sure it is that you can do it.
            </p>
          )}
          <div className="row">
            <Choose
              label="Kind"
              value={kind}
              onChange={setKind}
              all={[['', 'what is due'], ...(training.data?.skills ?? []).map((s): [string, string] => [s.kind, s.name])]}
            />
            <Choose
              label="Rig"
              value={rig}
              onChange={setRig}
              all={[['', 'any at hand'], ...(training.data?.rigs ?? []).map((r): [string, string] => [r.id, r.name])]}
            />
            <Button variant={asked && !answer.data ? 'outlined' : 'contained'} disabled={next.isPending} onClick={() => next.mutate()}>
              {asked ? 'Next exercise' : 'Begin'}
            </Button>
            <Button variant="text" disabled={sheet.isPending} onClick={() => sheet.mutate()}>
              Print a sheet
            </Button>
            {(next.isPending || sheet.isPending) && (
              <>
                <span role="status">Making it; some need the bench…</span>
                <Button variant="text" onClick={() => stop.current?.abort()}>
                  Stop
                </Button>
              </>
            )}
          </div>
          {next.isError && !stopped(next.error) && <Faults sentences={sentencesOf(next.error)} />}
          {sheet.isError && !stopped(sheet.error) && <Faults sentences={sentencesOf(sheet.error)} />}
          {asked && (
            <One
              key={asked.id}
              asked={asked}
              told={answer.data ?? null}
              busy={answer.isPending}
              onAnswer={(body) => answer.mutate({ id: asked.id, body })}
              onNext={() => next.mutate()}
            />
          )}
          {answer.isError && <Faults sentences={sentencesOf(answer.error)} />}
          {training.data && <Skills skills={training.data.skills} forecasts={training.data.forecasts} />}
          {training.isError && !training.data && <Faults sentences={sentencesOf(training.error)} />}
        </div>
        {sheet.data && <Sheet sheet={sheet.data} />}
      </main>
    </ClassFrame>
  )
}

function Shown({ asked }: { asked: Asked }) {
  return (
    <>
      {asked.program.length > 0 && <pre className="lesson-script exercise-program">{asked.program.join('\n')}</pre>}
      {asked.facts.length > 0 && (
        <ul className="plain-list">
          {asked.facts.map((f) => (
            <li key={f}>{f}</li>
          ))}
        </ul>
      )}
    </>
  )
}

function One({
  asked,
  told,
  busy,
  onAnswer,
  onNext,
}: {
  asked: Asked
  told: Told | null
  busy: boolean
  onAnswer: (body: Schemas['AnswerRequest']) => void
  onNext: () => void
}) {
  const [choice, setChoice] = useState<number | null>(null)
  const [steps, setSteps] = useState<number[]>(() => asked.events.map(() => -1))
  const [number, setNumber] = useState('')
  const said = Number(number.replace(',', '.'))
  const numeric = asked.unit !== null && asked.unit !== undefined
  const ready =
    asked.options.length > 0
      ? choice !== null
      : asked.events.length > 0
        ? steps.every((s) => s >= 0)
        : number.trim() !== '' && Number.isFinite(said)
  return (
    <section aria-label={asked.name} className="exercise">
      <h2 className="small-head">
        {asked.name} <span className="muted">{asked.rig}</span>
      </h2>
      {asked.why && <p className="fine muted">{asked.why}</p>}
      <Shown asked={asked} />
      <form
        onSubmit={(e) => {
          e.preventDefault()
          if (told) onNext()
          else if (ready)
            onAnswer({
              choice: asked.options.length > 0 ? choice : null,
              steps: asked.events.length > 0 ? steps : null,
              number: asked.options.length === 0 && asked.events.length === 0 ? said : null,
            })
        }}
      >
        <p className="exercise-ask">{asked.ask}</p>
        {asked.dots && (
          <Dots
            dots={asked.dots}
            at={number === '' ? null : said}
            best={told?.best ?? null}
            onAt={told ? undefined : (n) => setNumber(String(n))}
          />
        )}
        {asked.options.length > 0 && (
          <fieldset className="plain-set">
            <legend className="hidden-text">{asked.ask}</legend>
            {asked.options.map((o, i) => (
              <label key={o} className={`check-line option${told && i === told.choice ? ' option-right' : ''}`}>
                <input type="radio" name="option" checked={choice === i} disabled={told !== null} onChange={() => setChoice(i)} />
                <span>
                  {o}
                  {told && (
                    <small>
                      {i === told.choice ? 'Right. ' : ''}
                      {told.why[i]}
                    </small>
                  )}
                </span>
              </label>
            ))}
          </fieldset>
        )}
        {asked.events.length > 0 && (
          <ol className="trace">
            {asked.events.map((e, i) => (
              <li key={i}>
                <span>{e}</span>
                <select
                  className="figure level"
                  aria-label={`State after event ${i + 1}`}
                  value={steps[i]}
                  disabled={told !== null}
                  onChange={(x) => setSteps(steps.map((s, k) => (k === i ? Number(x.target.value) : s)))}
                >
                  <option value={-1}>choose</option>
                  {asked.states.map((s, k) => (
                    <option key={s} value={k}>
                      {s}
                    </option>
                  ))}
                </select>
                {told && (
                  <small className={told.firstSlip === i ? 'risky' : 'muted'}>
                    {told.firstSlip === i && 'Here is the first slip. '}
                    {told.steps[i] !== steps[i] && `It is in ${asked.states[told.steps[i]!]}. `}
                    {told.stepsWhy[i]}
                  </small>
                )}
              </li>
            ))}
          </ol>
        )}
        {asked.options.length === 0 && asked.events.length === 0 && (
          <TextField
            size="small"
            autoFocus
            label={
              numeric
                ? `Answer${asked.unit ? `, ${asked.unit}` : ''}`
                : asked.dots
                  ? `Threshold${asked.dots.unit ? `, ${asked.dots.unit}` : ''}`
                  : 'So many of 100'
            }
            value={number}
            disabled={told !== null}
            onChange={(e) => setNumber(e.target.value)}
            slotProps={{ htmlInput: { inputMode: 'decimal', maxLength: 12 } }}
            style={{ margin: '8px 0' }}
          />
        )}
        <div className="row">
          {told ? (
            <Button key="next" type="submit" variant="contained" autoFocus>
              Next exercise
            </Button>
          ) : (
            <Button key="answer" type="submit" variant="contained" disabled={!ready || busy}>
              Answer
            </Button>
          )}
        </div>
      </form>
      {told && (
        <div className="note lead-note" role="status" style={{ marginTop: 14 }}>
          <small className={told.right ? 'good' : ''}>{told.right ? 'Right' : 'Not yet'}</small>
          <p>{told.say}</p>
          {!told.say.includes(told.reason) && <p>{told.reason}</p>}
          <p className="fine muted">
            {told.skill.name.replace('?', '')}: {told.skill.say}.
          </p>
        </div>
      )}
    </section>
  )
}

function Skills({ skills, forecasts }: { skills: Schemas['SkillView'][]; forecasts: number[] }) {
  if (skills.every((s) => s.asked === 0)) return null
  const latest = forecasts.slice(-5)
  return (
    <section aria-label="What you can do" style={{ marginTop: 26 }}>
      <h2 className="small-head">What you can do</h2>
      <table className="ruled" style={{ maxWidth: 620 }}>
        <thead>
          <tr>
            <th scope="col">Skill</th>
            <th scope="col">How it stands</th>
            <th scope="col">Answers</th>
          </tr>
        </thead>
        <tbody>
          {skills.map((s) => (
            <tr key={s.kind}>
              <th scope="row">{s.name}</th>
              <td className={s.say === 'can do it' ? 'good' : undefined}>{s.say}</td>
              <td className="mono">{s.asked}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {latest.length > 0 && (
        <p className="fine muted">
          Your forecasts, the latest last: {latest.map((f) => f.toFixed(2)).join(', ')}. 1 is a sure guess of a sure thing; what comes and
          goes cannot be guessed better than 0.75.
        </p>
      )}
    </section>
  )
}

/** The exercises on paper: the answers on a page of their own, for the back. */
function Sheet({ sheet }: { sheet: Schemas['ExerciseSheet'] }) {
  return (
    <div className="only-print exercise-sheet">
      <h1>Practise</h1>
      {sheet.exercises.map((e, i) => (
        <section key={i}>
          <h2>
            {i + 1}. {e.name} <span>{e.rig}</span>
          </h2>
          <Shown asked={e} />
          {e.dots && <Dots dots={e.dots} at={null} best={null} />}
          <p>
            <b>{e.ask}</b>
          </p>
          {e.options.map((o, k) => (
            <p key={o}>
              {String.fromCharCode(97 + k)}) {o}
            </p>
          ))}
          {e.events.map((x, k) => (
            <p key={k}>
              {k + 1}) {x} ____________________
            </p>
          ))}
          {e.options.length === 0 && e.events.length === 0 && <p>____________________ {e.unit ?? (e.percent ? 'of 100' : e.dots?.unit)}</p>}
        </section>
      ))}
      <section className="exercise-back">
        <h1>Answers</h1>
        <ol>
          {sheet.answers.map((a, i) => (
            <li key={i}>{a}</li>
          ))}
        </ol>
      </section>
    </div>
  )
}
