import { useState } from 'react'
import { useMutation, useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query'
import { Link, useParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, Problem, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { NotThere } from './NotThere'
import { Known, Marks } from './Marks'

const fresh = (queries: QueryClient) =>
  Promise.all([queries.invalidateQueries({ queryKey: ['room'] }), queries.invalidateQueries({ queryKey: ['class-lessons'] })])

/** The lessons of a class: handed out, how far each team is, what was handed in. */
export default function ClassLessonsPage() {
  const { id = '' } = useParams()
  const key = Number(id)
  const queries = useQueryClient()
  const [course, setCourse] = useState('')
  const [lesson, setLesson] = useState('')
  const [clock, setClock] = useState(true)
  const path = { id: key }
  const view = useQuery({
    queryKey: ['room', 'class', key],
    queryFn: () => unwrap(client.GET('/api/classes/{id}', { params: { path } })),
    staleTime: 0,
    enabled: Number.isInteger(key),
  })
  const lessons = useQuery({
    // Not at every event of a full room: all lessons of all teams are much to ask for.
    queryKey: ['class-lessons', key],
    queryFn: () => unwrap(client.GET('/api/classes/{id}/lessons', { params: { path } })),
    staleTime: 0,
    refetchInterval: 5_000,
    enabled: Number.isInteger(key),
  })
  const courses = useQuery({ queryKey: ['courses'], queryFn: () => unwrap(client.GET('/api/courses')), staleTime: 0 })
  const chosen = course || courses.data?.find((c) => !c.archived)?.id || ''
  const open = useQuery({
    queryKey: ['courses', chosen],
    queryFn: () => unwrap(client.GET('/api/courses/{course}', { params: { path: { course: chosen } } })),
    enabled: chosen !== '',
  })
  const hand = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/classes/{id}/lessons', {
          params: { path },
          body: { course: chosen, lesson, teams: null, clock: clock && view.data?.open === true },
        }),
      ),
    onSuccess: () => fresh(queries),
  })
  if (view.error instanceof Problem || !Number.isInteger(key))
    return <NotThere title={view.error?.message ?? 'There is no such class.'} to="/class" back="Go to the classes" />
  return (
    <ClassFrame>
      <main className="page">
        <p className="fine no-print">
          <Link to={`/class/${key}`}>{view.data?.name ?? 'Class'}</Link>
        </p>
        <h1 className="page-title">Lessons of the class</h1>
        <p className="only-print">{view.data?.name}</p>
        <section aria-label="Hand out a lesson" className="no-print" style={{ marginTop: 12 }}>
          {view.data?.teams.length === 0 ? (
            <p className="lead">There is no team yet. Once one has joined, lessons can be handed out.</p>
          ) : (
            <div className="row">
              <Choose
                label="Course"
                value={chosen}
                onChange={(id) => {
                  setCourse(id)
                  setLesson('')
                }}
                all={(courses.data ?? []).filter((c) => !c.archived).map((c): [string, string] => [c.id, c.name])}
                width={220}
              />
              <Choose
                label="Lesson"
                value={lesson}
                onChange={setLesson}
                all={[
                  ['', 'choose a lesson'],
                  ...(open.data?.course.lessons ?? []).map((l): [string, string] => [l.name, `${l.name}, ${l.minutes} min`]),
                ]}
                width={240}
              />
              <Button variant="contained" disabled={lesson === '' || hand.isPending} onClick={() => hand.mutate()}>
                Hand it out
              </Button>
              {view.data?.open && (
                <label className="check-line">
                  <input type="checkbox" checked={clock} onChange={(e) => setClock(e.target.checked)} />
                  <span>and let its minutes run</span>
                </label>
              )}
            </div>
          )}
          {hand.data && <p role="status">{hand.data.say}</p>}
          {hand.isError && <Faults sentences={sentencesOf(hand.error)} />}
        </section>
        {lessons.data?.lessons.length === 0 && <p className="lead">No lesson has been handed out to this class yet.</p>}
        {[...(lessons.data?.lessons ?? [])].reverse().map((l) => (
          <One key={`${l.course} ${l.lesson}`} room={key} lesson={l} />
        ))}
        <SkillsOf room={key} />
        {lessons.isError && !lessons.data && <Faults sentences={sentencesOf(lessons.error)} />}
      </main>
    </ClassFrame>
  )
}

