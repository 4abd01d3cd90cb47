import { useEffect, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, Problem, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { NotThere } from './NotThere'
import { courseKey, stale, useCourse } from './CoursePage'
import { Part } from './Part'
import { RigSelect } from './RigSelect'
import { Moment } from '../../shared/Moment'

type Lesson = Schemas['Lesson']
type Kept = { lesson: Lesson; base: number }

// What is typed stays in the browser until it is kept.
const draftName = (course: string, at: number) => `chiton.lesson.${course}.${at}`
const readDraft = (course: string, at: number): Kept | null => {
  try {
    return JSON.parse(localStorage.getItem(draftName(course, at)) ?? 'null') as Kept | null
  } catch {
    return null
  }
}

/** A lesson being written. */
export default function LessonEditPage() {
  const { id = '', lesson: number = '' } = useParams()
  const at = Number(number)
  const view = useCourse(id)
  const there = view.data?.course.lessons[at]
  if (view.error instanceof Problem || (view.data && !there))
    return (
      <NotThere title={view.error?.message ?? 'There is no such lesson.'} to={view.data ? `/courses/${id}` : '/courses'} back="Go back" />
    )
  return <ClassFrame>{view.data && there ? <Writing key={`${id} ${at}`} id={id} at={at} view={view.data} /> : <Moment />}</ClassFrame>
}

function Writing({ id, at, view }: { id: string; at: number; view: Schemas['CourseView'] }) {
  const queries = useQueryClient()
  const kept = view.course.lessons[at]!
  const [draft, setDraft] = useState<Kept | null>(() => readDraft(id, at))
  const lesson = draft?.lesson ?? kept
  const set = (change: Partial<Lesson>) => {
    save.reset()
    setDraft({ lesson: { ...lesson, ...change }, base: draft?.base ?? view.version })
  }
  useEffect(() => {
    if (draft) localStorage.setItem(draftName(id, at), JSON.stringify(draft))
    else localStorage.removeItem(draftName(id, at))
  }, [draft, id, at])
  const stuff = useQuery({
    queryKey: ['courses', 'stuff', lesson.rig],
    queryFn: () => unwrap(client.GET('/api/courses/stuff', { params: { query: { rig: lesson.rig } } })),
    enabled: lesson.rig !== '',
  })
  const save = useMutation({
    mutationFn: () =>
      unwrap(
        client.PUT('/api/courses/{course}', {
          params: { path: { course: id } },
          // Of the course as it is now only this lesson is another: what others changed in the rest stays.
          body: {
            baseVersion: view.version,
            course: {
              ...view.course,
              lessons: view.course.lessons.map((l, i) =>
                i === at ? lesson : { ...l, buildsOn: l.buildsOn.map((b) => (b === kept.name ? lesson.name.trim() || b : b)) },
              ),
            },
          },
        }),
      ),
    onSuccess: () => setDraft(null),
    onSettled: () => queries.invalidateQueries({ queryKey: courseKey(id) }),
  })
  const start = useMutation({
    mutationFn: (of: { lines?: number[]; fault?: number }) =>
      unwrap(client.POST('/api/courses/start', { body: { rig: lesson.rig, lines: of.lines ?? null, fault: of.fault ?? null } })),
    onSuccess: (made) => set({ script: made.script, answer: made.answer }),
  })
  const gone = leftOut(lesson.script, stuff.data?.sentences ?? [])
  const fields = save.error instanceof Problem ? save.error.fields : {}
  const wrong = (name: string) => fields[`lessons[${at}].${name}`]?.join(' ')
  const known = Object.keys(fields).filter((f) => f.startsWith(`lessons[${at}].`))
  const text = (name: 'name' | 'task' | 'answer', label: string, most: number, lines = 1) => (
    <TextField
      size="small"
      label={label}
      value={lesson[name]}
      onChange={(e) => set({ [name]: e.target.value })}
      multiline={lines > 1}
      minRows={lines}
      error={wrong(name) !== undefined}
      helperText={wrong(name)}
      slotProps={{ htmlInput: { maxLength: most } }}
      fullWidth
    />
  )
  const whole = (value: number, onChange: (n: number) => void, label: string, fault?: string) => (
    <TextField
      size="small"
      label={label}
      value={Number.isFinite(value) && value > 0 ? value : ''}
      onChange={(e) => onChange(Number(e.target.value.replace(/\D/g, '').slice(0, 4)))}
      error={fault !== undefined}
      helperText={fault}
      slotProps={{ htmlInput: { inputMode: 'numeric' } }}
      style={{ width: 130 }}
    />
  )
  const done = lesson.done
  const options = (label: string, value: string, onChange: (v: string) => void, all: [string, string][], fault?: string) => (
    <Choose label={label} value={value} onChange={onChange} all={all} fault={fault} />
  )
  const earlier = view.course.lessons.slice(0, at).map((l) => l.name)
  return (
    <main className="page lesson-write">
      <p className="fine">
        <Link to={`/courses/${id}`}>{view.course.name}</Link> · <Link to={`/courses/${id}/${at}/sheet`}>On paper</Link>
      </p>
      <h1 className="page-title">
        Lesson {at + 1}: {kept.name}
      </h1>
      {draft && (
        <p role="status">
          What you changed is not kept yet.
          {draft.base !== view.version &&
            ' The course was changed meanwhile; keeping this keeps your lesson and leaves the others as they are.'}
        </p>
      )}
      <Part title="The task">
        {text('name', 'Name of the lesson', 60)}
        <div className="row">
          <RigSelect
            label="Rig"
            value={lesson.rig}
            onChange={(rig) => set({ rig, scene: '', walks: [], ...(rig === '' ? { start: 'asItIs', script: '', answer: '' } : {}) })}
          />
          {lesson.rig !== '' &&
            options(
              'Scene that counts',
              lesson.scene,
              (scene) => set({ scene }),
              [['', 'the one that counts already'], ...(stuff.data?.scenes ?? []).map((s): [string, string] => [s, s])],
              wrong('scene'),
            )}
          {whole(lesson.minutes, (minutes) => set({ minutes }), 'Minutes', wrong('minutes'))}
        </div>
        {wrong('rig') && <p className="fault">{wrong('rig')}</p>}
        {text('task', 'Task, in plain words', 2000, 3)}
      </Part>
      <Part title="Done when">
        <div className="row">
          {options('What counts', done.kind, (kind) => set({ done: { ...asked(kind as Lesson['done']['kind']) } }), [
            ['rate', 'it passes in the bench'],
            ['table', 'it passes on the table'],
            ['answer', 'a question is answered'],
          ])}
          {done.kind !== 'answer' && (
            <>
              {whole(done.passes, (passes) => set({ done: { ...done, passes } }), 'Runs that pass', wrong('done.passes'))}
              {whole(done.of, (of) => set({ done: { ...done, of } }), 'Of how many', wrong('done.of'))}
            </>
          )}
        </div>
        {done.kind === 'answer' && (
          <TextField
            size="small"
            label="Question"
            fullWidth
            value={done.question}
            onChange={(e) => set({ done: { ...done, question: e.target.value } })}
            error={wrong('done.question') !== undefined}
            helperText={wrong('done.question')}
            slotProps={{ htmlInput: { maxLength: 300 } }}
          />
        )}
      </Part>
      {lesson.rig !== '' && (
        <Part title="The team begins with">
          <div className="row">
            {options(
              'Program',
              lesson.start,
              (v) => {
                set({ start: v as Lesson['start'], script: '', answer: '' })
              },
              [
                ['asItIs', 'the rig’s own program'],
                ['empty', 'an empty program'],
                ['gaps', 'the program with sentences left out'],
                ['fault', 'the program with one sentence wrong'],
              ],
            )}
          </div>
          {lesson.start === 'gaps' && stuff.data && (
            <fieldset className="plain-set">
              <legend className="fine">Leave out</legend>
              {stuff.data.sentences.map((s) => (
                <label key={s.line} className="check-line">
                  <input
                    type="checkbox"
                    checked={gone.includes(s.line)}
                    onChange={(e) => {
                      const next = e.target.checked ? [...gone, s.line] : gone.filter((l) => l !== s.line)
                      if (next.length > 0) start.mutate({ lines: next })
                      else set({ script: '', answer: '' })
                    }}
                  />
                  <span>
                    <span className="muted fine">{s.where}: </span>
                    {s.text}
                  </span>
                </label>
              ))}
            </fieldset>
          )}
          {lesson.start === 'fault' && stuff.data && (
            <fieldset className="plain-set">
              <legend className="fine">Make wrong</legend>
              {stuff.data.faults.map((f) => (
                <label key={f.number} className="check-line">
                  <input
                    type="radio"
                    name="fault"
                    checked={start.isPending ? start.variables.fault === f.number : lesson.answer === f.say}
                    onChange={() => start.mutate({ fault: f.number })}
                  />
                  <span>{f.say}</span>
                </label>
              ))}
              {stuff.data.faults.length === 0 && <p className="muted">The rig’s program has faults already. Mend them first.</p>}
            </fieldset>
          )}
          {start.isError && <Faults sentences={stale(start.error)} />}
          {(lesson.start === 'gaps' || lesson.start === 'fault') && (
            <>
              {lesson.script !== '' && (
                <details>
                  <summary>The program that the team gets</summary>
                  <pre className="lesson-script">{lesson.script}</pre>
                </details>
              )}
              {wrong('script') && <p className="fault">{wrong('script')}</p>}
              {text('answer', 'Answer, for you alone', 1000, 2)}
            </>
          )}
        </Part>
      )}
      <Offers lesson={lesson} view={view} uses={stuff.data?.uses} onChange={(offered) => set({ offered })} />
      <Part title="Help">
        <Lines
          label="Hints, one a line; they open one by one"
          lines={lesson.hints}
          onChange={(hints) => set({ hints })}
          fault={wrong('hints') ?? known.filter((f) => f.includes('.hints[')).map((f) => fields[f]!.join(' '))[0]}
        />
        {(stuff.data?.walks.length ?? 0) > 0 && (
          <fieldset className="plain-set">
            <legend className="fine">Walks that are shown as examples</legend>
            {stuff.data!.walks.map((w) => (
              <label key={w} className="check-line">
                <input
                  type="checkbox"
                  checked={lesson.walks.includes(w)}
                  onChange={(e) => set({ walks: e.target.checked ? [...lesson.walks, w] : lesson.walks.filter((o) => o !== w) })}
                />
                <span>{w}</span>
              </label>
            ))}
          </fieldset>
        )}
        {earlier.length > 0 && (
          <fieldset className="plain-set">
            <legend className="fine">Builds on</legend>
            {earlier.map((n) => (
              <label key={n} className="check-line">
                <input
                  type="checkbox"
                  checked={lesson.buildsOn.includes(n)}
                  onChange={(e) => set({ buildsOn: e.target.checked ? [...lesson.buildsOn, n] : lesson.buildsOn.filter((o) => o !== n) })}
                />
                <span>{n}</span>
              </label>
            ))}
          </fieldset>
        )}
      </Part>
      <Part title="Rubric">
        {lesson.rubric.map((row, i) => (
          <div key={i} className="rubric-write">
            <TextField
              size="small"
              label={`Row ${i + 1}: what is looked at`}
              value={row.what}
              onChange={(e) => set({ rubric: lesson.rubric.map((r, k) => (k === i ? { ...r, what: e.target.value } : r)) })}
              error={wrong(`rubric[${i}].what`) !== undefined}
              helperText={wrong(`rubric[${i}].what`)}
              slotProps={{ htmlInput: { maxLength: 80 } }}
            />
            <Lines
              label="Levels, one a line, the lowest first"
              lines={row.levels}
              onChange={(levels) => set({ rubric: lesson.rubric.map((r, k) => (k === i ? { ...r, levels } : r)) })}
              fault={wrong(`rubric[${i}].levels`)}
            />
            <Button
              variant="text"
              aria-label={`Take out row ${i + 1}`}
              onClick={() => set({ rubric: lesson.rubric.filter((_, k) => k !== i) })}
            >
              Take out
            </Button>
          </div>
        ))}
        {lesson.rubric.length < 6 && (
          <Button
            style={{ alignSelf: 'flex-start' }}
            onClick={() => set({ rubric: [...lesson.rubric, { what: '', levels: ['not yet', 'partly', 'well'] }] })}
          >
            Add a row
          </Button>
        )}
      </Part>
      <div className="row lesson-keep">
        <Button variant="contained" disabled={!draft || save.isPending || start.isPending} onClick={() => save.mutate()}>
          Keep the lesson
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
        {save.isSuccess && !draft && <span role="status">Kept: {save.data.what}.</span>}
      </div>
      {save.isError && <Faults sentences={stale(save.error)} />}
    </main>
  )
}

const asked = (kind: Lesson['done']['kind']): Lesson['done'] =>
  kind === 'answer'
    ? { kind, passes: 0, of: 0, question: 'What did you find out?' }
    : { kind, passes: kind === 'rate' ? 9 : 7, of: 10, question: '' }

/** Which sentences of the rig's program a lesson leaves out: those that stand nowhere in their state any more. */
export function leftOut(script: string, sentences: Schemas['GapSentence'][]): number[] {
  if (script === '') return []
  const there = new Map<string, number>()
  let state = ''
  for (const line of script.split('\n').map((l) => l.trim())) {
    const head = /^state (.+?)(,|$)/.exec(line)
    if (head) state = head[1]!
    const key = `${state}: ${line}`
    there.set(key, (there.get(key) ?? 0) + 1)
  }
  return sentences
    .filter((s) => {
      const key = `${s.where}: ${s.text}`
      const left = there.get(key) ?? 0
      there.set(key, left - 1)
      return left <= 0
    })
    .map((s) => s.line)
}

/** Several short texts, typed one a line. */
function Lines({
  label,
  lines,
  onChange,
  fault,
}: {
  label: string
  lines: string[]
  onChange: (lines: string[]) => void
  fault?: string | undefined
}) {
  // A line that is just begun is empty: it stays while it is typed.
  const [text, setText] = useState(lines.join('\n'))
  const said = text.split('\n').filter((l) => l.trim() !== '')
  useEffect(() => {
    if (said.join('\n') !== lines.join('\n')) setText(lines.join('\n'))
    // Only what comes from elsewhere takes the place of what is typed.
    // eslint-disable-next-line
  }, [lines])
  return (
    <TextField
      size="small"
      label={label}
      multiline
      minRows={2}
      fullWidth
      value={text}
      onChange={(e) => {
        setText(e.target.value)
        onChange(e.target.value.split('\n').filter((l) => l.trim() !== ''))
      }}
      error={fault !== undefined}
      helperText={fault}
    />
  )
}

/** Which sentences a lesson offers. */
function Offers({
  lesson,
  view,
  uses,
  onChange,
}: {
  lesson: Lesson
  view: Schemas['CourseView']
  uses: Schemas['UsedKinds'] | undefined
  onChange: (offered: Lesson['offered']) => void
}) {
  const o = lesson.offered
  const all = o.triggers == null && o.actions == null && o.regions !== false && o.routines !== false
  const kinds = (
    title: string,
    has: string[] | null | undefined,
    of: Schemas['SentenceKind'][],
    change: (next: string[] | null) => void,
  ) => (
    <fieldset className="plain-set kinds">
      <legend className="fine">{title}</legend>
      {of.map((k) => (
        <label key={k.key} className="check-line">
          <input
            type="checkbox"
            checked={has == null || has.includes(k.key)}
            onChange={(e) => {
              const now = has ?? of.map((x) => x.key)
              const next = of.map((x) => x.key).filter((x) => (x === k.key ? e.target.checked : now.includes(x)))
              change(next.length === of.length ? null : next)
            }}
          />
          <span>
            {k.words} <span className="mono fine muted">{k.example}</span>
          </span>
        </label>
      ))}
    </fieldset>
  )
  const [open, setOpen] = useState(!all)
  return (
    <Part title="Sentences it offers">
      <p className="fine muted">What is not offered is left out of what is proposed, and told kindly where it is typed. It still runs.</p>
      <div className="row">
        <Button
          className="pick"
          aria-pressed={all}
          onClick={() => onChange({ triggers: null, actions: null, regions: true, routines: true })}
        >
          All
        </Button>
        {uses && (
          <Button
            onClick={() => onChange({ triggers: uses.triggers, actions: uses.actions, regions: uses.regions, routines: uses.routines })}
          >
            Just what its program uses
          </Button>
        )}
        <Button variant="text" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? 'Hide the list' : 'Choose one by one'}
        </Button>
      </div>
      {open && (
        <div className="kinds-of">
          {kinds('Triggers', o.triggers, view.triggers, (triggers) => onChange({ ...o, triggers }))}
          {kinds('Actions', o.actions, view.actions, (actions) => onChange({ ...o, actions }))}
          <fieldset className="plain-set kinds">
            <legend className="fine">And</legend>
            {(['regions', 'routines'] as const).map((k) => (
              <label key={k} className="check-line">
                <input type="checkbox" checked={o[k] !== false} onChange={(e) => onChange({ ...o, [k]: e.target.checked })} />
                <span>{k === 'regions' ? 'Several regions' : 'Routines'}</span>
              </label>
            ))}
          </fieldset>
        </div>
      )}
    </Part>
  )
}
