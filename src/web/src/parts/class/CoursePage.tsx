import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate, useParams } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, Problem, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { ClassFrame } from './ClassFrame'
import { NotThere } from './NotThere'
import { RigSelect } from './RigSelect'
import { Moment } from '../../shared/Moment'

export const courseKey = (id: string) => ['courses', id]

/** What a course is, asked for once for all that show it. */
export function useCourse(id: string) {
  return useQuery({
    queryKey: courseKey(id),
    queryFn: () => unwrap(client.GET('/api/courses/{course}', { params: { path: { course: id } } })),
    staleTime: 0,
  })
}

/** One course: its lessons in order. */
export default function CoursePage() {
  const { id = '' } = useParams()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const view = useCourse(id)
  const [rig, setRig] = useState('')
  const [words, setWords] = useState<{ name: string; about: string } | null>(null)
  const [past, setPast] = useState(false)
  const path = { course: id }
  const fresh = () => queries.invalidateQueries({ queryKey: ['courses'] })
  const save = useMutation({
    mutationFn: (course: Schemas['Course']) =>
      unwrap(client.PUT('/api/courses/{course}', { params: { path }, body: { baseVersion: view.data!.version, course } })),
    onSuccess: () => setWords(null),
    onSettled: fresh,
  })
  const add = useMutation({
    mutationFn: () =>
      unwrap(client.POST('/api/courses/{course}/lessons', { params: { path }, body: { baseVersion: view.data!.version, rig } })),
    onSuccess: async () => {
      const at = view.data!.course.lessons.length
      await fresh()
      await navigate(`/courses/${id}/${at}`)
    },
  })
  const versions = useQuery({
    queryKey: [...courseKey(id), 'versions', view.data?.version],
    queryFn: () => unwrap(client.GET('/api/courses/{course}/versions', { params: { path } })),
    enabled: past && view.data !== undefined,
  })
  const back = useMutation({
    mutationFn: (version: number) =>
      unwrap(client.POST('/api/courses/{course}/restore', { params: { path }, body: { baseVersion: view.data!.version, version } })),
    onSettled: fresh,
  })
  const away = useMutation({
    mutationFn: (archived: boolean) => unwrap(client.PUT('/api/courses/{course}/archived', { params: { path }, body: { archived } })),
    onSettled: fresh,
  })
  if (view.error instanceof Problem) return <NotThere title={view.error.message} to="/courses" back="Go to the courses" />
  if (!view.data)
    return (
      <ClassFrame>
        <Moment />
      </ClassFrame>
    )
  const { course, facts } = view.data
  const lessons = course.lessons
  // A lesson that is built on goes before those that build on it.
  const moved = (from: number, to: number) => {
    const next = [...lessons]
    next.splice(to, 0, ...next.splice(from, 1))
    return next
  }
  const sound = (order: Schemas['Lesson'][]) => order.every((l, i) => l.buildsOn.every((b) => order.slice(0, i).some((o) => o.name === b)))
  const busy = save.isPending || add.isPending || back.isPending
  return (
    <ClassFrame>
      <main className="page">
        <p className="fine no-print">
          <Link to="/courses">Courses</Link>
        </p>
        {words ? (
          <form
            onSubmit={(e) => {
              e.preventDefault()
              save.mutate({ ...course, ...words })
            }}
          >
            <div className="row" style={{ margin: '8px 0' }}>
              <TextField
                size="small"
                label="Name of the course"
                autoFocus
                value={words.name}
                onChange={(e) => setWords({ ...words, name: e.target.value })}
                slotProps={{ htmlInput: { maxLength: 60 } }}
                style={{ minWidth: 320 }}
              />
            </div>
            <TextField
              size="small"
              label="What it is for"
              multiline
              value={words.about}
              onChange={(e) => setWords({ ...words, about: e.target.value })}
              slotProps={{ htmlInput: { maxLength: 500 } }}
              fullWidth
              style={{ maxWidth: 640 }}
            />
            <div className="row" style={{ margin: '8px 0 14px' }}>
              <Button type="submit" variant="contained" disabled={busy}>
                Keep
              </Button>
              <Button variant="text" onClick={() => setWords(null)}>
                Leave it as it was
              </Button>
            </div>
          </form>
        ) : (
          <>
            <h1 className="page-title">{course.name}</h1>
            <p className="lead">
              {course.about || 'Nobody has said yet what it is for.'}
              {view.data.archived && ' It is put away.'}
            </p>
          </>
        )}
        <div className="wide" tabIndex={0} role="region" aria-label="Lessons">
          <table className="ruled">
            <thead>
              <tr>
                <th scope="col">No.</th>
                <th scope="col">Lesson</th>
                <th scope="col">Rig</th>
                <th scope="col">Done when</th>
                <th scope="col">Minutes</th>
                <th scope="col">Builds on</th>
                <th scope="col" className="no-print">
                  <span className="hidden-text">What can be done</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {lessons.map((l, i) => (
                <tr key={l.name}>
                  <td className="mono">{i + 1}</td>
                  <th scope="row">
                    <Link to={`/courses/${id}/${i}`}>{l.name}</Link>
                    {facts[i]!.trouble.map((t) => (
                      <span key={t} className="fault" style={{ display: 'block', fontWeight: 400 }}>
                        {t}
                      </span>
                    ))}
                  </th>
                  <td>{facts[i]!.rig || <span className="muted">the teams’ own</span>}</td>
                  <td>{facts[i]!.done}</td>
                  <td className="mono">{l.minutes}</td>
                  <td>{l.buildsOn.length > 0 ? l.buildsOn.join(', ') : <span className="muted">nothing</span>}</td>
                  <td className="no-print">
                    <span className="log-mission-acts">
                      <Button
                        variant="text"
                        aria-label={`${l.name}: earlier`}
                        disabled={busy || i === 0 || !sound(moved(i, i - 1))}
                        onClick={() => save.mutate({ ...course, lessons: moved(i, i - 1) })}
                      >
                        Earlier
                      </Button>
                      <Button
                        variant="text"
                        aria-label={`${l.name}: later`}
                        disabled={busy || i === lessons.length - 1 || !sound(moved(i, i + 1))}
                        onClick={() => save.mutate({ ...course, lessons: moved(i, i + 1) })}
                      >
                        Later
                      </Button>
                      <Button
                        variant="text"
                        aria-label={`Take out ${l.name}`}
                        disabled={busy || lessons.length === 1 || lessons.some((o) => o.buildsOn.includes(l.name))}
                        onClick={() => save.mutate({ ...course, lessons: lessons.filter((o) => o !== l) })}
                      >
                        Take out
                      </Button>
                    </span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {save.isError && <Faults sentences={stale(save.error)} />}
        <form
          className="row no-print"
          style={{ marginTop: 14 }}
          onSubmit={(e) => {
            e.preventDefault()
            add.mutate()
          }}
        >
          <RigSelect label="A lesson more, about" value={rig} onChange={setRig} />
          <Button type="submit" variant="contained" disabled={busy}>
            Add the lesson
          </Button>
        </form>
        {add.isError && <Faults sentences={stale(add.error)} />}
        <p className="row no-print" style={{ marginTop: 22 }}>
          {!words && <Button onClick={() => setWords({ name: course.name, about: course.about })}>Change its name</Button>}
          <Button component="a" href={`/api/courses/${id}/export`}>
            Export the course
          </Button>
          <Button variant="text" aria-expanded={past} onClick={() => setPast(!past)}>
            {past ? 'Hide earlier versions' : 'Earlier versions'}
          </Button>
          <Button variant="text" onClick={() => away.mutate(!view.data.archived)}>
            {view.data.archived ? 'Take it out again' : 'Put it away'}
          </Button>
        </p>
        {past && versions.data && (
          <table className="ruled" aria-label="Versions">
            <tbody>
              {versions.data.map((v) => (
                <tr key={v.number}>
                  <td className="mono">{v.number}</td>
                  <td>{v.what}</td>
                  <td>{new Date(v.timeUtc).toLocaleString()}</td>
                  <td>
                    {v.number === view.data.version ? (
                      <span className="muted">as it is now</span>
                    ) : (
                      <Button
                        variant="text"
                        disabled={busy}
                        onClick={() => back.mutate(v.number)}
                        aria-label={`Bring back version ${v.number}`}
                      >
                        Bring back
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {back.isError && <Faults sentences={stale(back.error)} />}
        {away.isError && <Faults sentences={sentencesOf(away.error)} />}
      </main>
    </ClassFrame>
  )
}

/** What to do where somebody else changed the course first. */
export function stale(error: unknown): string[] {
  return error instanceof Problem && error.status === 409
    ? [
        `Somebody changed the course meanwhile: ${error.detail ?? error.message} It is shown as it is now; do it again if you still want it.`,
      ]
    : sentencesOf(error)
}
