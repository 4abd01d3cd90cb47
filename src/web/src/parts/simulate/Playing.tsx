import { useEffect, useMemo, useRef, useState } from 'react'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useRig } from '../../app/rig'
import type { Scene } from '../../app/scenes'
import { settings, useSettings } from '../../app/settings'
import { seconds, show } from '../../shared/format'
import { Place } from './Place'
import { paces, usePlay, type Hand, type Moment, type Seen } from './play'
import { Tones } from './tones'

type Props = {
  scene: Scene
  seed: number
  /** Names that other scenes have. */
  taken: readonly string[]
  onLeave: () => void
  /** Keeps a scene and runs it on this seed. */
  onKeep: (text: string, name: string) => void
}

/** The keys of a playing bench beside those of its hands. */
const keys = [
  ['Space', 'stand still, go on'],
  ['.', 'to the next transition'],
  ['−', 'slower'],
  ['+', 'faster'],
] as const

/** A rig on the bench in real time, to press, block and unplug. */
export function Playing({ scene, seed, taken, onLeave, onKeep }: Props) {
  const { rig } = useRig()
  const play = usePlay(rig.id, rig.copy, scene.name, seed)
  const { seen, moment, pace, rate } = play
  const hands = useMemo(() => seen?.about.hands ?? [], [seen])
  const [amounts, setAmounts] = useState<Record<number, string>>({})
  const [name, setName] = useState(() => fresh('Played', taken))
  const [hears, setHears] = useState(false)
  const tones = useRef(new Tones())
  const top = useRef<HTMLElement>(null)
  const down = useRef(new Set<number>())
  // What is pressed looks pressed at once, also while the bench stands and takes it up later.
  const [pressed, setPressed] = useState<ReadonlySet<number>>(new Set())
  const press = (i: number, is: boolean) =>
    setPressed((before) => {
      const next = new Set(before)
      if (is) next.add(i)
      else next.delete(i)
      return next
    })
  useEffect(() => {
    const heard = tones.current
    return () => heard.close()
  }, [])
  useEffect(() => top.current?.focus(), [])
  const ended = moment?.ended === true
  const single = useSettings().keys
  useEffect(() => {
    if (!hears || !moment || !seen) return
    tones.current.sound(
      new Map(
        pace === 0 || ended
          ? []
          : moment.outputs.filter((o) => seen.about.outputs[o.output]?.kind === 'Sounder').map((o) => [o.output, o.value] as const),
      ),
    )
  }, [hears, moment, seen, pace, ended])

  const amountOf = (i: number) => {
    const a = hands[i]?.amount
    if (!a) return null
    const typed = Number(amounts[i])
    return amounts[i] && Number.isFinite(typed) ? typed : a.usual
  }
  const begin = (i: number) => {
    if (ended || hands[i]?.why || down.current.has(i)) return
    down.current.add(i)
    const off = hands[i]!.lasts === 'untilAgain' && pressed.has(i)
    press(i, !off && hands[i]!.lasts !== 'moment')
    void play.act(i, !off, off ? null : amountOf(i))
  }
  const end = (i: number) => {
    if (!down.current.delete(i)) return
    if (hands[i]?.lasts !== 'held') return
    press(i, false)
    void play.act(i, false, null)
  }
  const now = useRef({ begin, end, play, ended })
  now.current = { begin, end, play, ended }
  useEffect(() => {
    const typing = (e: KeyboardEvent) => (e.target as HTMLElement).closest('input, textarea, select, [role="dialog"]') !== null
    const byKey = (key: string) => hands.findIndex((h) => h.key === key)
    const onDown = (e: KeyboardEvent) => {
      // Single keys can be switched off in the settings.
      if (!settings().keys || typing(e) || e.ctrlKey || e.metaKey || e.altKey) return
      const { begin, play } = now.current
      const i = byKey(e.key)
      if (i >= 0) {
        e.preventDefault()
        if (!e.repeat) begin(i)
        return
      }
      // A button that is open to the space bar keeps it.
      if (e.key === ' ' && (e.target as HTMLElement).closest('button, a, summary') === null) {
        e.preventDefault()
        void play.toggle()
      } else if (e.key === '.') void play.step()
      else if (e.key === '-' || e.key === '+' || e.key === '=') {
        const at = paces.findIndex((p) => p.by === play.pace)
        const to = paces[Math.min(paces.length - 1, Math.max(0, (at < 0 ? 0 : at) + (e.key === '-' ? 1 : -1)))]!
        void play.go(to.by)
      }
    }
    const onUp = (e: KeyboardEvent) => {
      const i = byKey(e.key)
      if (i >= 0) now.current.end(i)
    }
    // A window that loses its keys lets go of everything.
    const onBlur = () => [...down.current].forEach((i) => now.current.end(i))
    window.addEventListener('keydown', onDown)
    window.addEventListener('keyup', onUp)
    window.addEventListener('blur', onBlur)
    return () => {
      window.removeEventListener('keydown', onDown)
      window.removeEventListener('keyup', onUp)
      window.removeEventListener('blur', onBlur)
    }
  }, [hands])

  const keep = async () => {
    const text = await play.kept(name.trim())
    if (text) onKeep(text, name.trim())
  }
  const slow = pace > 0 && !ended && moment !== null && moment.timeS > 1 && rate < 0.8 * pace
  const clash = taken.includes(name.trim())
  return (
    <section ref={top} tabIndex={-1} className="playing" aria-label="Playing">
      <div className="row" style={{ marginBottom: 6 }}>
        <h2 className="page-title" style={{ margin: 0 }}>
          Playing
        </h2>
        <span className="mono play-clock" data-testid="play-clock">
          {seconds(moment?.timeS ?? 0)}
        </span>
        <span className="push" />
        <Button onClick={() => void play.toggle()} disabled={!moment || ended}>
          {pace > 0 ? 'Stand still' : 'Go on'}
        </Button>
        <Button onClick={() => void play.step()} disabled={!moment || ended}>
          Next transition
        </Button>
        <span role="group" aria-label="Speed" className="row" style={{ gap: 0 }}>
          {paces.map((p) => (
            <Button key={p.by} aria-pressed={pace === p.by} disabled={ended} onClick={() => void play.go(p.by)}>
              {p.words}
            </Button>
          ))}
        </span>
        <Button onClick={onLeave}>Leave</Button>
      </div>
      <p className="fine muted" style={{ margin: '0 0 6px' }}>
        {scene.name}, seed <span className="mono">{seed}</span>, at most {show(scene.endsS)} s.{' '}
        {slow && <b>This place is so full that the bench goes at {show(rate, 2)} of full speed.</b>}
      </p>
      {play.refused && (
        <p className="fault" role="alert">
          {play.refused}
        </p>
      )}
      {moment?.verdict && (
        <p data-testid="play-verdict" style={{ margin: '0 0 6px' }}>
          <b className={moment.verdict.passed ? 'holds' : 'stops'}>{moment.verdict.passed ? 'Passed' : 'Failed'}</b> {moment.verdict.say}
        </p>
      )}
      {seen && <Place plan={seen.plan} run={moment ? seen.run : null} t={moment?.timeS ?? 0} eventIndex={null} line={null} lamps={false} />}
      {seen && moment && <Now seen={seen} moment={moment} />}
      <div className="play-grid">
        <section>
          <h3 className="small-head">What you can do</h3>
          <div className="hands" role="group" aria-label="What you can do">
            {hands.map((h, i) => (
              <HandKey
                key={h.sentence}
                hand={h}
                on={pressed.has(i)}
                off={!moment || ended}
                amount={amounts[i] ?? (h.amount ? String(h.amount.usual) : '')}
                onAmount={(v) => setAmounts({ ...amounts, [i]: v })}
                onBegin={() => begin(i)}
                onEnd={() => end(i)}
              />
            ))}
          </div>
          <p className="fine muted">
            {single ? (
              <>
                Keys:{' '}
                {keys.map(([key, words], i) => (
                  <span key={key}>
                    {i > 0 && ', '}
                    <kbd>{key}</kbd> {words}
                  </span>
                ))}
                . A button with a key is held as long as its key is down.
              </>
            ) : (
              'Single keys are switched off in the settings; every button works with Enter and the space bar.'
            )}
          </p>
          <label className="row" style={{ gap: 8 }}>
            <input
              type="checkbox"
              checked={hears}
              onChange={(e) => {
                if (e.target.checked) tones.current.open()
                else tones.current.sound(new Map())
                setHears(e.target.checked)
              }}
            />
            Hear the tones
          </label>
        </section>
        <section>
          <h3 className="small-head">What happened</h3>
          <div role="log" aria-label="Transitions">
            <ol className="play-log">
              {(seen?.run.events ?? [])
                .slice(-9)
                .reverse()
                .map((e, i) => (
                  <li key={`${e.timeS} ${e.to} ${i}`}>
                    <span className="mono">{seconds(e.timeS)}</span>{' '}
                    <b>{e.from === null ? `Begins in ${e.to}` : e.from === e.to ? `Stays in ${e.to}` : `${e.from} to ${e.to}`}</b>.{' '}
                    {e.from !== null && e.say}
                  </li>
                ))}
            </ol>
          </div>
          <h3 className="small-head">Keep what you did</h3>
          <p className="fine">
            What you did becomes lines of a scene with their moments. Run on the same seed it is the same run, and Prove can count it.
          </p>
          <form
            className="row"
            style={{ marginTop: 12 }}
            onSubmit={(e) => {
              e.preventDefault()
              if (!clash && name.trim()) void keep()
            }}
          >
            <TextField
              size="small"
              label="Name of the scene"
              value={name}
              onChange={(e) => setName(e.target.value)}
              error={clash}
              helperText={clash ? 'There is a scene of that name.' : undefined}
              slotProps={{ htmlInput: { maxLength: 60 } }}
            />
            <Button type="submit" disabled={!moment || clash || !name.trim()}>
              Keep and run again
            </Button>
          </form>
        </section>
      </div>
    </section>
  )
}