/** What each team can do, as far as its practice tells. */
function SkillsOf({ room }: { room: number }) {
  const table = useQuery({
    queryKey: ['room', 'class', room, 'skills'],
    queryFn: () => unwrap(client.GET('/api/classes/{id}/skills', { params: { path: { id: room } } })),
    staleTime: 0,
  })
  if (!table.data || table.data.teams.every((t) => t.skills.every((s) => s.asked === 0))) return null
  return (
    <section aria-label="Skills" className="lesson-before">
      <h2 className="page-title">What they can do</h2>
      <p className="fine muted">From practice alone: how sure it is that at least eight of ten answers are right.</p>
      <div className="wide" tabIndex={0} role="region" aria-label="Skills by team">
        <table className="ruled">
          <thead>
            <tr>
              <th scope="col">Team</th>
              {table.data.skills.map((s) => (
                <th key={s} scope="col">
                  {s}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {table.data.teams.map((t) => (
              <tr key={t.team}>
                <th scope="row">{t.name}</th>
                {t.skills.map((s) => (
                  <td key={s.kind} className={s.say === 'can do it' ? 'good' : s.asked === 0 ? 'muted' : undefined}>
                    {s.say}
                    {s.asked > 0 && <span className="fine muted"> {Math.round(s.sure * 100)} %</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  )
}

function One({ room, lesson: l }: { room: number; lesson: Schemas['ClassLesson'] }) {
  const [shown, setShown] = useState<number | null>(null)
  const team = l.teams.find((t) => t.assignment === shown)
  return (
    <section aria-label={l.lesson} className="lesson-before">
      <h2 className="page-title">{l.lesson}</h2>
      <p className="fine muted">
        {l.courseName}, {l.minutes} min; done when: {l.done}
      </p>
      <div className="wide" tabIndex={0} role="region" aria-label={`Teams with ${l.lesson}`}>
        <table className="ruled">
          <thead>
            <tr>
              <th scope="col">Table</th>
              <th scope="col">Team</th>
              <th scope="col">How far</th>
              <th scope="col">Hints</th>
              <th scope="col">Since</th>
              <th scope="col">Handed in</th>
            </tr>
          </thead>
          <tbody>
            {l.teams.map((t) => {
              const latest = t.handedIn[0]
              return (
                <tr key={t.assignment}>
                  <td className="mono">{t.table}</td>
                  <th scope="row">{t.rig ? <Link to={`/rigs/${t.rig}/program`}>{t.name}</Link> : t.name}</th>
                  <td>
                    {t.met === true && <b className="good">Done: </b>}
                    {t.progress}
                    {t.open > 0 && (
                      <span className="fine muted"> {t.open === 1 ? '1 offer not decided' : `${t.open} offers not decided`}</span>
                    )}
                  </td>
                  <td className="mono">{t.hints}</td>
                  <td className={t.minutes > l.minutes ? 'mono risky' : 'mono'}>{t.minutes} min</td>
                  <td>
                    {latest ? (
                      <Button
                        aria-expanded={shown === t.assignment}
                        aria-label={`What ${t.name} handed in for ${l.lesson}`}
                        onClick={() => setShown(shown === t.assignment ? null : t.assignment)}
                      >
                        {t.handedIn.length === 1 ? 'once' : `${t.handedIn.length} times`}
                        {latest.educatorMarks.length > 0 ? ', marked' : ', mark it'}
                      </Button>
                    ) : (
                      <span className="muted">not yet</span>
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      {team &&
        team.handedIn.map((h) => (
          <section key={h.id} className="handed-in" aria-label={`${team.name}, number ${h.number}`}>
            <h3>
              {team.name}, number {h.number}, {new Date(h.timeUtc).toLocaleString()}
            </h3>
            {h.says && <p className="lead">“{h.says}”</p>}
            <Known handIn={h} />
            <Marks
              key={JSON.stringify([h.teamMarks, h.educatorMarks])}
              handIn={h}
              rubric={l.rubric}
              team={false}
              of={`${team.name}, number ${h.number}`}
            />
          </section>
        ))}
      <Changes room={room} course={l.course} lesson={l.lesson} changed={l.changed} />
    </section>
  )
}

/** What can be offered of a lesson that was changed since it was handed out. */
export function Changes({
  room,
  course,
  lesson,
  rig,
  changed,
}: {
  room: number
  course?: string
  lesson?: string
  rig?: string
  changed: string[]
}) {
  const queries = useQueryClient()
  const [open, setOpen] = useState(false)
  const query = course !== undefined && lesson !== undefined ? { course, lesson } : rig !== undefined ? { rig } : {}
  const changes = useQuery({
    queryKey: ['room', 'class', room, 'changes', query],
    queryFn: () => unwrap(client.GET('/api/classes/{id}/changes', { params: { path: { id: room }, query } })),
    enabled: open,
    staleTime: 0,
  })
  const offer = useMutation({
    mutationFn: (line: string | null) =>
      unwrap(
        client.POST('/api/classes/{id}/changes', {
          params: { path: { id: room } },
          body: { course: course ?? null, lesson: lesson ?? null, rig: rig ?? null, line },
        }),
      ),
    onSuccess: () => fresh(queries),
  })
  const nothing = changes.data && changes.data.lesson.length === 0 && changes.data.lines.length === 0
  return (
    <div className="no-print" style={{ marginTop: 8 }}>
      <Button
        variant="text"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
        aria-label={`What changed since it was handed out: ${lesson ?? rig}`}
      >
        What changed since it was handed out
        {changed.length > 0 && ` (${changed.join(', ')})`}
      </Button>
      {open && nothing && (
        <p className="fine muted">
          Nothing changed that can be offered.
          {changes.data!.rest > 0 && ' Regions, routines and where programs run can only be put in by hand.'}
        </p>
      )}
      {open && changes.data && !nothing && (
        <ul className="plain-list">
          {changes.data.lesson.length > 0 && (
            <li className="row">
              <Button disabled={offer.isPending} onClick={() => offer.mutate(null)}>
                Offer the changed lesson
              </Button>
              <span>{changes.data.lesson.join(', ')}</span>
            </li>
          )}
          {changes.data.lines.map((line) => (
            <li key={line} className="row">
              <Button disabled={offer.isPending} onClick={() => offer.mutate(line)} aria-label={`Offer this line: ${line}`}>
                Offer this line
              </Button>
              <span>{line}</span>
            </li>
          ))}
        </ul>
      )}
      {changes.isError && <Faults sentences={sentencesOf(changes.error)} />}
      {offer.data && <p role="status">{offer.data.say}</p>}
      {offer.isError && <Faults sentences={sentencesOf(offer.error)} />}
    </div>
  )
}
