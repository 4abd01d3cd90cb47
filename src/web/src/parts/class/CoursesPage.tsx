import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { ClassFrame } from './ClassFrame'
import { RigSelect } from './RigSelect'
import { TakeIn } from './TakeIn'

/** All courses. */
export default function CoursesPage() {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const [name, setName] = useState('')
  const [rig, setRig] = useState('')
  const [away, setAway] = useState(false)
  const courses = useQuery({ queryKey: ['courses'], queryFn: () => unwrap(client.GET('/api/courses')), staleTime: 0 })
  const make = useMutation({
    mutationFn: () => unwrap(client.POST('/api/courses', { body: { name, rig } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['courses'] })
      await navigate(`/courses/${made.id}/0`)
    },
  })
  const all = courses.data ?? []
  const shown = all.filter((c) => c.archived === away)
  return (
    <ClassFrame>
      <main className="page">
        <h1 className="page-title">Courses</h1>
        <p className="lead">
          A course is lessons in order. A lesson has a rig, a task in plain words, and what counts as done; it is handed out to a class, and
          each team gets a rig of its own for it.
        </p>
        {courses.data && shown.length === 0 && (
          <p className="lead">{away ? 'No course is put away.' : 'There is no course yet. Make one from any rig.'}</p>
        )}
        {shown.map((c) => (
          <section key={c.id} className="rig-row" aria-label={c.name}>
            <div>
              <Link to={`/courses/${c.id}`} style={{ fontSize: 17 }}>
                <b>{c.name}</b>
              </Link>
              {c.about && (
                <span className="fine muted" style={{ display: 'block', maxWidth: '62ch' }}>
                  {c.about}
                </span>
              )}
            </div>
            <span>
              {c.lessons === 1 ? '1 lesson' : `${c.lessons} lessons`}, {c.minutes} min
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
          <TextField
            size="small"
            label="Name of a new course"
            value={name}
            onChange={(e) => setName(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <RigSelect label="Its first lesson is about" value={rig} onChange={setRig} />
          <Button type="submit" variant="contained" disabled={make.isPending}>
            Make it
          </Button>
        </form>
        {make.isError && <Faults sentences={sentencesOf(make.error)} />}
        <TakeIn
          kind="course"
          schema="/api/courses/schema"
          send={(body) => unwrap(client.POST('/api/courses/import', { body }))}
          keys={['courses']}
          to={(id) => `/courses/${id}`}
        />
        {courses.isError && <Faults sentences={sentencesOf(courses.error)} />}
      </main>
    </ClassFrame>
  )
}
