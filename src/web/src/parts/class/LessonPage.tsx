import { useEffect, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { ClassFrame } from './ClassFrame'
import { Known, Marks } from './Marks'

type Lesson = Schemas['LessonOfTeam']

/** What a team has been given to do. */
export default function LessonPage() {
  const mine = useQuery({
    queryKey: ['room', 'mine'],
    queryFn: () => unwrap(client.GET('/api/me/lessons')),
    staleTime: 0,
    // How often the machine works is counted meanwhile.
    refetchInterval: 10_000,
  })
  return (
    <ClassFrame>
      <main className="page">
        {mine.isError && !mine.data && <Faults sentences={sentencesOf(mine.error)} />}
        {mine.data?.offers.map((o) => (
          <Offer key={o.id} offer={o} />
        ))}
        {mine.data?.lessons.length === 0 && (
          <>
            <h1 className="page-title">Lesson</h1>
            <p className="lead">No lesson has been handed out to you yet. It stands here as soon as it is.</p>
          </>
        )}
        {mine.data?.lessons.map((l, i) => (
          <One key={l.id} lesson={l} first={i === 0} />
        ))}
      </main>
    </ClassFrame>
  )
}

const useFresh = () => {
  const queries = useQueryClient()
  return () => queries.invalidateQueries({ queryKey: ['room'] })
}

function Offer({ offer }: { offer: Schemas['OfferView'] }) {
  const fresh = useFresh()
  const decide = useMutation({
    mutationFn: (take: boolean) => unwrap(client.POST('/api/offers/{offer}', { params: { path: { offer: offer.id } }, body: { take } })),
    onSuccess: fresh,
  })
  return (
    <section className="note lead-note" aria-label="Offered to you">
      <small>Offered</small>
      <p>{offer.say}</p>
      <div className="row">
        <Button variant="contained" disabled={decide.isPending} onClick={() => decide.mutate(true)}>
          {offer.rig ? 'Take it into our program' : 'Take the new lesson'}
        </Button>
        <Button disabled={decide.isPending} onClick={() => decide.mutate(false)}>
          Stay with ours
        </Button>
      </div>
      {decide.isError && <Faults sentences={sentencesOf(decide.error)} />}
    </section>
  )
}

function One({ lesson: l, first }: { lesson: Lesson; first: boolean }) {
  const fresh = useFresh()
  const [says, setSays] = useState(() => localStorage.getItem(`chiton.says.${l.id}`) ?? '')
  const [rig, setRig] = useState('')
  useEffect(() => {
    // What is typed stays until it is handed in.
    if (says === '') localStorage.removeItem(`chiton.says.${l.id}`)
    else localStorage.setItem(`chiton.says.${l.id}`, says)
  }, [says, l.id])
  const hint = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/lessons/{assignment}/hint', {
          params: { path: { assignment: l.id } },
          body: { number: l.hints.length + 1 },
        }),
      ),
    onSettled: fresh,
  })
  const choose = useMutation({
    mutationFn: () => unwrap(client.POST('/api/lessons/{assignment}/rig', { params: { path: { assignment: l.id } }, body: { rig } })),
    onSettled: fresh,
  })
  const give = useMutation({
    mutationFn: () =>
      unwrap(client.POST('/api/lessons/{assignment}/hand-in', { params: { path: { assignment: l.id } }, body: { says, copy: null } })),
    onSuccess: () => {
      setSays('')
      return fresh()
    },
  })
  const [Title, Sub, Low] = first ? (['h1', 'h2', 'h3'] as const) : (['h2', 'h3', 'h4'] as const)
  const latest = l.handedIn[0]
  return (
    <section aria-label={l.name} className={first ? 'lesson-one' : 'lesson-one lesson-before'}>
      <Title className="page-title">{l.name}</Title>
      {l.offers.map((o) => (
        <Offer key={o.id} offer={o} />
      ))}
      <p className="lead lesson-task">{l.task}</p>
      <dl className="room-codes">
        <div>
          <dt>Done when</dt>
          <dd>{l.done}</dd>
        </div>
        <div>
          <dt>Now</dt>
          <dd>
            <span className={l.met === true ? 'good' : undefined} role="status">
              {l.met === true && 'Done: '}
              {l.progress}
            </span>
          </dd>
        </div>
        <div>
          <dt>Takes about</dt>
          <dd>{l.minutes} min</dd>
        </div>
      </dl>
      {l.rig ? (
        <p>
          <Button component={Link} to={`/rigs/${l.rig}/program`} variant={first ? 'contained' : 'outlined'}>
            Open {l.rigName}
          </Button>{' '}
          <span className="fine muted">
            {l.begins} {l.different !== null && l.different !== undefined && l.different > 0 && `${l.different} changed so far.`}
          </span>
        </p>
      ) : (
        <p className="lead">
          This lesson is about a rig of your own. <Link to="/">Make one</Link>, then choose it here.
        </p>
      )}
      {l.bringsOwn && l.own.length > 0 && (
        <div className="row">
          <Choose
            label="Our rig for it"
            value={rig || (l.rig ?? '')}
            onChange={setRig}
            all={[['', 'choose a rig'], ...l.own.map((r): [string, string] => [r.id, r.name])]}
            width={220}
          />
          <Button disabled={rig === '' || rig === l.rig || choose.isPending} onClick={() => choose.mutate()}>
            Take this one
          </Button>
        </div>
      )}
      {choose.isError && <Faults sentences={sentencesOf(choose.error)} />}
      {l.walks.length > 0 && l.rig && (
        <p className="fine">
          An example to look at:{' '}
          {l.walks.map((w, i) => (
            <span key={w}>
              {i > 0 && ', '}
              <Link to={`/rigs/${l.rig}/program/walk`}>{w}</Link>
            </span>
          ))}
          , kept on the page Walk.
        </p>
      )}
      {l.leavesOut.length > 0 && (
        <details className="fine">
          <summary>Not part of this lesson</summary>
          <p className="muted">{l.leavesOut.join(' · ')}</p>
        </details>
      )}
      {(l.hints.length > 0 || l.moreHints > 0) && (
        <>
          <Sub className="small-head">Hints</Sub>
          {l.hints.length > 0 && (
            <ol>
              {l.hints.map((h) => (
                <li key={h}>{h}</li>
              ))}
            </ol>
          )}
          {l.moreHints > 0 && (
            <Button disabled={hint.isPending} onClick={() => hint.mutate()} aria-label={`Open a hint of ${l.name}`}>
              {l.hints.length === 0 ? `Open a hint (${l.moreHints} left)` : `One more (${l.moreHints} left)`}
            </Button>
          )}
          {hint.isError && <Faults sentences={sentencesOf(hint.error)} />}
        </>
      )}
      <Sub className="small-head">Hand in</Sub>
      {l.rubric.length > 0 && (
        <details className="fine">
          <summary>What it is marked by</summary>
          <ul>
            {l.rubric.map((r) => (
              <li key={r.what}>
                {r.what}: {r.levels.join('; ')}
              </li>
            ))}
          </ul>
        </details>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault()
          give.mutate()
        }}
        style={{ maxWidth: 640 }}
      >
        <TextField
          size="small"
          label={l.question || 'A sentence of your own'}
          value={says}
          onChange={(e) => setSays(e.target.value)}
          multiline
          minRows={2}
          fullWidth
          slotProps={{ htmlInput: { maxLength: 500 } }}
          sx={{ mt: 1.5, mb: 1 }}
        />
        <div className="row">
          <Button type="submit" disabled={give.isPending || !l.rig} variant={l.met === true ? 'contained' : 'outlined'}>
            {latest ? 'Hand in again' : 'Hand in'}
          </Button>
          <span className="fine muted">It is kept as it stands now. You can hand in again; nothing is lost.</span>
        </div>
      </form>
      {give.isError && <Faults sentences={sentencesOf(give.error)} />}
      {l.handedIn.map((h, i) => (
        <section key={h.id} aria-label={`Handed in, ${l.name}, ${h.number}`} className="handed-in">
          <Low>
            Handed in, number {h.number}, at {new Date(h.timeUtc).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' })}
          </Low>
          {h.says && <p className="lead">“{h.says}”</p>}
          <Known handIn={h} />
          {i === 0 || h.teamMarks.length > 0 || h.waits ? (
            <Marks
              key={JSON.stringify([h.teamMarks, h.educatorMarks])}
              handIn={h}
              rubric={l.rubric}
              team
              of={`${l.name}, number ${h.number}`}
            />
          ) : null}
        </section>
      ))}
    </section>
  )
}
