import { useCallback, useEffect, useRef, useState } from 'react'
import type { Run } from '../../app/api'
import { connect } from '../../app/live'
import type { Plan } from '../../app/scenes'

/** Something that can be done to a playing bench. */
export type Hand = {
  about: string
  words: string
  sentence: string
  lasts: 'held' | 'untilAgain' | 'moment'
  amount: { unit: string; usual: number; from: number; to: number; digits: number } | null
  key: string | null
  why: string | null
}

type Named = { name: string; kind: string }
type About = {
  seed: number
  endsS: number
  hands: Hand[]
  bodies: Named[]
  regions: { program: string; region: string }[]
  sensors: { name: string; zones: string[] }[]
  outputs: Named[]
  draws: Run['report']['draws']
}
export type Moment = {
  timeS: number
  ended: boolean
  bodies: number[][]
  belt: { name: string; atMm: number | null; bin: number }[]
  states: string[]
  sensors: { reading: number | null; zone: string | null }[]
  outputs: { output: number; text: string | null; value: number }[]
  doing: number[]
  batteryV: number
  events: Run['events']
  notes: Run['report']['notes']
  commands: Run['report']['outputs']
  messages: Run['report']['messages']
  verdict: { passed: boolean; atS: number; say: string } | null
}
type Frame = { place: Plan | null; about: About | null; moment: Moment | null; rate: number; refused: string | null }

/** Most moments that are kept to draw a trail; then every second one goes. */
const most = 1200

/** What was seen of a playing bench so far, in the shape of a watched run, so that one drawing does for both. */
export class Seen {
  readonly plan: Plan
  readonly run: Run
  private every = 1
  private count = 0

  constructor(
    plan: Plan,
    readonly about: About,
  ) {
    // A hand before a sensor is drawn as what comes before it by the scene.
    this.plan = {
      ...plan,
      visitors: [
        ...plan.visitors,
        ...about.bodies
          .filter((b) => b.kind === 'visitor' && !plan.visitors.some((v) => v.say === b.name))
          .map((b) => ({ line: 0, say: b.name, sensor: b.name.slice(b.name.indexOf(' before ') + 8) })),
      ],
    }
    this.run = {
      outcome: 'play',
      events: [],
      held: [],
      signals: {
        rateHz: 30,
        timeS: [],
        batteryV: [],
        bodies: about.bodies.map((b) => ({ name: b.name, kind: b.kind, x: [], y: [], heading: [], speed: [] })),
      },
      report: {
        seed: about.seed,
        failure: null,
        outputs: [],
        draws: about.draws,
        states: [],
        notes: [],
        messages: [],
        happenings: [],
      },
    } as unknown as Run
  }

  take(m: Moment) {
    const { signals, events, report } = this.run
    events.push(...m.events)
    report.notes.push(...m.notes)
    report.messages.push(...m.messages)
    const time = signals.timeS as number[]
    // Between two that are kept, the last one stands for now.
    const replaces = this.count % this.every !== 0 && time.length > 1
    this.count++
    const put = <T>(row: T[], value: T) => {
      if (replaces) row[row.length - 1] = value
      else row.push(value)
    }
    put(time, m.timeS)
    m.bodies.forEach((pose, i) => {
      const b = signals.bodies[i]!
      put(b.x, pose[0] ?? null)
      put(b.y, pose[1] ?? null)
      put(b.heading, pose[2] ?? null)
    })
    const fixed = this.about.bodies.length
    m.belt.forEach((t, i) => {
      let b = signals.bodies[fixed + i]
      if (!b) {
        // It was not there before.
        const before = time.length - 1
        b = {
          name: t.name,
          kind: 'on belt',
          x: Array<number | null>(before).fill(null),
          y: [],
          heading: Array<number | null>(before).fill(-1),
          speed: [],
        }
        signals.bodies.push(b)
        b.x.push(t.atMm)
        b.heading.push(t.bin)
        return
      }
      put(b.x, t.atMm)
      put(b.heading, t.bin)
    })
    if (time.length <= most) return
    this.every *= 2
    const thin = <T>(row: T[]) => {
      const last = row.length - 1
      let kept = 0
      for (let k = 0; k <= last; k++) if (k % 2 === 0 || k === last) row[kept++] = row[k]!
      row.length = kept
    }
    thin(time)
    for (const b of signals.bodies) {
      thin(b.x)
      if (b.y.length > 0) thin(b.y)
      if (b.heading.length > 0) thin(b.heading)
    }
  }
}

export const paces = [
  { by: 1, words: 'full speed' },
  { by: 0.5, words: 'half speed' },
  { by: 0.1, words: 'a tenth' },
]

/** A bench that plays: what it shows now, and what can be done to it. */
export function usePlay(rig: string, copy: number, scene: string, seed: number) {
  const [seen, setSeen] = useState<Seen | null>(null)
  const [moment, setMoment] = useState<Moment | null>(null)
  const [rate, setRate] = useState(1)
  const [refused, setRefused] = useState<string | null>(null)
  const [pace, setPace] = useState(1)
  const going = useRef(1)
  useEffect(() => {
    let gone = false
    let stop: (() => void) | undefined
    let made: Seen | null = null
    let waiting: Moment | null = null
    let frame = 0
    setSeen(null)
    setMoment(null)
    setRefused(null)
    setPace(1)
    going.current = 1
    void connect().then((hub) => {
      if (gone) return
      const subscription = hub.stream<Frame>('Play', rig, copy, scene, seed).subscribe({
        next: (f) => {
          if (f.refused) setRefused(f.refused)
          if (f.place && f.about) {
            made = new Seen(f.place, f.about)
            setSeen(made)
          }
          if (!f.moment || !made) return
          made.take(f.moment)
          setRate(f.rate)
          // Drawn once for each frame of the screen, however many moments came meanwhile.
          if (waiting === null)
            frame = requestAnimationFrame(() => {
              setMoment(waiting)
              waiting = null
            })
          waiting = f.moment
        },
        error: () => setRefused('The bench cannot be reached. What was done so far is lost; begin again.'),
        complete: () => undefined,
      })
      stop = () => {
        subscription.dispose()
        void hub.invoke('PutAway').catch(() => undefined)
      }
    })
    return () => {
      gone = true
      cancelAnimationFrame(frame)
      stop?.()
    }
  }, [rig, copy, scene, seed])
  const ask = useCallback(async (call: string, ...with_: unknown[]) => {
    try {
      const hub = await connect()
      const said = await hub.invoke<string | null>(call, ...with_)
      if (call !== 'Kept') setRefused(said)
      return said
    } catch {
      setRefused('The bench cannot be reached.')
      return null
    }
  }, [])
  const go = useCallback(
    (to: number) => {
      if (to > 0) going.current = to
      setPace(to)
      return ask('Pace', to)
    },
    [ask],
  )
  return {
    seen,
    moment,
    rate,
    refused,
    pace,
    act: useCallback((hand: number, begins: boolean, amount: number | null) => ask('Do', hand, begins, amount), [ask]),
    go,
    /** Stands still, or goes on as fast as before. */
    toggle: useCallback(() => go(pace > 0 ? 0 : going.current), [go, pace]),
    step: useCallback(() => {
      setPace(0)
      return ask('StepOn')
    }, [ask]),
    kept: useCallback((name: string) => ask('Kept', name), [ask]),
  }
}
