import type { Schemas } from '../../app/api'

export type Drawing = Schemas['ChartDrawing']
type Box = Drawing['boxes'][number]
type Placed = { box: Box; x: number; y: number; w: number; h: number; lines: string[] }
export type Line = {
  from: string
  to: string
  points: [number, number][]
  label: string[]
  at: [number, number] | null
  stays: boolean
  line: number
}
export type Laid = { width: number; height: number; boxes: Placed[]; starts: { x: number; y: number }[]; lines: Line[]; rough?: boolean }

const wrap = (text: string, most: number) => {
  const lines: string[] = ['']
  for (const word of text.split(' ')) {
    const last = lines.at(-1)!
    if (last !== '' && last.length + word.length + 1 > most) lines.push(word)
    else lines[lines.length - 1] = last === '' ? word : `${last} ${word}`
  }
  return lines
}

type ElkNode = {
  id: string
  x?: number
  y?: number
  width?: number
  height?: number
  children?: ElkNode[]
  layoutOptions?: Record<string, string>
  labels?: unknown[]
}
type ElkEdge = {
  id: string
  sources: string[]
  targets: string[]
  labels?: { text: string; width: number; height: number; x?: number; y?: number }[]
  container?: string
  sections?: { startPoint: { x: number; y: number }; endPoint: { x: number; y: number }; bendPoints?: { x: number; y: number }[] }[]
}

type Way = { direction: 'DOWN' | 'RIGHT'; say: number; label: number }
const ways: Way[] = [
  { direction: 'DOWN', say: 28, label: 20 },
  { direction: 'DOWN', say: 24, label: 16 },
  { direction: 'RIGHT', say: 28, label: 20 },
  { direction: 'RIGHT', say: 24, label: 14 },
]

/** Letters stay readable down to this scale: 10 pixels. */
export const readable = 0.8

/** The scale at which all of it is seen, and the one at which it can be read: at most the width is filled, and it scrolls down. */
export const scales = (laid: { width: number; height: number }, room: { width: number; height: number }) => {
  const whole = Math.min(1, room.width / laid.width, room.height / laid.height)
  return { whole, reading: whole >= readable ? whole : Math.min(1, Math.max(readable, room.width / laid.width)) }
}

/** The elk library, in a worker: the page stays free while it looks. */
type Worked = { layout: (graph: never) => Promise<unknown>; terminateWorker: () => void }
const startElk = async (): Promise<Worked> => {
  const [{ default: Elk }, { default: url }] = await Promise.all([
    import('elkjs/lib/elk-api.js'),
    import('elkjs/lib/elk-worker.min.js?url'),
  ])
  return new Elk({ workerFactory: () => new Worker(url) }) as unknown as Worked
}

/** How large a box is, with what it says. */
const sizeOf = (box: Box, way: Way) => {
  const lines = box.says.flatMap((s) => wrap(s, way.say))
  return {
    lines,
    width:
      box.kind === 'history'
        ? Math.max(30, box.name.length * 7 + 18)
        : Math.max(70, box.name.length * 8.6 + 26, ...lines.map((l) => l.length * 6.7 + 22)),
    height: box.kind === 'history' ? 30 : 34 + lines.length * 16,
  }
}

/** Above so many boxes a first layout names no arrow: the labels would only cover each other. */
const labelled = 40

/** The box where it begins first, the others as they stand in the document. */
const fromStart = (boxes: Box[]) => [...boxes.filter((b) => b.initial), ...boxes.filter((b) => !b.initial)]

