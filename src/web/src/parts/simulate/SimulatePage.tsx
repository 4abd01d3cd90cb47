import { useEffect, useRef, useState } from 'react'
import { useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import Slider from '@mui/material/Slider'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Run } from '../../app/api'
import { useLatestRun, useRig, useRunOnce } from '../../app/rig'
import { useSaveScenes, useScenes, type Scene } from '../../app/scenes'
import { show, seconds } from '../../shared/format'
import { Strip } from '../../shared/Strip'
import { savePng, saveSvg } from '../../shared/picture'
import { stateAt } from '../../shared/runAt'
import { Place } from './Place'
import { SceneSheet } from './SceneSheet'
import { NewScene } from './NewScene'
import { WhatIf } from './WhatIf'
import { Playing } from './Playing'
import { Tiles } from './Tiles'

export default function SimulatePage() {
  const { rig } = useRig()
  const [search, setSearch] = useSearchParams()
  const latest = useLatestRun()
  const once = useRunOnce()
  const scenes = useScenes()
  const save = useSaveScenes()
  const asked = search.get('seed')
  const [seed, setSeed] = useState(asked ?? '1')
  const [name, setName] = useState<string | null>(null)
  const [making, setMaking] = useState(false)
  const [line, setLine] = useState<number | null>(null)
  const [playing, setPlaying] = useState<number | null>(null)
  const [plain, setPlain] = useState<Run | null>(null)
  const started = useRef<string | null>(null)
  useEffect(() => {
    if (!asked || started.current === asked) return
    started.current = asked
    setSeed(asked)
    const made = search.get('made')
    once.mutate({ seed: Number(asked), scene: search.get('scene') ?? undefined, copySeed: made === null ? null : Number(made) })
    const next = new URLSearchParams(search)
    next.delete('seed')
    next.delete('made')
    next.delete('scene')
    setSearch(next, { replace: true })
  }, [asked, once, search, setSearch])
  const all = scenes.data?.scenes ?? []
  const run = latest.data ?? null
  const open = all.find((s) => s.name === (name ?? run?.scene)) ?? all.find((s) => s.counts) ?? all[0]
  // What cannot be run is not offered; why stands in its place.
  const hindered = rig.rate.state === 'faults' || rig.rate.state === 'none'
  const own = run && open && run.scene === open.name ? run : null
  const go = (s: number) => once.mutate({ seed: s, scene: open?.name })
  const write = (at: Scene, text: string, what: string, done?: () => void) =>
    save.keep({ texts: all.map((s) => (s.name === at.name ? text : s.text)), what: what.slice(0, 80) }, { onSuccess: done })
  const place = async (at: Scene, l: number, dx: number, dy: number) => {
    const moved = await unwrap(
      client.POST('/api/rigs/{id}/scenes/move', {
        params: { path: { id: rig.id } },
        body: { text: at.text, line: l, dx, dy, copy: rig.copy },
      }),
    )
    write(at, moved.text, `moved something in the scene ${at.name}`)
  }
  return (
    <main className="page simulate">
      <div className="scene-side">
        <div className="row scene-tabs" role="group" aria-label="Scenes">
          {all.map((s) => (
            <button
              key={s.name}
              type="button"
              className="scene-tab"
              aria-pressed={s.name === open?.name && !making}
              onClick={() => {
                setName(s.name)
                setLine(null)
                setMaking(false)
              }}
            >
              {s.name}
              {s.counts && <span className="muted fine"> counts</span>}
            </button>
          ))}
          <button type="button" className="scene-tab" aria-pressed={making} onClick={() => setMaking(true)}>
            New scene
          </button>
        </div>
        {scenes.isError && (
          <p className="fault" role="alert">
            {sentencesOf(scenes.error).join(' ')}
          </p>
        )}
        {making && scenes.data && (
          <NewScene
            scenes={scenes.data}
            open={open}
            busy={save.busy}
            problem={save.problem}
            onMake={(texts, what, to) => {
              save.keep({ texts, what })
              setName(to)
              setMaking(false)
              setLine(null)
            }}
            onLeave={() => setMaking(false)}
          />
        )}
        {!making && open && (
          <SceneSheet
            key={open.name}
            scene={open}
            line={line}
            onLine={setLine}
            onText={(text, what, done) => {
              // A scene that is renamed stays open.
              const called = /^scene (.+)$/m.exec(text)?.[1]
              if (called && called !== open.name) setName(called)
              write(open, text, what, done)
            }}
            busy={save.busy}
            problem={save.problem}
          />
        )}
        {!making && open && open.notes.some((n) => n.line === 0) && (
          <ul className="scene-notes">
            {open.notes
              .filter((n) => n.line === 0)
              .map((n, i) => (
                <li key={i}>{n.say}</li>
              ))}
          </ul>
        )}
      </div>
      <div className="scene-place">
        {playing !== null && open && !hindered ? (
          <Playing
            key={`${open.name} ${playing}`}
            scene={open}
            seed={playing}
            taken={all.map((s) => s.name)}
            onLeave={() => setPlaying(null)}
            onKeep={(text, called) => {
              const s = playing
              save.keep(
                { texts: [...all.map((x) => x.text), text], what: `kept the scene ${called} from a play`.slice(0, 80) },
                {
                  onSuccess: () => {
                    setName(called)
                    setPlaying(null)
                    once.mutate({ seed: s, scene: called })
                  },
                },
              )
            }}
          />
        ) : (
          <>
            <form
              className="row"
              onSubmit={(e) => {
                e.preventDefault()
                go(Number(seed))
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
                sx={{ width: 88 }}
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
                  go(s)
                }}
              >
                Run with another
              </Button>
              <Button disabled={hindered || !open} onClick={() => setPlaying(Number(seed) >= 0 ? Math.floor(Number(seed)) : 1)}>
                Play with it
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
            {!own && open && (
              <>
                {!hindered && !latest.isPending && (
                  <p className="lead">
                    {run
                      ? `The latest run was in ${run.scene}. Run once here to see this scene.`
                      : 'Nothing was run yet. A run puts the rig in its place, runs its programs, and explains every transition with the figures that caused it. The same seed gives the same run.'}
                  </p>
                )}
                <Place
                  plan={open.plan}
                  run={null}
                  t={0}
                  eventIndex={null}
                  line={line}
                  onLine={setLine}
                  onMove={(l, dx, dy) => void place(open, l, dx, dy)}
                />
              </>
            )}
            {own && open && (
              <Watched
                key={own.number}
                run={own}
                beside={own.held.length > 0 && plain?.report.seed === own.report.seed && plain.scene === own.scene ? plain : null}
                scene={open}
                line={line}
                onLine={setLine}
                onMove={(l, dx, dy) => void place(open, l, dx, dy)}
                onRun={(s, held) => {
                  if (own.held.length === 0) setPlain(own)
                  once.mutate({ seed: s, scene: open.name, held })
                }}
                busy={once.isPending}
              />
            )}
          </>
        )}
        {open && playing === null && (
          <p className="fine muted">
            The plan of {open.name} to scale: <Tiles plan={open.plan} name={open.name} />
          </p>
        )}
        {scenes.data && (
          <details className="left-out">
            <summary>What this bench leaves out</summary>
            <table className="ruled fine">
              <thead>
                <tr>
                  <th>What</th>
                  <th>When it matters</th>
                </tr>
              </thead>
              <tbody>
                {scenes.data.leftOut.map((l) => (
                  <tr key={l.what}>
                    <td>{l.what}</td>
                    <td>{l.matters}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </details>
        )}
      </div>
    </main>
  )
}

const speeds = [
  { by: 1, words: 'full speed' },
  { by: 0.5, words: 'half speed' },
  { by: 0.1, words: 'a tenth' },
  { by: 4, words: 'four times' },
]

/** Where two runs on the same luck part, in words. */
function apart(first: Run, second: Run): string {
  const at = second.events.findIndex((e, i) => {
    const o = first.events[i]
    return !o || o.to !== e.to || o.program !== e.program || Math.abs(o.timeS - e.timeS) > 0.05
  })
  if (at < 0) {
    const next = first.events[second.events.length]
    return next ? `They part at ${seconds(next.timeS)}.` : 'Both go the same way.'
  }
  return `They part at ${seconds(Math.min(second.events[at]!.timeS, first.events[at]?.timeS ?? Infinity))}.`
}

type WatchedProps = {
  run: Run
  /** The run on the same luck with nothing held, while this one is a what if. */
  beside: Run | null
  scene: Scene
  line: number | null
  onLine: (line: number | null) => void
  onMove: (line: number, dx: number, dy: number) => void
  onRun: (seed: number, held: { name: string; value: number }[]) => void
  busy: boolean
}

const exports = [
  ['csv', 'samples as CSV'],
  ['events', 'what happened as CSV'],
  ['vcd', 'value changes as VCD'],
] as const

function Watched({ run, beside, scene, line, onLine, onMove, onRun, busy }: WatchedProps) {
  const { rig } = useRig()
  const report = run.report
  const end = report.endS
  const picture = useRef<HTMLDivElement>(null)
  const [trouble, setTrouble] = useState<string | null>(null)
  const [t, setT] = useState(end)
  const [chosen, setChosen] = useState<number | null>(null)
  const [playing, setPlaying] = useState(false)
  const [speed, setSpeed] = useState(0)
  useEffect(() => {
    if (!playing) return
    let last = performance.now()
    let frame = requestAnimationFrame(function tick(now) {
      setT((before) => {
        const next = before + ((now - last) / 1000) * (speeds[speed]?.by ?? 1)
        last = now
        if (next < end) return next
        setPlaying(false)
        return end
      })
      frame = requestAnimationFrame(tick)
    })
    return () => cancelAnimationFrame(frame)
  }, [playing, end, speed])
  const choose = (i: number) => {
    setPlaying(false)
    setChosen(i)
    setT(run.events[i]!.timeS)
  }
  const step = (by: 1 | -1) => {
    const at =
      chosen ?? (by > 0 ? run.events.findIndex((e) => e.timeS > t + 1e-9) - 1 : run.events.filter((e) => e.timeS < t - 1e-9).length)
    const to = at + by
    if (to >= 0 && to < run.events.length) choose(to)
  }
  const state = stateAt(run, t)
  const outputs = report.outputs.filter((o) => o.timeS <= t)
  return (
    <>
      <p style={{ marginBottom: 6 }} data-testid="outcome">
        <b className={run.outcome === 'pass' ? 'holds' : 'stops'}>{run.outcome === 'pass' ? 'Passed' : 'Failed'}</b> Run {run.number},
        revision {run.revision}, seed <span className="mono">{report.seed}</span>. {report.say}
        {run.score !== 0 && <> Score {show(run.score)}.</>}
        {run.held.length > 0 && (
          <span className="muted"> Held: {run.held.map((h) => `${h.name} at ${show(h.value ?? 0)}`).join(', ')}.</span>
        )}
        {run.tried ? (
          <span className="muted"> A try, with {run.tried.map((t) => `“${t}”`).join(' and ')}: nothing was changed.</span>
        ) : (
          !run.current && <span className="muted"> The machine has changed since.</span>
        )}
      </p>
      {beside && (
        <p data-testid="beside" style={{ marginBottom: 6 }}>
          Beside it, dashed, the run on the same luck with nothing held:{' '}
          <b className={beside.outcome === 'pass' ? 'holds' : 'stops'}>{beside.outcome === 'pass' ? 'passed' : 'failed'}</b>.{' '}
          {beside.report.say} {apart(beside, run)}
        </p>
      )}
      <div ref={picture}>
        <Place plan={run.plan} run={run} beside={beside} t={t} eventIndex={chosen} line={line} onLine={onLine} onMove={onMove} />
        <div className="row" style={{ margin: '4px 0' }}>
          <Button
            onClick={() => {
              if (t >= end) setT(0)
              setChosen(null)
              setPlaying(!playing)
            }}
          >
            {playing ? 'Pause' : 'Play'}
          </Button>
          <Button onClick={() => step(-1)}>Back</Button>
          <Button onClick={() => step(1)}>Next transition</Button>
          <Button onClick={() => setSpeed((speed + 1) % speeds.length)} aria-label={`Speed: ${speeds[speed]?.words}`}>
            {speeds[speed]?.words}
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
            sx={{ flex: 1, minWidth: 120, mx: 1 }}
            getAriaValueText={(v) => `${show(v)} s`}
          />
          <span className="mono" style={{ minWidth: 70 }}>
            {seconds(t)}
          </span>
        </div>
        <Strip
          run={run}
          at={t}
          state={state}
          eventIndex={chosen}
          whole
          until={beside?.report.endS}
          onAt={(v) => {
            if (v !== null && !playing) {
              setT(v)
              setChosen(null)
            }
          }}
        />
        {beside && (
          <>
            <h3 className="small-head" style={{ marginTop: 10 }}>
              With nothing held
            </h3>
            <Strip run={beside} at={Math.min(t, beside.report.endS)} state={stateAt(beside, t)} whole until={end} />
          </>
        )}
      </div>
      <div className="simulate-grid" style={{ marginTop: 12 }}>
        <section>
          <h3 className="small-head">Every transition, and why</h3>
          <ol className="events">
            {run.events.slice(0, 400).map((e, i) => (
              <li key={i}>
                <button aria-pressed={chosen === i} onClick={() => choose(i)}>
                  <span className="mono">{seconds(e.timeS)}</span>
                  <span>
                    <b>{e.from === null ? `Begins in ${e.to}` : e.from === e.to ? `Stays in ${e.to}` : `${e.from} to ${e.to}`}</b>
                    {new Set(report.states.map((s) => s.program)).size > 1 ? `, ${e.program}` : ''}
                    {e.place ? `, ${e.place}` : ''}. {e.from !== null && e.say}
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
          {run.events.length > 400 && <p className="muted fine">{run.events.length - 400} more are not listed.</p>}
        </section>
        <section>
          <h3 className="small-head">At {show(t)} s</h3>
          <table className="ruled" style={{ fontSize: 14 }}>
            <tbody>
              {report.states.map((r) => (
                <tr key={`${r.program} ${r.region}`}>
                  <td>{r.region || r.program}</td>
                  <td>
                    <b>{r.stretches.find((s) => t >= s.fromS && t < s.toS)?.state ?? r.stretches.at(-1)?.state}</b>
                  </td>
                </tr>
              ))}
              {[...new Set(outputs.map((o) => o.device))].map((d) => (
                <tr key={d}>
                  <td>{d}</td>
                  <td>{outputs.filter((o) => o.device === d).at(-1)!.say}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {report.notes.length > 0 && (
            <>
              <h3 className="small-head" style={{ marginTop: 14 }}>
                What happened
              </h3>
              <ul className="fine" style={{ paddingLeft: 18 }}>
                {report.notes.slice(0, 30).map((n, i) => (
                  <li key={i}>
                    <span className="mono">{seconds(n.timeS)}</span> {n.say}
                  </li>
                ))}
              </ul>
            </>
          )}
          <WhatIf run={run} busy={busy} onRun={(held) => onRun(report.seed, held)} />
        </section>
      </div>
      <p className="fine muted">
        {scene.name}, at most {show(scene.endsS)} s. Take this run along:{' '}
        {exports.map(([as, words], i) => (
          <span key={as}>
            {i > 0 && ', '}
            <a href={`/api/rigs/${rig.id}/runs/${run.number}/export?as=${as}`} download>
              {words}
            </a>
          </span>
        ))}
        , the picture above as{' '}
        <button type="button" className="link" onClick={() => saveSvg(picture.current!, `${rig.id}-run-${run.number}`)}>
          SVG
        </button>{' '}
        or{' '}
        <button
          type="button"
          className="link"
          onClick={() => {
            setTrouble(null)
            savePng(picture.current!, `${rig.id}-run-${run.number}`).catch((e: Error) => setTrouble(e.message))
          }}
        >
          PNG
        </button>
        .
      </p>
      {trouble && (
        <p className="fault" role="alert">
          The picture could not be made: {trouble}
        </p>
      )}
    </>
  )
}
