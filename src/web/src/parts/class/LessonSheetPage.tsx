import { Link, useParams } from 'react-router'
import Button from '@mui/material/Button'
import { Problem } from '../../app/api'
import { ClassFrame } from './ClassFrame'
import { NotThere } from './NotThere'
import { useCourse } from './CoursePage'
import { Moment } from '../../shared/Moment'

/** A lesson on paper, with room to write: for tables without a screen. Hints and answers stay with the educator, on a page of their own. */
export default function LessonSheetPage() {
  const { id = '', lesson: number = '' } = useParams()
  const at = Number(number)
  const view = useCourse(id)
  const lesson = view.data?.course.lessons[at]
  if (view.error instanceof Problem || (view.data && !lesson))
    return (
      <NotThere title={view.error?.message ?? 'There is no such lesson.'} to={view.data ? `/courses/${id}` : '/courses'} back="Go back" />
    )
  if (!view.data || !lesson)
    return (
      <ClassFrame>
        <Moment />
      </ClassFrame>
    )
  const facts = view.data.facts[at]!
  const kinds = (title: string, has: string[] | null | undefined, all: { key: string; words: string; example: string }[]) =>
    has == null ? null : (
      <section>
        <h2>{title}</h2>
        <ul>
          {all
            .filter((k) => has.includes(k.key))
            .map((k) => (
              <li key={k.key}>
                {k.words}: <span className="mono">{k.example}</span>
              </li>
            ))}
        </ul>
      </section>
    )
  return (
    <ClassFrame>
      <main className="page paper-sheet">
        <p className="row no-print">
          <Link to={`/courses/${id}/${at}`}>{view.data.course.name}</Link>
          <Button onClick={() => window.print()}>Print</Button>
        </p>
        <h1>
          Lesson {at + 1}: {lesson.name}
        </h1>
        <p className="paper-line">
          <span>Team</span>
          <span>Table</span>
          <span>Date</span>
        </p>
        <p className="lesson-task">{lesson.task}</p>
        <dl className="paper-facts">
          <div>
            <dt>Rig</dt>
            <dd>{facts.rig || 'your own'}</dd>
          </div>
          <div>
            <dt>Done when</dt>
            <dd>{facts.done}</dd>
          </div>
          <div>
            <dt>Takes about</dt>
            <dd>{lesson.minutes} min</dd>
          </div>
        </dl>
        {kinds('What starts a sentence', lesson.offered.triggers, view.data.triggers)}
        {kinds('What a sentence does', lesson.offered.actions, view.data.actions)}
        {(lesson.start === 'gaps' || lesson.start === 'fault') && (
          <section>
            <h2>{lesson.start === 'gaps' ? 'The program; sentences are missing' : 'The program; one sentence was made wrong'}</h2>
            <pre className="lesson-script">{lesson.script}</pre>
          </section>
        )}
        <section>
          <h2>{lesson.done.kind === 'answer' ? lesson.done.question : 'What we found out'}</h2>
          <div className="paper-lines" aria-hidden="true">
            {Array.from({ length: 5 }, (_, i) => (
              <i key={i} />
            ))}
          </div>
        </section>
        {lesson.rubric.length > 0 && (
          <section>
            <h2>Marks</h2>
            <table className="ruled">
              <thead>
                <tr>
                  <th scope="col">What is looked at</th>
                  <th scope="col">Levels</th>
                  <th scope="col">We</th>
                  <th scope="col">Educator</th>
                </tr>
              </thead>
              <tbody>
                {lesson.rubric.map((r) => (
                  <tr key={r.what}>
                    <th scope="row">{r.what}</th>
                    <td>{r.levels.map((l, i) => `${i + 1} ${l}`).join('; ')}</td>
                    <td className="paper-box"></td>
                    <td className="paper-box"></td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        )}
        {(lesson.hints.length > 0 || lesson.answer) && (
          <section className="exercise-back">
            <h1>For the educator: {lesson.name}</h1>
            {lesson.answer && <p>Answer: {lesson.answer}</p>}
            {lesson.hints.length > 0 && (
              <>
                <h2>Hints, to be given one by one</h2>
                <ol>
                  {lesson.hints.map((h) => (
                    <li key={h}>{h}</li>
                  ))}
                </ol>
              </>
            )}
          </section>
        )}
      </main>
    </ClassFrame>
  )
}
