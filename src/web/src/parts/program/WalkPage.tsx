import { useEdit } from '../../app/edit'
import { useEffect, useRef, useState } from 'react'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, Problem, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useProgram, useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { Views } from './Views'
import { Moment } from '../../shared/Moment'

type Step = { name: string | null; afterMs: number }
type Kept = Schemas['KeptWalk']
const together = '~together'

/** The machine stepped by hand, without motors and sensors, the way it is traced on the board. */
export default function WalkPage() {
  const { rig } = useRig()
  const program = useProgram()
  const [steps, setSteps] = useState<Step[]>([])
  const [from, setFrom] = useState('')
  const [typed, setTyped] = useState('')
  const [fault, setFault] = useState<string[]>([])
  // A kept walk that is being shown: its steps that are still to come.
  const [lesson, setLesson] = useState<Kept | null>(null)
  const [name, setName] = useState('')
  const [note, setNote] = useState('')
  const end = useRef<HTMLLIElement>(null)
  const script = program.data?.script ?? ''
  const all = from === together
  const several = (program.data?.programs ?? []).filter((p) => p.runs).length > 1
  const own = program.data?.programs.find((p) => p.index === program.data.index)?.name ?? null
  const ready = program.data !== undefined && (all || (program.data.diagnostics.length === 0 && program.data.blocks.some((b) => b.owner)))
  const walk = useQuery({
    queryKey: ['walk', rig.id, rig.revision, script, from, steps],
    enabled: ready,
    queryFn: () =>
      unwrap(
        client.POST('/api/walk', {
          body: {
            format: 'script',
            source: all ? null : script,
            rigId: rig.id,
            rig: null,
            from: all ? null : from || null,
            together: all,
            events: steps.map((s) => ({ name: s.name, data: null, afterMs: s.afterMs })),
          },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })
  const kept = useQuery({
    queryKey: ['part', rig.id, 'walks', rig.revision],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/walks', { params: { path: { id: rig.id } } })),
  })
  const keep = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/walks', {
          params: { path: { id: rig.id } },
          body: {
            baseRevision: rig.revision,
            name,
            program: all ? null : own,
            from: all ? null : from || null,
            note,
            steps: steps.map((s) => ({ event: s.name, afterMs: s.afterMs })),
            copy: rig.copy,
            by: tabId,
          },
        }),
      ),
    done: () => {
      setName('')
      setNote('')
    },
  })
  const forget = useEdit({
    call: (which: string) =>
      unwrap(
        client.DELETE('/api/rigs/{id}/walks/{name}', {
          params: { path: { id: rig.id, name: which }, query: { baseRevision: rig.revision, copy: rig.copy, by: tabId } },
        }),
      ),
    done: () => setLesson(null),
    aloud: true,
  })
  // A finding is followed to where it comes true.
  const [params, setParams] = useSearchParams()
  const finding = params.get('finding')
  const findings = useQuery({
    queryKey: [...partKey(rig.id, 'check', rig.copy), 'findings'],
    enabled: finding !== null,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/findings', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  const followed = useRef<string | null>(null)
  useEffect(() => {
    if (finding === null || !findings.data || !program.data || followed.current === finding) return
    followed.current = finding
    const next = new URLSearchParams(params)
    next.delete('finding')
    setParams(next, { replace: true })
    const found = findings.data.find((f) => f.key === finding)
    if (!found?.walk) return
    setLesson({
      walk: {
        name: `${found.headline}.`,
        program: several ? null : own,
        from: null,
        note: found.say,
        steps: found.walk,
        ends: [],
      },
      holds: true,
      say: '',
    })
    setFrom(several ? together : '')
    setSteps([])
    // What is read here is fixed once the three are there.
    // eslint-disable-next-line
  }, [finding, findings.data, program.data])
  // An event that means nothing is taken back, and what was wrong with it stays to be read.
  useEffect(() => {
    if (!(walk.error instanceof Problem)) return
    const last = Object.entries(walk.error.fields).find(([k]) => k.startsWith('events['))
    if (!last) return
    setFault(last[1])
    setSteps((s) => s.slice(0, -1))
  }, [walk.error])
  useEffect(() => {
    end.current?.scrollIntoView({ block: 'nearest' })
  }, [walk.data])

  if (!program.data) return <Moment />
  const to = (next: Step[]) => {
    setFault([])
    setSteps(next)
  }
  const add = (event: string | null, afterMs = 0) => to([...steps, { name: event, afterMs }])
  const begin = (at: string) => {
    setFrom(at)
    setLesson(null)
    to([])
  }
  const showLesson = (k: Kept) => {
    if (k.walk.program !== null && k.walk.program !== own) return
    setLesson(k)
    setFrom(k.walk.program === null ? together : (k.walk.from ?? ''))
    to([])
  }
  const planned = lesson?.walk.steps ?? []
  const ahead = planned.slice(steps.length)
  const onScript = lesson !== null && steps.every((s, i) => s.name === (planned[i]?.event ?? null) && s.afterMs === planned[i]?.afterMs)
  const moments = walk.data?.moments ?? []
  const now = moments.at(-1)
  const events = [...new Set((now?.waiting ?? []).map((w) => w.event).filter((e): e is string => e !== null))]
  const stepName = (s: { event: string | null; afterMs: number }) =>
    s.event === null ? `${show(s.afterMs / 1000, 4)} s pass` : s.afterMs > 0 ? `${s.event}, ${show(s.afterMs / 1000, 4)} s later` : s.event
  return (
    <main>
      <div className="program">
        <section className="sheet" aria-label="Walk through">
          <Views at="walk" />
          {!all && program.data.diagnostics.length > 0 ? (
            <p className="lead">Mend the faults in the sheet first: a machine that cannot be read cannot be walked.</p>
          ) : !all && !program.data.blocks.some((b) => b.owner) ? (
            <p className="lead">A program has states, and a state has lines. Write the first in the sheet, then walk it here.</p>
          ) : (
            <>
              <p className="fine muted">
                Choose what happens next, and see which sentences go and why the others do not. Nothing moves: you are the sensors and the
                motors.
              </p>
              <div className="row" style={{ margin: '8px 0' }}>
                <label>
                  Begin with{' '}
                  <select className="figure" aria-label="Begin with" value={from} onChange={(e) => begin(e.target.value)}>
                    <option value="">the whole program</option>
                    {several && <option value={together}>all programs together</option>}
                    {(all ? [] : (walk.data?.parts ?? [])).map((p) => (
                      <option key={p}>{p}</option>
                    ))}
                  </select>
                </label>
                <Button disabled={steps.length === 0} onClick={() => to(steps.slice(0, -1))}>
                  Go back one
                </Button>
                <Button variant="text" disabled={steps.length === 0} onClick={() => to([])}>
                  Begin again
                </Button>
              </div>
              {walk.isError && fault.length === 0 && <Faults sentences={sentencesOf(walk.error)} />}
              {lesson && (
                <section className="note" aria-label="Lesson example">
                  <h2 className="small-head" style={{ marginBottom: 2 }}>
                    {lesson.walk.name}
                  </h2>
                  {lesson.walk.note && <p>{lesson.walk.note}</p>}
                  <div className="row">
                    {ahead.length > 0 && onScript && (
                      <Button
                        variant="contained"
                        onClick={() => add(ahead[0]!.event, ahead[0]!.afterMs)}
                      >{`Next: ${stepName(ahead[0]!)}`}</Button>
                    )}
                    {ahead.length > 1 && onScript && (
                      <Button onClick={() => to(planned.map((s) => ({ name: s.event, afterMs: s.afterMs })))}>To its end</Button>
                    )}
                    {!onScript && <span className="fine">You have left the example. Go back, or begin again.</span>}
                    {ahead.length === 0 && onScript && <span className="fine">This is its end. {lesson.holds ? '' : lesson.say}</span>}
                    <span className="fine muted">
                      Step {Math.min(steps.length, planned.length)} of {planned.length}
                    </span>
                    <Button variant="text" onClick={() => setLesson(null)}>
                      Leave the example
                    </Button>
                  </div>
                </section>
              )}
              {now && (
                <>
                  <h2 className="hidden-text">Where it stands</h2>
                  <p data-testid="walk-states" style={{ fontSize: 17, margin: '10px 0' }} aria-live="polite">
                    {now.states.map((s, i) => (
                      <span key={s}>
                        {i > 0 && ', '}
                        <b>{s}</b>
                      </span>
                    ))}
                    <span className="muted fine">
                      {' '}
                      at {show(now.timeS, 4)} s{now.finished ? ', at its end' : ''}
                    </span>
                  </p>
                  {(now.inside ?? []).length > 0 && (
                    <p className="fine" style={{ margin: '2px 0' }} data-testid="walk-inside">
                      Inside: {now.inside!.join(', ')}.
                    </p>
                  )}
                  {(now.onTheWay ?? []).map((m, i) => (
                    <p key={i} className="fine" style={{ margin: '2px 0', color: 'var(--mussel)' }}>
                      On its way: {m}.
                    </p>
                  ))}
                  {now.fault && (
                    <p className="fault" role="alert">
                      {now.fault}
                    </p>
                  )}
                  {!now.finished && !now.fault && (
                    <section aria-label="What happens next">
                      <h3 className="small-head">What happens next?</h3>
                      <div className="row" style={{ gap: 8 }}>
                        {events.map((e) => (
                          <Button key={e} onClick={() => add(e)}>
                            {e}
                          </Button>
                        ))}
                        {now.nextDueS !== null && (
                          <Button
                            onClick={() => add(null, Math.ceil(now.nextDueS! * 1e6) / 1000)}
                          >{`${show(now.nextDueS, 3)} s pass`}</Button>
                        )}
                      </div>
                      <form
                        className="row"
                        style={{ marginTop: 8 }}
                        onSubmit={(e) => {
                          e.preventDefault()
                          if (typed.trim()) {
                            add(typed.trim())
                            setTyped('')
                          }
                        }}
                      >
                        <label>
                          Another event{' '}
                          <input
                            className="figure"
                            style={{ width: 240 }}
                            value={typed}
                            onChange={(e) => setTyped(e.target.value)}
                            placeholder={rig.devices[0] ? 'such as Range reads 50 mm' : ''}
                            aria-label="Another event"
                          />
                        </label>
                        <Button type="submit" disabled={typed.trim() === ''}>
                          Let it happen
                        </Button>
                        <Button onClick={() => add(null, 1000)}>1 s passes</Button>
                      </form>
                      {fault.length > 0 && <Faults sentences={fault} />}
                    </section>
                  )}
                  <h3 className="small-head" style={{ marginTop: 14 }}>
                    What happened
                  </h3>
                  <ol className="events" data-testid="walk-steps">
                    {moments.map((m, i) => (
                      <li key={i} ref={i === moments.length - 1 ? end : undefined}>
                        <button
                          type="button"
                          aria-pressed={i === moments.length - 1}
                          onClick={() => to(steps.slice(0, i))}
                          title={i === moments.length - 1 ? 'Here it stands' : 'Go back to here'}
                        >
                          <span className="mono">{show(m.timeS, 4)} s</span>
                          <span>
                            <b>{m.event ?? 'It starts'}</b>
                            {m.taken.length === 0 && m.event !== null && <span className="muted">, and no sentence goes</span>}
                            {m.taken.map((t, k) => (
                              <span key={k} style={{ display: 'block' }} className="fine">
                                {t.program ? `${t.program}, ` : ''}
                                {t.state}: {t.text}
                              </span>
                            ))}
                            {m.commands.map((c, k) => (
                              <span key={k} style={{ display: 'block', color: 'var(--teal)' }} className="fine">
                                {c}
                              </span>
                            ))}
                          </span>
                        </button>
                      </li>
                    ))}
                  </ol>
                  {steps.length > 0 && !now.fault && (
                    <form
                      className="row"
                      style={{ marginTop: 12 }}
                      onSubmit={(e) => {
                        e.preventDefault()
                        if (name.trim()) keep.mutate()
                      }}
                    >
                      <label>
                        Keep this walk as an example that shows{' '}
                        <input
                          className="figure"
                          style={{ width: 230 }}
                          value={name}
                          maxLength={80}
                          onChange={(e) => setName(e.target.value)}
                          aria-label="What the walk shows"
                        />
                      </label>
                      <label>
                        and ask{' '}
                        <input
                          className="figure"
                          style={{ width: 260 }}
                          value={note}
                          maxLength={500}
                          onChange={(e) => setNote(e.target.value)}
                          aria-label="What to ask"
                        />
                      </label>
                      <Button type="submit" disabled={name.trim() === '' || keep.isPending}>
                        {(kept.data ?? []).some((k) => k.walk.name === name.trim()) ? 'Keep it anew' : 'Keep it'}
                      </Button>
                      {keep.isError && <Faults sentences={sentencesOf(keep.error)} />}
                    </form>
                  )}
                </>
              )}
            </>
          )}
        </section>
        <aside className="margin" aria-label="What it waits for">
          <h2 className="small-head">What it waits for</h2>
          {(now?.waiting ?? []).map((w, i) => (
            <div key={i} className="note">
              <p style={{ marginBottom: 2 }}>{w.text}</p>
              <p className="fine muted" style={{ marginBottom: 0 }}>
                {w.program ? `${w.program}, ` : ''}
                {w.state}: {w.why}.
              </p>
            </div>
          ))}
          {now && now.waiting.length === 0 && <p className="fine">Nothing: no sentence of these states can lead on.</p>}
          {now && now.values.length > 0 && (
            <>
              <h2 className="small-head" style={{ marginTop: 14 }}>
                Variables and queues
              </h2>
              <table className="ruled" data-testid="walk-values">
                <tbody>
                  {now.values.map((v) => (
                    <tr key={v.name}>
                      <td>{v.name}</td>
                      <td className="mono" style={{ textAlign: 'right' }}>
                        {v.value}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </>
          )}
          {(kept.data ?? []).length > 0 && (
            <section aria-label="Examples for lessons" style={{ marginTop: 16 }}>
              <h2 className="small-head">Examples for lessons</h2>
              {kept.data!.map((k) => (
                <div key={k.walk.name} className="note">
                  <p style={{ marginBottom: 2 }}>
                    <b>{k.walk.name}</b>{' '}
                    <span className="fine muted">
                      {k.walk.program ?? 'all programs'}, {k.walk.steps.length} {k.walk.steps.length === 1 ? 'step' : 'steps'}
                    </span>
                  </p>
                  {!k.holds && <p className="fine risky">{k.say}</p>}
                  <span className="row">
                    {k.walk.program === null || k.walk.program === own ? (
                      <Button onClick={() => showLesson(k)}>Walk it</Button>
                    ) : (
                      <span className="fine muted">Open {k.walk.program} to walk it.</span>
                    )}
                    <Button
                      variant="text"
                      aria-label={`Take out ${k.walk.name}`}
                      disabled={forget.isPending}
                      onClick={() => forget.mutate(k.walk.name)}
                    >
                      Take out
                    </Button>
                  </span>
                </div>
              ))}
            </section>
          )}
        </aside>
      </div>
    </main>
  )
}