function fresh(name: string, taken: readonly string[]): string {
  if (!taken.includes(name)) return name
  for (let n = 2; ; n++) if (!taken.includes(`${name} ${n}`)) return `${name} ${n}`
}

/** Where everything stands, in words. */
function Now({ seen, moment }: { seen: Seen; moment: Moment }) {
  const { about } = seen
  const several = new Set(about.regions.map((r) => r.program)).size > 1
  return (
    <div className="play-now" data-testid="play-now">
      {about.regions.map((r, i) => (
        <span key={`${r.program} ${r.region}`}>
          {several ? `${r.program}, ${r.region}` : r.region} <b>{moment.states[i]}</b>
        </span>
      ))}
      {about.sensors.map((s, i) => {
        const now = moment.sensors[i]
        return (
          <span key={s.name}>
            {s.name}{' '}
            <b>
              {now?.zone ?? (now?.reading === null || now?.reading === undefined ? 'nothing' : '')}
              {now?.reading !== null && now?.reading !== undefined && now.zone !== 'down' && now.zone !== 'up' && (
                <span className="mono"> {show(now.reading, 3)}</span>
              )}
            </b>
          </span>
        )
      })}
      {moment.outputs.map((o) => {
        const it = about.outputs[o.output]!
        return (
          <span key={it.name} className="lit">
            {it.name}{' '}
            <b>
              {it.kind === 'Sounder'
                ? `sounds${o.value > 0 ? ` ${show(o.value)} Hz` : ''}`
                : it.kind === 'Display'
                  ? `shows ${o.text || show(o.value)}`
                  : o.text || 'on'}
            </b>
          </span>
        )
      })}
      <span>
        pack <b className="mono">{show(moment.batteryV, 3)} V</b>
      </span>
      {moment.doing.map((d) => (
        <span key={about.hands[d]!.sentence} className="lit">
          <b>{about.hands[d]!.words}</b>
        </span>
      ))}
    </div>
  )
}