/** A first layout, at once: boxes in rows in the order of the document, arrows straight from edge to edge. */
export function quickLayout(drawing: Drawing): Laid {
  const inside = new Map<string | null, Box[]>()
  for (const b of drawing.boxes) inside.set(b.parent, [...(inside.get(b.parent) ?? []), b])
  const boxes: Placed[] = []
  const starts: { x: number; y: number }[] = []
  const fill = (parent: string | null, x0: number, y0: number): { width: number; height: number } => {
    const all = fromStart(inside.get(parent) ?? [])
    const most = Math.max(900, Math.sqrt(all.length) * 330)
    let [x, y, row, wide] = [x0, y0, 0, 0]
    for (const box of all) {
      const own = sizeOf(box, ways[0]!)
      const at = boxes.length
      boxes.push({ box, x, y, w: own.width, h: own.height, lines: own.lines })
      if (inside.has(box.id)) {
        const inner = fill(box.id, x + 18, y + own.height + 10)
        boxes[at]!.w = Math.max(own.width, inner.width + 36)
        boxes[at]!.h = own.height + 10 + inner.height + 18
      }
      const made = boxes[at]!
      // One that does not fit in the row any more begins the next one.
      if (x > x0 && x + made.w - x0 > most) {
        const [dx, dy] = [x0 - x, y0 + row + 44 - y]
        for (let i = at; i < boxes.length; i++) {
          boxes[i]!.x += dx
          boxes[i]!.y += dy
        }
        for (const s of starts)
          if (s.x >= x && s.y >= y) {
            s.x += dx
            s.y += dy
          }
        y = y0 + row + 44
        x = x0
      }
      if (box.initial) starts.push({ x: made.x - 10, y: made.y + 12 })
      x = made.x + made.w + 60
      wide = Math.max(wide, made.x + made.w - x0)
      row = Math.max(row, made.y + made.h - y0)
    }
    return { width: wide, height: row }
  }
  const { width, height } = fill(null, 24, 24)
  const at = new Map(boxes.map((b) => [b.box.id, b]))
  const lines = drawing.arrows.flatMap((a): Line[] => {
    const [f, t] = [at.get(a.from), at.get(a.to)]
    if (!f || !t) return []
    const [cx, cy, tx, ty] = [f.x + f.w / 2, f.y + f.h / 2, t.x + t.w / 2, t.y + t.h / 2]
    const edge = (b: Placed, dx: number, dy: number): [number, number] => {
      const k = Math.min(dx === 0 ? Infinity : b.w / 2 / Math.abs(dx), dy === 0 ? Infinity : b.h / 2 / Math.abs(dy))
      return [b.x + b.w / 2 + dx * k, b.y + b.h / 2 + dy * k]
    }
    const points: [number, number][] =
      f === t
        ? [
            [f.x + f.w, cy - 6],
            [f.x + f.w + 22, cy - 6],
            [f.x + f.w + 22, cy + 8],
            [f.x + f.w, cy + 8],
          ]
        : [edge(f, tx - cx, ty - cy), edge(t, cx - tx, cy - ty)]
    const label = a.label === '' || drawing.boxes.length > labelled ? [] : wrap(a.label, ways[0]!.label)
    return [
      {
        from: a.from,
        to: a.to,
        points,
        label,
        at: label.length > 0 ? [(points[0]![0] + points.at(-1)![0]) / 2 - 40, (points[0]![1] + points.at(-1)![1]) / 2 - 10] : null,
        stays: a.stays,
        line: a.line,
      },
    ]
  })
  return { width: width + 60, height: height + 60, boxes, starts, lines, rough: true }
}

/**
 * Looks for better layouts in a worker, one way after the other, and tells of each that is seen better in the room there
 * is. Ends when the signal says so.
 */
export async function betterLayouts(
  drawing: Drawing,
  room: { width: number; height: number },
  signal: AbortSignal,
  on: { laid: (laid: Laid) => void; progress: (done: number, of: number) => void },
) {
  // A very large one is laid out once: that takes long enough.
  const tried = drawing.boxes.length > 60 ? ways.slice(0, 1) : ways
  const elk = await startElk()
  if (signal.aborted) {
    elk.terminateWorker()
    return
  }
  signal.addEventListener('abort', () => elk.terminateWorker())
  let best = -1
  for (let i = 0; i < tried.length && !signal.aborted; i++) {
    on.progress(i, tried.length)
    const laid = await layOneWay(elk, drawing, tried[i]!)
    if (signal.aborted) return
    const { whole } = scales(laid, room)
    const score = whole >= readable ? 2 + whole : room.width / laid.width >= readable ? 1 + Math.min(1, room.height / laid.height) : whole
    if (score > best) {
      best = score
      on.laid(laid)
    }
  }
  elk.terminateWorker()
}

/**
 * The arrows that lead back: to a box on the way from where the machine begins to where the arrow starts. Turned round they leave no
 * circle, so that the box where it begins comes first.
 */
function leadingBack(drawing: Drawing): Set<number> {
  const from = new Map<string, number[]>()
  drawing.arrows.forEach((a, i) => {
    if (a.from !== a.to) from.set(a.from, [...(from.get(a.from) ?? []), i])
  })
  const back = new Set<number>()
  const state = new Map<string, 'on the way' | 'done'>()
  for (const begin of fromStart(drawing.boxes)) {
    if (state.has(begin.id)) continue
    // A stack of its own: a machine may have thousands of states in a row.
    const way: { id: string; next: number }[] = [{ id: begin.id, next: 0 }]
    state.set(begin.id, 'on the way')
    while (way.length > 0) {
      const here = way.at(-1)!
      const arrow = from.get(here.id)?.[here.next++]
      if (arrow === undefined) {
        state.set(here.id, 'done')
        way.pop()
        continue
      }
      const to = drawing.arrows[arrow]!.to
      const seen = state.get(to)
      if (seen === 'on the way') back.add(arrow)
      else if (seen === undefined) {
        state.set(to, 'on the way')
        way.push({ id: to, next: 0 })
      }
    }
  }
  return back
}

