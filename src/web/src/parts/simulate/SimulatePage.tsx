import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import Slider from '@mui/material/Slider'
import TextField from '@mui/material/TextField'
import { sentencesOf, type Run } from '../../app/api'
import { useLatestRun, useRig, useRunOnce } from '../../app/rig'
import { show, seconds } from '../../shared/format'
import { Strip } from '../../shared/Strip'
import { RailWorld } from './RailWorld'

export default function SimulatePage() {
  const { rig } = useRig()
  const [search, setSearch] = useSearchParams()
  const latest = useLatestRun()
  const once = useRunOnce()
  const asked = search.get('seed')
  const [seed, setSeed] = useState(asked ?? '1')
  const started = useRef<string | null>(null)
  useEffect(() => {
    if (!asked || started.current === asked) return
    started.current = asked
    setSeed(asked)
    once.mutate(Number(asked))
    const next = new URLSearchParams(search)
    next.delete('seed')
    setSearch(next, { replace: true })
  }, [asked, once, search, setSearch])
  const run = latest.data
  // What cannot be run is not offered; why stands in its place.
  const hindered = rig.rate.state === 'faults' || rig.rate.state === 'none'
  const go = () => once.mutate(Number(seed))
  return (
    <main className="page">
      <form
        className="row"
        onSubmit={(e) => {
          e.preventDefault()
          go()
        }}
        style={{ marginBottom: 8 }}
      >
        <h2 className="page-title" style={{ margin: 0 }}>
          One run, watched
        </h2>
        <span className="push" />
        <TextField
          size="small"
          label="Seed"
          value={seed}
          onChange={(e) => setSeed(e.target.value)}
          sx={{ width: 170 }}
          slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
        />
        <Button type="submit" disabled={once.isPending || hindered}>
          Run with this seed
        </Button>
        <Button
          disabled={once.isPending || hindered}
          onClick={() => {
            const s = Math.floor(Math.random() * 1e6)
            setSeed(String(s))
            once.mutate(s)
          }}
        >
          Run with another
        </Button>
      </form>
      {hindered && (
        <p className="fault" data-testid="cannot-run">
          {rig.rate.state === 'faults'
            ? 'The program has faults. Mend them in Program, then run it.'
            : `${rig.rate.say}. ${rig.rate.likely}`}
        </p>
      )}
      {once.isError && (
        <p className="fault" role="alert">
          {sentencesOf(once.error).join(' ')}
        </p>
      )}
      {!run && !latest.isPending && !hindered && (
        <p className="lead">
          Nothing was run yet. A run puts the trolley on its rail, runs the machine, and explains every transition with the figures that
          caused it. The same seed gives the same run.
        </p>
      )}
      {run && <Watched key={run.number} run={run} />}
    </main>
  )
}

function Watched({ run }: { run: Run }) {
  const end = run.report.endS
  const [t, setT] = useState(end)
  const [chosen, setChosen] = useState<number | null>(null)
  const [playing, setPlaying] = useState(false)
  useEffect(() => {
    if (!playing) return
    let last = performance.now()
    let frame = requestAnimationFrame(function tick(now) {
      setT((before) => {
        const next = before + (now - last) / 1000
        if (next < end) return next
        setPlaying(false)
        return end
      })
      last = now
      frame = requestAnimationFrame(tick)
    })
    return () => cancelAnimationFrame(frame)
  }, [playing, end])
  const choose = (i: number) => {
    setPlaying(false)
    setChosen(i)
    setT(run.events[i]!.timeS)
  }
  const state = run.report.states.find((s) => t >= s.fromS && t < s.toS)?.state ?? run.report.states.at(-1)?.state
  const outputs = run.report.outputs.filter((o) => o.timeS <= t)
  return (
    <>
      <p style={{ marginBottom: 6 }} data-testid="outcome">
        <b className={run.outcome === 'pass' ? 'holds' : 'risky'}>{run.outcome === 'pass' ? 'Passed' : 'Failed'}</b> Run {run.number},
        revision {run.revision}, seed <span className="mono">{run.report.seed}</span>. {run.report.say}
        {!run.current && <span className="muted"> The machine has changed since.</span>}
      </p>
      <RailWorld run={run} t={t} eventIndex={chosen} />
      <div className="row" style={{ margin: '2px 0 4px' }}>
        <Button
          onClick={() => {
            if (t >= end) setT(0)
            setChosen(null)
            setPlaying(!playing)
          }}
        >
          {playing ? 'Pause' : 'Play'}
        </Button>
        <Slider
          aria-label="Moment"
          min={0}
          max={end}
          step={0.02}
          value={t}
          onChange={(_, v) => {
            setPlaying(false)
            setChosen(null)
            setT(v as number)
          }}
          sx={{ flex: 1, mx: 1 }}
          getAriaValueText={(v) => `${show(v)} s`}
        />
        <span className="mono" style={{ minWidth: 70 }}>
          {seconds(t)}
        </span>
      </div>
      <Strip
        run={run}
        at={t}
        state={state ?? null}
        eventIndex={chosen}
        onAt={(v) => {
          if (v !== null && !playing) {
            setT(v)
            setChosen(null)
          }
        }}
      />
      <div className="simulate-grid" style={{ marginTop: 12 }}>
        <section>
          <h3 className="small-head">Every transition, and why</h3>
          <ol className="events">
            {run.events.map((e, i) => (
              <li key={i}>
                <button aria-pressed={chosen === i} onClick={() => choose(i)}>
                  <span className="mono">{seconds(e.timeS)}</span>
                  <span>
                    <b>{e.from === null ? `Begins in ${e.to}` : e.from === e.to ? `Stays in ${e.to}` : `${e.from} to ${e.to}`}</b>,{' '}
                    {e.place}. {e.from !== null && e.say}
                    {e.warning && <span className="odd"> {e.warning}</span>}
                    {e.sentence && (
                      <span className="fine muted" style={{ display: 'block' }}>
                        {e.sentence}
                      </span>
                    )}
                  </span>
                </button>
              </li>
            ))}
          </ol>
        </section>
        <section>
          <h3 className="small-head">At {show(t)} s</h3>
          <table className="ruled" style={{ fontSize: 14 }}>
            <tbody>
              <tr>
                <td>State</td>
                <td>
                  <b>{state}</b>
                </td>
              </tr>
              {[...new Set(outputs.map((o) => o.device))].map((d) => (
                <tr key={d}>
                  <td>{d}</td>
                  <td>{outputs.filter((o) => o.device === d).at(-1)!.say}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <h3 className="small-head" style={{ marginTop: 14 }}>
            Drawn for this run
          </h3>
          <table className="ruled" style={{ fontSize: 13 }}>
            <tbody>
              {run.report.draws
                .filter((d) => d.kind !== 'chosen' && !d.name.startsWith('length of'))
                .map((d) => (
                  <tr key={d.name}>
                    <td>{d.name}</td>
                    <td style={{ textAlign: 'right' }}>
                      <span className={`num ${d.kind}`} title={`${d.kind}, usually ${show(d.usual)}`}>
                        {show(d.value)}
                      </span>{' '}
                      {d.unit}
                    </td>
                  </tr>
                ))}
            </tbody>
          </table>
        </section>
      </div>
    </>
  )
}