type HandKeyProps = {
  hand: Hand
  on: boolean
  off: boolean
  amount: string
  onAmount: (v: string) => void
  onBegin: () => void
  onEnd: () => void
}

/** Something that can be done: its button with its key, and the number that goes with it. */
function HandKey({ hand, on, off, amount, onAmount, onBegin, onEnd }: HandKeyProps) {
  return (
    <div className={hand.amount ? 'hand wide-hand' : 'hand'}>
      <button
        type="button"
        className="hand-key"
        aria-pressed={hand.lasts === 'moment' ? undefined : on}
        disabled={off || hand.why !== null}
        title={hand.why ?? undefined}
        onPointerDown={(e) => {
          if (e.button !== 0) return
          e.currentTarget.setPointerCapture(e.pointerId)
          onBegin()
        }}
        onPointerUp={onEnd}
        onPointerCancel={onEnd}
        onContextMenu={(e) => e.preventDefault()}
        onKeyDown={(e) => {
          if ((e.key === ' ' || e.key === 'Enter') && !e.repeat) {
            e.preventDefault()
            onBegin()
          }
        }}
        onKeyUp={(e) => {
          if (e.key === ' ' || e.key === 'Enter') onEnd()
        }}
        onBlur={onEnd}
      >
        <span>{hand.words}</span>
        {hand.key && <kbd>{hand.key}</kbd>}
      </button>
      {hand.amount && (
        <label className="hand-amount">
          <input
            inputMode="decimal"
            value={amount}
            onChange={(e) => onAmount(e.target.value)}
            aria-label={`${hand.words}, ${hand.amount.unit}`}
            className="mono"
          />{' '}
          {hand.amount.unit}
        </label>
      )}
      {hand.why && <span className="fine muted">{hand.why}</span>}
    </div>
  )
}
