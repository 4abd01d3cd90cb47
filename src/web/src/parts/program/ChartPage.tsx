import { useEffect, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { Link, useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { partKey, useProgram, useProgramIndex, useRig } from '../../app/rig'
import { Views } from './Views'

type Drawing = Schemas['ChartDrawing']
type Box = Drawing['boxes'][number]
type Placed = { box: Box; x: number; y: number; w: number; h: number; lines: string[] }
type Line = { from: string; to: string; points: [number, number][]; label: string[]; at: [number, number] | null; stays: boolean; line: number }
type Laid = { width: number; height: number; boxes: Placed[]; starts: { x: number; y: number }[]; lines: Line[] }

const wrap = (text: string, most: number) => {
  const lines: string[] = ['']
  for (const word of text.split(' ')) {
    const last = lines.at(-1)!
    if (last !== '' && last.length + word.length + 1 > most) lines.push(word)
    else lines[lines.length - 1] = last === '' ? word : `${last} ${word}`
  }
  return lines
}

type ElkNode = { id: string; x?: number; y?: number; width?: number; height?: number; children?: ElkNode[]; layoutOptions?: Record<string, string>; labels?: unknown[] }
type ElkEdge = { id: string; sources: string[]; targets: string[]; labels?: { text: string; width: number; height: number; x?: number; y?: number }[]; container?: string; sections?: { startPoint: { x: number; y: number }; endPoint: { x: number; y: number }; bendPoints?: { x: number; y: number }[] }[] }

type Way = { direction: 'DOWN' | 'RIGHT'; say: number; label: number }
const ways: Way[] = [{ direction: 'DOWN', say: 28, label: 20 }, { direction: 'DOWN', say: 24, label: 16 }, { direction: 'RIGHT', say: 28, label: 20 }, { direction: 'RIGHT', say: 24, label: 14 }]

/** Letters stay readable down to this scale: 10 pixels. */
const readable = 0.8

/** The scale at which all of it is seen, and the one at which it can be read: at most the width is filled, and it scrolls down. */
const scales = (laid: { width: number; height: number }, room: { width: number; height: number }) => {
  const whole = Math.min(1, room.width / laid.width, room.height / laid.height)
  return { whole, reading: whole >= readable ? whole : Math.min(1, Math.max(readable, room.width / laid.width)) }
}

/** Lays the drawing out in several ways and takes the one that is seen best in the room there is. */
async function layOut(drawing: Drawing): Promise<Laid> {
  const { default: Elk } = await import('elkjs/lib/elk.bundled.js')
  const elk = new Elk()
  const room = { width: Math.max(280, window.innerWidth - 216), height: Math.max(320, window.innerHeight - 240) }
  let best: { laid: Laid; score: number } | null = null
  // A very large one is laid out once: that takes long enough.
  for (const way of drawing.boxes.length > 60 ? ways.slice(0, 1) : ways) {
    const laid = await layOneWay(elk, drawing, way)
    const { whole } = scales(laid, room)
    const score = whole >= readable ? 2 + whole : room.width / laid.width >= readable ? 1 + Math.min(1, room.height / laid.height) : whole
    if (!best || score > best.score) best = { laid, score }
  }
  return best!.laid
}

/** Lays the drawing out: outer boxes around inner ones, arrows in layers. */
async function layOneWay(elk: { layout: (graph: never) => Promise<unknown> }, drawing: Drawing, way: Way): Promise<Laid> {
  const says = new Map<string, string[]>()
  const node = (box: Box): ElkNode => {
    const inner = drawing.boxes.filter(b => b.parent === box.id)
    const lines = box.says.flatMap(s => wrap(s, way.say))
    says.set(box.id, lines)
    const width = Math.max(70, box.name.length * 8.6 + 26, ...lines.map(l => l.length * 6.7 + 22))
    const height = box.kind === 'history' ? 30 : 34 + lines.length * 16
    if (inner.length === 0) return { id: box.id, width: box.kind === 'history' ? Math.max(30, box.name.length * 7 + 18) : width, height }
    const children = inner.map(node)
    if (inner.some(b => b.initial)) children.unshift({ id: `${box.id} begins`, width: 10, height: 10, layoutOptions: { 'elk.layered.layering.layerConstraint': 'FIRST' } })
    return { id: box.id, children, layoutOptions: { 'elk.padding': `[top=${40 + lines.length * 16},left=18,bottom=18,right=18]`, 'elk.nodeSize.constraints': 'MINIMUM_SIZE', 'elk.nodeSize.minimum': `(${width},${height})` } }
  }
  const edges: ElkEdge[] = [
    ...drawing.boxes.filter(b => b.initial && b.parent).map(b => ({ id: `begin ${b.id}`, sources: [`${b.parent} begins`], targets: [b.id] })),
    ...drawing.arrows.map((a, i) => { const text = wrap(a.label, way.label); return { id: `a${i}`, sources: [a.from], targets: [a.to], labels: a.label === '' ? [] : [{ text: a.label, width: Math.max(...text.map(t => t.length)) * 6.6 + 8, height: text.length * 15 + 4 }] } }),
  ]
  const graph = await elk.layout({
    id: 'root', children: drawing.boxes.filter(b => b.parent === null).map(node), edges,
    layoutOptions: { 'elk.algorithm': 'layered', 'elk.direction': way.direction, 'elk.hierarchyHandling': 'INCLUDE_CHILDREN', 'elk.edgeRouting': 'ORTHOGONAL', 'elk.spacing.nodeNode': '26', 'elk.layered.spacing.nodeNodeBetweenLayers': '34', 'elk.spacing.edgeNode': '14', 'elk.spacing.edgeEdge': '10', 'elk.spacing.edgeLabel': '4', 'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES', 'elk.padding': '[top=14,left=14,bottom=14,right=14]' },
  } as never) as unknown as ElkNode & { edges: ElkEdge[] }
  const at = new Map<string, [number, number]>([['root', [0, 0]]])
  const boxes: Placed[] = []
  const starts: { x: number; y: number }[] = []
  const place = (n: ElkNode, ox: number, oy: number) => {
    const [x, y] = [ox + (n.x ?? 0), oy + (n.y ?? 0)]
    at.set(n.id, [x, y])
    const box = drawing.boxes.find(b => b.id === n.id)
    if (box) boxes.push({ box, x, y, w: n.width ?? 0, h: n.height ?? 0, lines: says.get(n.id) ?? [] })
    else starts.push({ x: x + 5, y: y + 5 })
    for (const c of n.children ?? []) place(c, x, y)
  }
  for (const n of graph.children ?? []) place(n, 0, 0)
  const lines = (graph.edges ?? edges).map(e => {
    const [ox, oy] = at.get(e.container ?? 'root') ?? [0, 0]
    const s = e.sections?.[0]
    const points = s ? [s.startPoint, ...(s.bendPoints ?? []), s.endPoint].map(p => [ox + p.x, oy + p.y] as [number, number]) : []
    const arrow = e.id.startsWith('a') ? drawing.arrows[Number(e.id.slice(1))] : undefined
    const label = e.labels?.[0]
    return { from: arrow?.from ?? '', to: arrow?.to ?? '', points, label: arrow && arrow.label !== '' ? wrap(arrow.label, way.label) : [], at: label ? [ox + (label.x ?? 0), oy + (label.y ?? 0)] as [number, number] : null, stays: arrow?.stays ?? false, line: arrow?.line ?? 0 }
  })
  return { width: graph.width ?? 400, height: graph.height ?? 300, boxes, starts, lines }
}

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
    queryFn: async () => layOut(await unwrap(client.GET('/api/rigs/{id}/program/chart', { params: { path: { id: rig.id }, query: { program: which } } }))),
  })
  const svg = useRef<SVGSVGElement>(null)
  const frame = useRef<HTMLDivElement>(null)
  const [zoom, setZoom] = useState<number | null>(null)
  const [fit, setFit] = useState({ whole: 1, reading: 1 })
  const [at, setAt] = useState<string | null>(null)
  const laid = chart.data
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
  const save = () => {
    if (!svg.current) return
    // Colours are written out: outside this page nobody knows their names.
    const style = getComputedStyle(document.documentElement)
    const text = new XMLSerializer().serializeToString(svg.current).replace(/var\((--[\w-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim())
    const link = document.createElement('a')
    link.href = URL.createObjectURL(new Blob([text], { type: 'image/svg+xml' }))
    link.download = `${rig.id}-chart.svg`
    link.click()
    URL.revokeObjectURL(link.href)
  }
  const move = (e: React.KeyboardEvent, id: string) => {
    if (!laid) return
    const states = laid.boxes.filter(b => b.box.kind !== 'region' && b.box.kind !== 'routine').map(b => b.box.id)
    const along = e.key === 'ArrowRight' ? laid.lines.filter(l => l.from === id && l.to !== id).map(l => l.to) : e.key === 'ArrowLeft' ? laid.lines.filter(l => l.to === id && l.from !== id && l.from !== '').map(l => l.from) : null
    const next = along ? along[0] : e.key === 'ArrowDown' ? states[(states.indexOf(id) + 1) % states.length] : e.key === 'ArrowUp' ? states[(states.indexOf(id) + states.length - 1) % states.length] : undefined
    if (e.key === 'Enter') { const box = laid.boxes.find(b => b.box.id === id)!; void go({ pathname: `/rigs/${rig.id}/program`, search, hash: `#state-${encodeURIComponent(box.box.name)}` }) }
    if (!next) return
    e.preventDefault()
    svg.current?.querySelector<SVGGElement>(`[data-box="${CSS.escape(next)}"]`)?.focus()
  }
  if (!program) return <p className="page muted">One moment…</p>
  return (
    <main>
      <div className="page">
        <Views at="chart">
          <span className="push" />
          <Button onClick={() => setZoom(scale / 1.2)} aria-label="Smaller">−</Button>
          <span className="mono fine" aria-live="polite">{Math.round(scale * 100)} %</span>
          <Button onClick={() => setZoom(Math.min(3, scale * 1.2))} aria-label="Larger">+</Button>
          <Button onClick={() => setZoom(fit.whole)} disabled={scale === fit.whole}>Fit</Button>
          <Button onClick={save} disabled={!laid}>Save as SVG</Button>
          <Button component="a" href={`/api/rigs/${rig.id}/program/chart.dot${which === undefined ? '' : `?program=${which}`}`} download={`${rig.id}.dot`}>DOT</Button>
          <Button component="a" href={`/api/rigs/${rig.id}/program/chart.mmd${which === undefined ? '' : `?program=${which}`}`} download={`${rig.id}.mmd`}>Mermaid</Button>
          {(program.programs.find(p => p.index === program.index)?.faults ?? 0) === 0 && <Button component="a" href={`/api/rigs/${rig.id}/program/scxml${which === undefined ? '' : `?program=${which}`}`} download={`${rig.id}.scxml`}>SCXML</Button>}
        </Views>
        {chart.isError && <p className="fault" role="alert">{sentencesOf(chart.error).join(' ')}</p>}
        {laid && laid.boxes.length === 0 && <p className="lead">Nothing to draw yet. <Link to={{ pathname: `/rigs/${rig.id}/program`, search }}>Write the first state in the sheet.</Link></p>}
        {!laid && !chart.isError && <p className="muted">Laying it out…</p>}
        <div ref={frame} className="wide" tabIndex={0} role="group" aria-label="Chart of the program" style={{ maxHeight: 'calc(100vh - 190px)', overflow: 'auto', minHeight: 200 }}>
          {laid && laid.boxes.length > 0 && (
            <svg ref={svg} xmlns="http://www.w3.org/2000/svg" width={laid.width * scale} height={laid.height * scale} viewBox={`0 0 ${laid.width} ${laid.height}`} role="group" aria-label={`Chart with ${laid.boxes.filter(b => b.box.kind === 'state' || b.box.kind === 'final').length} states`} fontFamily="'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" data-testid="chart">
              <rect width={laid.width} height={laid.height} fill="var(--lime)" />
              <defs><marker id="tip" viewBox="0 0 10 10" refX="9" refY="5" markerWidth="7" markerHeight="7" orient="auto-start-reverse"><path d="M0 1L10 5L0 9z" fill="var(--ink)" /></marker></defs>
              {laid.boxes.map(({ box, x, y, w, h, lines }) => {
                const holder = box.kind === 'region' || box.kind === 'routine'
                return (
                  <g key={box.id} {...(holder ? {} : { tabIndex: 0, role: 'button', 'data-box': box.id, 'aria-label': `${box.kind === 'history' ? 'History' : 'State'} ${box.name}${box.initial ? ', initial' : ''}${box.kind === 'final' ? ', final' : ''}. ${laid.lines.filter(l => l.from === box.id).map(l => `${l.label.join(' ')}: ${l.stays ? 'stays' : `goes to ${laid.boxes.find(b => b.box.id === l.to)?.box.name ?? ''}`}`).join('. ')}`, onFocus: () => setAt(box.id), onBlur: () => setAt(null), onKeyDown: (e: React.KeyboardEvent) => move(e, box.id), onDoubleClick: () => void go({ pathname: `/rigs/${rig.id}/program`, search, hash: `#state-${encodeURIComponent(box.name)}` }), style: { cursor: 'pointer', outline: 'none' } })}>
                    <rect x={x} y={y} width={w} height={h} rx={box.kind === 'history' ? h / 2 : 8} fill={holder ? 'none' : 'var(--paper)'} stroke={at === box.id ? 'var(--teal)' : holder ? 'var(--mussel)' : 'var(--edge)'} strokeWidth={at === box.id ? 3 : 1.3} strokeDasharray={holder ? '5 4' : undefined} />
                    {box.kind === 'final' && <rect x={x + 3} y={y + 3} width={w - 6} height={h - 6} rx={6} fill="none" stroke="var(--edge)" />}
                    <text x={x + 11} y={y + (box.kind === 'history' ? 20 : 22)} fontSize={holder ? 13 : 15} fontWeight={650} fill={holder ? 'var(--mussel)' : 'var(--ink)'}>{box.name}</text>
                    {lines.map((l, i) => <text key={i} x={x + 11} y={y + 40 + i * 16} fontSize={12.5} fill="var(--muted)">{l}</text>)}
                  </g>
                )
              })}
              {laid.starts.map((s, i) => <circle key={i} cx={s.x} cy={s.y} r={5} fill="var(--ink)" />)}
              {laid.lines.map((l, i) => {
                const lit = at !== null && (l.from === at || l.to === at)
                return (
                  <g key={i}>
                    <path d={l.points.map((p, k) => `${k === 0 ? 'M' : 'L'}${p[0]} ${p[1]}`).join('')} fill="none" stroke={lit ? 'var(--teal)' : 'var(--ink)'} strokeWidth={lit ? 2.4 : 1.3} strokeDasharray={l.stays ? '4 3' : undefined} markerEnd="url(#tip)" />
                    {l.at && l.label.length > 0 && <rect x={l.at[0]} y={l.at[1]} width={Math.max(...l.label.map(t => t.length)) * 6.6 + 8} height={l.label.length * 15 + 4} fill="var(--lime)" fillOpacity={0.85} />}
                    {l.at && l.label.map((t, k) => <text key={k} x={l.at![0] + 4} y={l.at![1] + 14 + k * 15} fontSize={12.5} fill={lit ? 'var(--teal)' : 'var(--ink)'}>{t}</text>)}
                  </g>
                )
              })}
            </svg>
          )}
        </div>
        <p className="fine muted">Arrow keys move from state to state, right and left along the arrows; Enter opens the state in the sheet. A dashed arrow stays where it is.</p>
      </div>
    </main>
  )
}