/** Lays the drawing out: outer boxes around inner ones, arrows in layers. */
async function layOneWay(elk: { layout: (graph: never) => Promise<unknown> }, drawing: Drawing, way: Way): Promise<Laid> {
  const says = new Map<string, string[]>()
  const back = leadingBack(drawing)
  const node = (box: Box): ElkNode => {
    const inner = fromStart(drawing.boxes.filter((b) => b.parent === box.id))
    const { lines, width, height } = sizeOf(box, way)
    says.set(box.id, lines)
    if (inner.length === 0) return { id: box.id, width, height }
    const children = inner.map(node)
    if (inner.some((b) => b.initial))
      children.unshift({
        id: `${box.id} begins`,
        width: 10,
        height: 10,
        layoutOptions: { 'elk.layered.layering.layerConstraint': 'FIRST' },
      })
    return {
      id: box.id,
      children,
      layoutOptions: {
        'elk.padding': `[top=${40 + lines.length * 16},left=18,bottom=18,right=18]`,
        'elk.nodeSize.constraints': 'MINIMUM_SIZE',
        'elk.nodeSize.minimum': `(${width},${height})`,
      },
    }
  }
  const edges: ElkEdge[] = [
    ...drawing.boxes
      .filter((b) => b.initial && b.parent)
      .map((b) => ({ id: `begin ${b.id}`, sources: [`${b.parent} begins`], targets: [b.id] })),
    ...drawing.arrows.map((a, i) => {
      const text = wrap(a.label, way.label)
      return {
        id: `a${i}`,
        sources: [back.has(i) ? a.to : a.from],
        targets: [back.has(i) ? a.from : a.to],
        labels:
          a.label === '' ? [] : [{ text: a.label, width: Math.max(...text.map((t) => t.length)) * 6.6 + 8, height: text.length * 15 + 4 }],
      }
    }),
  ]
  const graph = (await elk.layout({
    id: 'root',
    children: drawing.boxes.filter((b) => b.parent === null).map(node),
    edges,
    layoutOptions: {
      'elk.algorithm': 'layered',
      'elk.direction': way.direction,
      'elk.hierarchyHandling': 'INCLUDE_CHILDREN',
      'elk.edgeRouting': 'ORTHOGONAL',
      'elk.spacing.nodeNode': '26',
      'elk.layered.spacing.nodeNodeBetweenLayers': '34',
      'elk.spacing.edgeNode': '14',
      'elk.spacing.edgeEdge': '10',
      'elk.spacing.edgeLabel': '4',
      'elk.layered.considerModelOrder.strategy': 'NODES_AND_EDGES',
      'elk.padding': '[top=14,left=14,bottom=14,right=14]',
    },
  } as never)) as unknown as ElkNode & { edges: ElkEdge[] }
  const at = new Map<string, [number, number]>([['root', [0, 0]]])
  const boxes: Placed[] = []
  const starts: { x: number; y: number }[] = []
  const place = (n: ElkNode, ox: number, oy: number) => {
    const [x, y] = [ox + (n.x ?? 0), oy + (n.y ?? 0)]
    at.set(n.id, [x, y])
    const box = drawing.boxes.find((b) => b.id === n.id)
    if (box) boxes.push({ box, x, y, w: n.width ?? 0, h: n.height ?? 0, lines: says.get(n.id) ?? [] })
    else starts.push({ x: x + 5, y: y + 5 })
    for (const c of n.children ?? []) place(c, x, y)
  }
  for (const n of graph.children ?? []) place(n, 0, 0)
  const lines = (graph.edges ?? edges).map((e) => {
    const [ox, oy] = at.get(e.container ?? 'root') ?? [0, 0]
    const s = e.sections?.[0]
    const points = s ? [s.startPoint, ...(s.bendPoints ?? []), s.endPoint].map((p) => [ox + p.x, oy + p.y] as [number, number]) : []
    const arrow = e.id.startsWith('a') ? drawing.arrows[Number(e.id.slice(1))] : undefined
    if (arrow && back.has(Number(e.id.slice(1)))) points.reverse()
    const label = e.labels?.[0]
    return {
      from: arrow?.from ?? '',
      to: arrow?.to ?? '',
      points,
      label: arrow && arrow.label !== '' ? wrap(arrow.label, way.label) : [],
      at: label ? ([ox + (label.x ?? 0), oy + (label.y ?? 0)] as [number, number]) : null,
      stays: arrow?.stays ?? false,
      line: arrow?.line ?? 0,
    }
  })
  return { width: graph.width ?? 400, height: graph.height ?? 300, boxes, starts, lines }
}
