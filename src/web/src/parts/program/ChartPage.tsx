import { useEffect, useMemo, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { Link, useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap } from '../../app/api'
import { partKey, useProgram, useProgramIndex, useRig } from '../../app/rig'
import { betterLayouts, quickLayout, scales, type Laid } from './chartLayout'
import { Views } from './Views'
import { Moment } from '../../shared/Moment'

/** The program as boxes and arrows, laid out anew whenever it changes. It is read here and written in the sheet. */
export default function ChartPage() {
  const { rig } = useRig()
  const { search } = useLocation()
  const go = useNavigate()
  const program = useProgram().data
  const which = useProgramIndex()
  const chart = useQuery({
    queryKey: [...partKey(rig.id, 'chart', rig.copy), program?.revision, which ?? null],
    enabled: program !== undefined,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/program/chart', { params: { path: { id: rig.id }, query: { program: which } } })),
  })
  const drawing = chart.data
  const [found, setFound] = useState<{ of: typeof drawing; laid: Laid } | null>(null)
  const [looking, setLooking] = useState<{ done: number; of: number } | null>(null)
  const seeker = useRef<AbortController | null>(null)
  const first = useMemo(() => (drawing ? quickLayout(drawing) : null), [drawing])
  // The first layout stands at once; better ones take its place as they are found.
  useEffect(() => {
    if (!drawing || drawing.boxes.length === 0) return
    const stop = new AbortController()
    seeker.current = stop
    const room = { width: Math.max(280, window.innerWidth - 216), height: Math.max(320, window.innerHeight - 240) }
    void betterLayouts(drawing, room, stop.signal, {
      laid: (laid) => setFound({ of: drawing, laid }),
      progress: (done, of) => setLooking({ done, of }),
    })
      .catch((e: unknown) => {
        if (!stop.signal.aborted) console.error(e)
      })
      .finally(() => {
        if (seeker.current === stop) setLooking(null)
      })
    return () => stop.abort()
  }, [drawing])
  const svg = useRef<SVGSVGElement>(null)
  const frame = useRef<HTMLDivElement>(null)
  const [zoom, setZoom] = useState<number | null>(null)
  const [fit, setFit] = useState({ whole: 1, reading: 1 })
  const [at, setAt] = useState<string | null>(null)
  const laid = found && found.of === drawing ? found.laid : first
  useEffect(() => {
    const f = frame.current
    if (!f || !laid) return
    const look = () => setFit(scales(laid, { width: f.clientWidth, height: Math.max(320, window.innerHeight - 210) }))
    look()
    const watch = new ResizeObserver(look)
    watch.observe(f)
    return () => watch.disconnect()
  }, [laid])
  const scale = zoom ?? fit.reading
  // It opens where the machine begins; whoever has scrolled stays where they are.
  const shown = useRef<typeof drawing>(undefined)
  useEffect(() => {
    const f = frame.current
    const begins = laid?.boxes.find((b) => b.box.initial)
    if (!f || !begins || shown.current === drawing) return
    if (!laid!.rough) shown.current = drawing
    f.scrollLeft = Math.max(0, (begins.x + begins.w / 2) * scale - f.clientWidth / 2)
    f.scrollTop = Math.max(0, (begins.y - 95) * scale)
  }, [laid, drawing, scale])
  const save = () => {
    if (!svg.current) return
    // Colours are written out: outside this page nobody knows their names.
    const style = getComputedStyle(document.documentElement)
    const text = new XMLSerializer()
      .serializeToString(svg.current)
      .replace(/var\((--[\w-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim())
    const link = document.createElement('a')
    link.href = URL.createObjectURL(new Blob([text], { type: 'image/svg+xml' }))
    link.download = `${rig.id}-chart.svg`
    link.click()
    URL.revokeObjectURL(link.href)
  }
  const move = (e: React.KeyboardEvent, id: string) => {
    if (!laid) return
    const states = laid.boxes.filter((b) => b.box.kind !== 'region' && b.box.kind !== 'routine').map((b) => b.box.id)
    const along =
      e.key === 'ArrowRight'
        ? laid.lines.filter((l) => l.from === id && l.to !== id).map((l) => l.to)
        : e.key === 'ArrowLeft'
          ? laid.lines.filter((l) => l.to === id && l.from !== id && l.from !== '').map((l) => l.from)
          : null
    const next = along
      ? along[0]
      : e.key === 'ArrowDown'
        ? states[(states.indexOf(id) + 1) % states.length]
        : e.key === 'ArrowUp'
          ? states[(states.indexOf(id) + states.length - 1) % states.length]
          : undefined
    if (e.key === 'Enter') {
      const box = laid.boxes.find((b) => b.box.id === id)!
      void go({ pathname: `/rigs/${rig.id}/program`, search, hash: `#state-${encodeURIComponent(box.box.name)}` })
    }
    if (!next) return
    e.preventDefault()
    svg.current?.querySelector<SVGGElement>(`[data-box="${CSS.escape(next)}"]`)?.focus()
  }
  // In a first layout arrows run behind the boxes, which would be unreadable under them.
  const arrows = laid?.lines.map((l, i) => {
    const lit = at !== null && (l.from === at || l.to === at)
    return (
      <g key={i}>
        <path
          d={l.points.map((p, k) => `${k === 0 ? 'M' : 'L'}${p[0]} ${p[1]}`).join('')}
          fill="none"
          stroke={lit ? 'var(--teal)' : 'var(--ink)'}
          strokeWidth={lit ? 2.4 : 1.3}
          strokeDasharray={l.stays ? '4 3' : undefined}
          markerEnd="url(#tip)"
        />
        {l.at && l.label.length > 0 && (
          <rect
            x={l.at[0]}
            y={l.at[1]}
            width={Math.max(...l.label.map((t) => t.length)) * 6.6 + 8}
            height={l.label.length * 15 + 4}
            fill="var(--lime)"
            fillOpacity={0.85}
          />
        )}
        {l.at &&
          l.label.map((t, k) => (
            <text key={k} x={l.at![0] + 4} y={l.at![1] + 14 + k * 15} fontSize={12.5} fill={lit ? 'var(--teal)' : 'var(--ink)'}>
              {t}
            </text>
          ))}
      </g>
    )
  })
  if (!program) return <Moment />
  return (
    <main>
      <div className="page">
        <Views at="chart">
          <span className="push" />
          <Button onClick={() => setZoom(scale / 1.2)} aria-label="Smaller">
            −
          </Button>
          <span className="mono fine" aria-live="polite">
            {Math.round(scale * 100)} %
          </span>
          <Button onClick={() => setZoom(Math.min(3, scale * 1.2))} aria-label="Larger">
            +
          </Button>
          <Button onClick={() => setZoom(fit.whole)} disabled={scale === fit.whole}>
            Fit
          </Button>
          <Button onClick={save} disabled={!laid}>
            Save as SVG
          </Button>
          <Button
            component="a"
            href={`/api/rigs/${rig.id}/program/chart.dot${which === undefined ? '' : `?program=${which}`}`}
            download={`${rig.id}.dot`}
          >
            DOT
          </Button>
          <Button
            component="a"
            href={`/api/rigs/${rig.id}/program/chart.mmd${which === undefined ? '' : `?program=${which}`}`}
            download={`${rig.id}.mmd`}
          >
            Mermaid
          </Button>
          {(program.programs.find((p) => p.index === program.index)?.faults ?? 0) === 0 && (
            <Button
              component="a"
              href={`/api/rigs/${rig.id}/program/scxml${which === undefined ? '' : `?program=${which}`}`}
              download={`${rig.id}.scxml`}
            >
              SCXML
            </Button>
          )}
        </Views>
        {chart.isError && (
          <p className="fault" role="alert">
            {sentencesOf(chart.error).join(' ')}
          </p>
        )}
        {laid && laid.boxes.length === 0 && (
          <p className="lead">
            Nothing to draw yet. <Link to={{ pathname: `/rigs/${rig.id}/program`, search }}>Write the first state in the sheet.</Link>
          </p>
        )}
        {!laid && !chart.isError && <p className="muted">One moment…</p>}
        {looking && (
          <p className="fine muted row" style={{ margin: 0 }} data-testid="looking">
            Looking for a better layout{looking.of > 1 ? `, ${looking.done + 1} of ${looking.of}` : ''}…{' '}
            <Button
              onClick={() => {
                seeker.current?.abort()
                setLooking(null)
              }}
            >
              Stop
            </Button>
          </p>
        )}
        <div
          ref={frame}
          className="wide"
          tabIndex={0}
          role="group"
          aria-label="Chart of the program"
          style={{ maxHeight: 'calc(100vh - 190px)', overflow: 'auto', minHeight: 200 }}
        >
          {laid && laid.boxes.length > 0 && (
            <svg
              ref={svg}
              xmlns="http://www.w3.org/2000/svg"
              width={laid.width * scale}
              height={laid.height * scale}
              viewBox={`0 0 ${laid.width} ${laid.height}`}
              role="group"
              aria-label={`Chart with ${laid.boxes.filter((b) => b.box.kind === 'state' || b.box.kind === 'final').length} states`}
              fontFamily="'Atkinson Hyperlegible Next Variable', system-ui, sans-serif"
              data-testid="chart"
            >
              <rect width={laid.width} height={laid.height} fill="var(--lime)" />
              <defs>
                <marker id="tip" viewBox="0 0 10 10" refX="9" refY="5" markerWidth="7" markerHeight="7" orient="auto-start-reverse">
                  <path d="M0 1L10 5L0 9z" fill="var(--ink)" />
                </marker>
              </defs>
              {laid.rough && arrows}
              {laid.boxes.map(({ box, x, y, w, h, lines }) => {
                const holder = box.kind === 'region' || box.kind === 'routine'
                return (
                  <g
                    key={box.id}
                    {...(holder
                      ? {}
                      : {
                          tabIndex: 0,
                          role: 'button',
                          'data-box': box.id,
                          'aria-label': `${box.kind === 'history' ? 'History' : 'State'} ${box.name}${box.initial ? ', initial' : ''}${box.kind === 'final' ? ', final' : ''}. ${laid.lines
                            .filter((l) => l.from === box.id)
                            .map(
                              (l) =>
                                `${l.label.join(' ')}: ${l.stays ? 'stays' : `goes to ${laid.boxes.find((b) => b.box.id === l.to)?.box.name ?? ''}`}`,
                            )
                            .join('. ')}`,
                          onFocus: () => setAt(box.id),
                          onBlur: () => setAt(null),
                          onKeyDown: (e: React.KeyboardEvent) => move(e, box.id),
                          onDoubleClick: () =>
                            void go({ pathname: `/rigs/${rig.id}/program`, search, hash: `#state-${encodeURIComponent(box.name)}` }),
                          style: { cursor: 'pointer', outline: 'none' },
                        })}
                  >
                    <rect
                      x={x}
                      y={y}
                      width={w}
                      height={h}
                      rx={box.kind === 'history' ? h / 2 : 8}
                      fill={holder ? 'none' : 'var(--paper)'}
                      stroke={at === box.id ? 'var(--teal)' : holder ? 'var(--mussel)' : 'var(--edge)'}
                      strokeWidth={at === box.id ? 3 : 1.3}
                      strokeDasharray={holder ? '5 4' : undefined}
                    />
                    {box.kind === 'final' && (
                      <rect x={x + 3} y={y + 3} width={w - 6} height={h - 6} rx={6} fill="none" stroke="var(--edge)" />
                    )}
                    <text
                      x={x + 11}
                      y={y + (box.kind === 'history' ? 20 : 22)}
                      fontSize={holder ? 13 : 15}
                      fontWeight={650}
                      fill={holder ? 'var(--mussel)' : 'var(--ink)'}
                    >
                      {box.name}
                    </text>
                    {lines.map((l, i) => (
                      <text key={i} x={x + 11} y={y + 40 + i * 16} fontSize={12.5} fill="var(--muted)">
                        {l}
                      </text>
                    ))}
                  </g>
                )
              })}
              {laid.starts.map((s, i) => (
                <circle key={i} cx={s.x} cy={s.y} r={5} fill="var(--ink)" />
              ))}
              {!laid.rough && arrows}
            </svg>
          )}
        </div>
        <p className="fine muted">
          Arrow keys move from state to state, right and left along the arrows; Enter opens the state in the sheet. A dashed arrow stays
          where it is.
        </p>
      </div>
    </main>
  )
}
