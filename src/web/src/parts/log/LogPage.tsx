import { newKey } from '../../app/keys'
import { useEffect, useRef, useState } from 'react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, unwrap, type Schemas } from '../../app/api'
import { useIsTeam } from '../../app/me'
import { partKey, useRig } from '../../app/rig'
import { settings } from '../../app/settings'
import { Faults } from '../../shared/Faults'
import { sentencesOf } from '../../app/api'
import { Spread, type Run } from './Spread'
import { drop, forgetRefused, hold, onSent, put, release, useWaiting } from './waiting'
import { History } from './History'
import { Learnt } from './Learnt'
import { ResultsSheet } from './ResultsSheet'
import { SeriesForm } from './SeriesForm'
import { TakeTable } from './TakeTable'
import { Told } from './Told'
import { Seen } from './Seen'

type LogView = Schemas['LogView']

const clock = (ms: number) => `${Math.floor(ms / 60_000)}:${((ms % 60_000) / 1000).toFixed(1).padStart(4, '0')}`

/** What really happened, kept where it happens: two fields as large as a hand, the stopwatch, and what was promised beside what came. */
export default function LogPage() {
  const { rig, say } = useRig()
  const team = useIsTeam()
  const queries = useQueryClient()
  const key = partKey(rig.id, 'log', rig.copy)
  const log = useQuery({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/log', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  const { waiting, refused, stored, reached } = useWaiting()
  const [begun, setBegun] = useState<number | null>(null)
  const [ms, setMs] = useState(0)
  const [telling, setTelling] = useState<{ key: string; passed: boolean; number: number } | null>(null)
  const [planning, setPlanning] = useState(false)
  const [taking, setTaking] = useState(false)
  const [chosen, setChosen] = useState<number | null>(null)
  useEffect(() => onSent(() => queries.invalidateQueries({ queryKey: partKey(rig.id, 'log', rig.copy) })), [queries, rig.id, rig.copy])
  useEffect(() => {
    if (begun === null) return
    const timer = setInterval(() => setMs(Date.now() - begun), 100)
    return () => clearInterval(timer)
  }, [begun])

  const mine = waiting.filter((w) => w.rig === rig.id && w.copy === rig.copy)
  const back = new Set(mine.flatMap((w) => (w.kind === 'back' && w.back ? [w.line] : [])))
  const view: LogView | undefined = log.data
  const held = view?.held.revision ?? rig.controllerRevision ?? rig.revision
  const revision = chosen ?? held
  const series = mine.flatMap((w) => (w.kind === 'series' ? [w.series] : [])).at(-1) ?? view?.series[0]
  const known = new Set((view?.spreads ?? []).flatMap((s) => s.lines.map((l) => l.key)))
  const more = mine.flatMap((w) => (w.kind === 'line' && !known.has(w.key) && !back.has(w.key) ? [w.line] : []))
  const inSeries = series
    ? (view?.spreads ?? []).flatMap((s) => s.lines).filter((l) => l.series === series.key && !back.has(l.key)).length +
      more.filter((l) => l.series === series.key).length
    : 0
  const full = series && (series.planned ?? 0) > 0 && inSeries >= (series.planned ?? 0)

  const record = (passed: boolean, seen?: Schemas['WaitingRun']) => {
    if (telling) release(telling.key)
    const line = {
      key: seen?.key ?? newKey(),
      revision: seen?.revision ?? revision,
      passed,
      timeUtc: seen?.timeUtc ?? new Date().toISOString(),
      series: series && !full ? series.key : null,
      timeS: seen ? seen.timeS : begun === null ? null : Math.max(0.1, Math.round((Date.now() - begun) / 100) / 10),
      goal: null,
      cause: null,
      causeExpected: false,
      note: null,
      measured: null,
    }
    put({ rig: rig.id, copy: rig.copy, key: line.key, kind: 'line', line, held: hold() })
    if (!seen) {
      setBegun(null)
      setMs(0)
    }
    setTelling({ key: line.key, passed, number: inSeries + 1 })
  }
  const done = (told?: Parameters<typeof release>[1]) => {
    if (telling) release(telling.key, told)
    setTelling(null)
  }
  const takeBack = () => {
    const last = more.at(-1)
    const lines = (view?.spreads ?? []).flatMap((s) => s.lines).filter((l) => !back.has(l.key))
    const latest = last ?? lines.sort((x, y) => Date.parse(x.timeUtc) - Date.parse(y.timeUtc)).at(-1)
    if (!latest) return
    if (telling?.key === latest.key) setTelling(null)
    // What is on its way already is taken back behind it.
    if (!drop(latest.key)) put({ rig: rig.id, copy: rig.copy, key: newKey(), kind: 'back', line: latest.key, back: true })
    say('The last run was taken back.')
  }
  const act = useRef({ record, takeBack })
  act.current = { record, takeBack }
  const watch = () => {
    setMs(0)
    setBegun(begun === null ? Date.now() : null)
  }
  const watching = useRef(watch)
  watching.current = watch
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const at = e.target as HTMLElement
      if (!settings().keys || e.ctrlKey || e.metaKey || e.altKey || at.closest('input, textarea, select, [role="dialog"]')) return
      const pressed = e.key.toLowerCase()
      if (pressed === 'p' || pressed === 'f') act.current.record(pressed === 'p')
      else if (pressed === 's') watching.current()
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [])

  const spreads = view?.spreads ?? []
  // Runs of a series are held against its scene; what waits may belong to a series that waits too.
  const begunSeries = mine.flatMap((w) => (w.kind === 'series' ? [w.series] : []))
  const sceneOf = (key: string | null | undefined) =>
    (key && (begunSeries.find((x) => x.key === key) ?? view?.series.find((x) => x.key === key))?.scene) || ''
  const shown = [...spreads]
  for (const line of more)
    if (!shown.some((s) => s.revision === line.revision && s.scene === sceneOf(line.series)))
      shown.unshift({
        revision: line.revision ?? revision,
        scene: sceneOf(line.series),
        sent: true,
        passes: 0,
        promise: null,
        asPromised: null,
        called: null,
        say: '',
        changed: [],
        settled: null,
        lines: [],
      })
  const runsOf = (s: (typeof shown)[number]): Run[] => [
    ...s.lines.filter((l) => !back.has(l.key)).map((l) => ({ key: l.key, passed: l.passed, cause: l.cause, timeS: l.timeS ?? null })),
    ...more
      .filter((l) => l.revision === s.revision && sceneOf(l.series) === s.scene)
      .map((l) => ({ key: l.key, passed: l.passed === true, cause: l.cause ?? '', timeS: l.timeS ?? null, waits: true })),
  ]
  const count = mine.filter((w) => w.kind === 'line').length
  const conditions = series ? [series.light, series.pack, series.floor, series.who].filter(Boolean).join(', ') : ''

  return (
    <main className="page log-page">
      <div className="row log-held no-print">
        <p data-testid="held">{view?.held.say ?? 'What the controller holds is asked…'}</p>
        {view && view.held.earlier.length + (view.held.now === held ? 0 : 1) > 1 && (
          <TextField
            select
            size="small"
            label="Counts for"
            value={revision}
            onChange={(e) => setChosen(Number(e.target.value))}
            slotProps={{ select: { native: true } }}
          >
            {[...new Set([held, ...view.held.earlier, view.held.now])].map((r) => (
              <option key={r} value={r}>
                revision {r}
              </option>
            ))}
          </TextField>
        )}
      </div>
      <Seen
        runs={(view?.waiting ?? []).filter((r) => !mine.some((w) => w.kind === 'line' && w.key === r.key))}
        onWord={(run, passed) => record(passed, run)}
      />
      <div className="log-press no-print">
        <button type="button" className="log-pass" onClick={() => record(true)}>
          <b>Passed</b>
          <span>key P</span>
        </button>
        <button type="button" className="log-fail" onClick={() => record(false)}>
          <b>Failed</b>
          <span>key F, then why</span>
        </button>
      </div>
      <div className="row log-watch no-print">
        <Button onClick={watch}>{begun === null ? 'Start a run' : 'Stop the watch'}</Button>
        <output className="mono log-clock" aria-label="Stopwatch">
          {clock(ms)}
        </output>
        <span className="muted" data-testid="series-say">
          {series && !full
            ? `run ${inSeries + 1}${series.planned ? ` of a series of ${series.planned}` : ' of a series'}${conditions ? `, ${conditions}` : ''}`
            : full
              ? `the series of ${series?.planned} is complete`
              : 'no series: each run stands by itself'}
        </span>
        <Button variant="text" onClick={() => setPlanning(!planning)} aria-expanded={planning}>
          {series && !full ? 'Another series' : 'Begin a series'}
        </Button>
        <Button onClick={takeBack} disabled={more.length === 0 && spreads.every((s) => s.lines.every((l) => back.has(l.key)))}>
          Take back
        </Button>
      </div>
      {planning && (
        <SeriesForm
          last={series}
          onBegin={(s) => {
            put({ rig: rig.id, copy: rig.copy, key: s.key, kind: 'series', series: s })
            setPlanning(false)
          }}
        />
      )}
      {telling && (
        <Told
          key={telling.key}
          line={telling.key}
          passed={telling.passed}
          number={telling.number}
          causes={view?.causes ?? []}
          onDone={done}
        />
      )}
      {log.isError && !view && <Faults sentences={sentencesOf(log.error)} />}
      {view && shown.length === 0 && (
        <p className="lead">
          Nothing was logged yet. After each run on the table press Passed or Failed; what was promised stands beside what came of it.
        </p>
      )}
      {shown.map((s, i) => (
        <div key={`${s.revision} ${s.scene}`} className="log-spread no-print">
          <Spread spread={s} runs={runsOf(s)} />
          {(s.changed.length > 0 || s.settled) && (
            <p className="muted log-between">
              {s.changed.length > 0 && <>Changed in between: {s.changed.slice(0, 4).join(' ')} </>}
              {s.changed.length > 4 && `And ${s.changed.length - 4} more. `}
              {s.settled}
            </p>
          )}
          {s.promise && s.lines.length > 0 && (
            <Learnt
              key={`${rig.copy} ${s.revision} ${s.scene}`}
              revision={s.revision}
              scene={s.scene}
              called={s.called !== null && s.called !== undefined}
              runs={s.lines.map((l) => `${l.passed ? 1 : 0}${l.timeS ?? ''}`).join(' ')}
              open={i === 0 && s.promise.proof !== null && s.promise.proof !== undefined}
            />
          )}
        </div>
      ))}
      {taking && <TakeTable revision={held} onDone={() => setTaking(false)} />}
      {view && (
        <div className="row log-out no-print">
          <Button component={Link} to={`/rigs/${rig.id}/log/match?copy=${rig.copy}`}>
            Plan a match
          </Button>
          {!team && (
            <Button onClick={() => setTaking(!taking)} aria-expanded={taking}>
              Take in a table
            </Button>
          )}
          <Button component="a" href={`/api/rigs/${rig.id}/log/export?copy=${rig.copy}`} download>
            This copy as CSV
          </Button>
          <Button component="a" href={`/api/rigs/${rig.id}/log/export`} download>
            All copies as CSV
          </Button>
          <Button component="a" href={`/api/rigs/${rig.id}/export`} download>
            Everything as JSON
          </Button>
          <Button onClick={() => window.print()}>Print the results</Button>
        </div>
      )}
      <History />
      {view && <ResultsSheet view={view} />}
      {view && view.copies.length > 1 && (
        <section>
          <h2 className="small-head">Copies side by side</h2>
          <table className="ruled log-copies">
            <tbody>
              {view.copies.map((c) => (
                <tr key={c.copy}>
                  <th scope="row">
                    Copy {c.copy}
                    {c.team && `, ${c.team}`}
                  </th>
                  <td className="mono">
                    {c.passes} of {c.runs}
                  </td>
                  <td>{c.say}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
      {(count > 0 || refused.length > 0 || !stored) && (
        <section className="note" aria-live="polite" data-testid="waiting">
          {count > 0 && !reached && (
            <>
              <p className="severity attention">Waiting to be sent</p>
              <h2>
                {count} {count === 1 ? 'run is' : 'runs are'} kept in this browser
              </h2>
              <p>The bench is out of reach. They go up by themselves when it is back.</p>
            </>
          )}
          {!stored && <p>This browser keeps nothing: what waits is lost when the page is closed before the bench answers.</p>}
          {refused.length > 0 && (
            <>
              <Faults sentences={refused.map((r) => `A run could not be kept. ${r.say}`)} />
              <Button variant="text" onClick={forgetRefused}>
                I have seen it
              </Button>
            </>
          )}
        </section>
      )}
    </main>
  )
}
