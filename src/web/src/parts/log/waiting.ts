import { newKey } from '../../app/keys'
import { useSyncExternalStore } from 'react'
import { client, Problem, tabId, unwrap, type Schemas } from '../../app/api'
import { waitingIn } from '../../app/settings'

export type Line = Schemas['LogLineRequest'] & { key: string }
type Series = Schemas['SeriesRequest'] & { key: string }

/** Something that is to go up to the bench. A line that is held is still being told of and waits for that. */
export type Waiting = { rig: string; copy: number; key: string; held?: { tab: string; since: number } } & (
  { kind: 'line'; line: Line } | { kind: 'series'; series: Series } | { kind: 'back'; line: string; back: boolean }
)

type State = {
  waiting: readonly Waiting[]
  /** What the bench will never keep, and why. */
  refused: readonly { key: string; say: string }[]
  /** False where the browser keeps nothing: what waits is lost when the page is closed. */
  stored: boolean
  /** False since a call came to nothing. */
  reached: boolean
}

const name = waitingIn
const heard = new Set<() => void>()

const read = (): readonly Waiting[] | null => {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(name) ?? '[]')
    return Array.isArray(kept) ? (kept as Waiting[]) : []
  } catch {
    return null
  }
}

// This tab, also after it was loaded again: a line that it was telling of goes up as it is then; one of another tab waits for that tab, unless it
// was left alone for long.
const longMs = 15 * 60_000
const tab = (() => {
  try {
    const known = sessionStorage.getItem(name) ?? newKey()
    sessionStorage.setItem(name, known)
    return known
  } catch {
    return newKey()
  }
})()
export const hold = () => ({ tab, since: Date.now() })

const first = read()
let now: State = { waiting: first ?? [], refused: [], stored: first !== null, reached: true }

const set = (change: Partial<State>) => {
  now = { ...now, ...change }
  for (const h of heard) h()
}

/** Changes what waits. Another tab may have sent some of it, or added to it: what is stored counts. */
function change(by: (waiting: readonly Waiting[]) => readonly Waiting[]) {
  const waiting = by(now.stored ? (read() ?? now.waiting) : now.waiting)
  let stored = true
  try {
    localStorage.setItem(name, JSON.stringify(waiting))
  } catch {
    stored = false
  }
  set({ waiting, stored })
}

/** Puts something behind what waits, and sends it. */
export function put(item: Waiting) {
  change((w) => [...w, item])
  void send()
}

/** Keeps what is told of a line that is held. */
export const tell = (key: string, told: Partial<Line>) =>
  change((w) => w.map((x) => (x.key === key && x.kind === 'line' && x.held ? { ...x, line: { ...x.line, ...told } } : x)))

/** Lets a line go up, with what was told of it. */
export function release(key: string, told?: Partial<Line>) {
  change((w) => w.map((x) => (x.key === key && x.kind === 'line' ? { ...x, held: undefined, line: { ...x.line, ...told } } : x)))
  void send()
}

/** Takes back what never went up; false when it did. */
export function drop(key: string): boolean {
  const there = now.waiting.some((w) => w.key === key && !sending.has(w.key))
  if (there) change((w) => w.filter((x) => x.key !== key))
  return there
}

export const forgetRefused = () => set({ refused: [] })

const sending = new Set<string>()
const sent = new Set<() => Promise<unknown>>()
let busy = false
let timer: ReturnType<typeof setTimeout> | undefined

/** Hears that something went up. It waits here until those who hear have seen it there, so that it is always in one place at least. */
export const onSent = (then: () => Promise<unknown>) => {
  sent.add(then)
  return () => void sent.delete(then)
}

// One after the other, in the order in which it came: a series before its lines, a line before it is taken back.
async function send() {
  if (busy) return
  busy = true
  clearTimeout(timer)
  try {
    for (;;) {
      const next = now.waiting[0]
      if (!next || next.held) break
      const lines: Waiting[] = []
      if (next.kind === 'line')
        for (const w of now.waiting) {
          if (w.kind !== 'line' || w.held || w.rig !== next.rig || w.copy !== next.copy || lines.length === 200) break
          lines.push(w)
        }
      const batch = lines.length > 0 ? lines : [next]
      batch.forEach((b) => sending.add(b.key))
      const gone = new Set(batch.map((b) => b.key))
      let refused: { key: string; say: string }[] = []
      try {
        refused = await up(next, batch)
      } catch (error) {
        // No answer, or one that says to come again: it is sent once more. Anything else will be the same next time.
        if (!(error instanceof Problem) || error.status >= 500 || error.status === 409 || error.status === 429) throw error
        refused = batch.map((b) => ({ key: b.key, say: error.sentences.join(' ') }))
      }
      set({ reached: true, refused: [...now.refused, ...refused] })
      await Promise.all([...sent].map((s) => s()))
      change((w) => w.filter((x) => !gone.has(x.key)))
      batch.forEach((b) => sending.delete(b.key))
    }
  } catch {
    sending.clear()
    set({ reached: false })
    timer = setTimeout(() => void send(), 2000)
  } finally {
    busy = false
  }
}

async function up(next: Waiting, batch: Waiting[]): Promise<{ key: string; say: string }[]> {
  const path = { id: next.rig }
  if (next.kind === 'series') {
    await unwrap(client.POST('/api/rigs/{id}/log/series', { params: { path }, body: { ...next.series, copy: next.copy } }))
    return []
  }
  if (next.kind === 'back') {
    await unwrap(
      client.POST('/api/rigs/{id}/log/lines/{key}/back', {
        params: { path: { ...path, key: next.line }, query: { copy: next.copy } },
        body: { back: next.back, by: tabId },
      }),
    )
    return []
  }
  const lines = batch.flatMap((b) => (b.kind === 'line' ? [b.line] : []))
  const { refused } = await unwrap(
    client.POST('/api/rigs/{id}/log/lines', { params: { path }, body: { copy: next.copy, lines, by: tabId } }),
  )
  return refused
}

window.addEventListener('online', () => void send())
window.addEventListener('storage', (e) => {
  if (e.key === name) set({ waiting: read() ?? now.waiting })
})
if (now.waiting.some((w) => w.held))
  change((w) => w.map((x) => (x.held && (x.held.tab === tab || Date.now() - x.held.since > longMs) ? { ...x, held: undefined } : x)))
void send()

export const useWaiting = () =>
  useSyncExternalStore(
    (h) => {
      heard.add(h)
      return () => heard.delete(h)
    },
    () => now,
  )
