import { useEffect, useState } from 'react'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import TextField from '@mui/material/TextField'
import { Problem, sentencesOf } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { useJudging, type Heat, type Heats } from './heats'
import { valueWords } from './ScoreSheet'

type Lane = {
  absent: boolean
  value: string
  falls: number
  touches: number
  /** When its stopwatch was started, ms since 1970; null while it stands. */
  since: number | null
  /** What it showed when it was stopped last, ms. */
  before: number
}
type Sheet = [Lane, Lane]

const empty: Lane = { absent: false, value: '', falls: 0, touches: 0, since: null, before: 0 }

// What a judge has written outlives the page, and the stopwatches run on.
const kept = (name: string): Sheet => {
  try {
    return (JSON.parse(localStorage.getItem(name) ?? 'null') as Sheet | null) ?? [empty, empty]
  } catch {
    return [empty, empty]
  }
}

const shown = (lane: Lane, now: number) => ((lane.since === null ? 0 : Math.max(0, now - lane.since)) + lane.before) / 1000
const stopped = (lane: Lane, fills: boolean): Lane =>
  lane.since === null
    ? lane
    : {
        ...lane,
        since: null,
        before: Date.now() - lane.since + lane.before,
        value: fills ? shown(lane, Date.now()).toFixed(2) : lane.value,
      }

/** Both lanes of a heat, each with its stopwatch, falls and touches. */
export function ScoreHeat({ heats, heat }: { heats: Heats; heat: Heat }) {
  const name = `chiton.heat.${heats.id}.${heat.first}.${heat.second}`
  const [sheet, setSheet] = useState<Sheet>(() => kept(name))
  const [now, setNow] = useState(() => Date.now())
  const { score } = useJudging(heats.id)
  const running = sheet.some((l) => l.since !== null)
  // A stopwatch is what is scored only where time is.
  const fills = heats.by === 'time' || heats.by === 'stays'
  useEffect(() => {
    localStorage.setItem(name, JSON.stringify(sheet))
  }, [name, sheet])
  useEffect(() => {
    if (!running) return
    const beat = setInterval(() => setNow(Date.now()), 50)
    return () => clearInterval(beat)
  }, [running])
  const change = (at: number, to: (lane: Lane) => Lane) => {
    score.reset()
    setNow(Date.now())
    setSheet((s) => [at === 0 ? to(s[0]) : s[0], at === 1 ? to(s[1]) : s[1]])
  }
  const startBoth = () => {
    const at = Date.now()
    score.reset()
    setNow(at)
    setSheet((s) => s.map((l) => (l.absent || l.since !== null ? l : { ...l, since: at, before: 0, value: fills ? '' : l.value })) as Sheet)
  }
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const on = e.target as HTMLElement | null
      if (e.ctrlKey || e.altKey || e.metaKey || e.repeat || (on && /^(INPUT|TEXTAREA|SELECT)$/.test(on.tagName))) return
      if (e.key === 's') startBoth()
      else if (e.key === '1' || e.key === '2') change(Number(e.key) - 1, (l) => stopped(l, fills))
      else return
      e.preventDefault()
    }
    window.addEventListener('keydown', press)
    return () => window.removeEventListener('keydown', press)
  })
  const fields = score.error instanceof Problem ? score.error.fields : {}
  const number = (text: string) => (text.trim() === '' ? null : Number(text.trim().replace(',', '.')))
  const nonsense = sheet.some((l) => !l.absent && !Number.isFinite(number(l.value) ?? 0))
  const lane = (l: Lane) => ({ started: !l.absent, value: l.absent ? null : number(l.value), falls: l.falls, touches: l.touches })
  const keep = () =>
    score.mutate(
      { first: heat.first, second: heat.second, one: lane(sheet[0]), other: lane(sheet[1]) },
      {
        onSuccess: () => {
          localStorage.removeItem(name)
          setSheet([empty, empty])
        },
      },
    )
  return (
    <section className="score-heat" aria-label="Score a heat">
      <h2 className="small-head">
        {heats.teams[heat.first]!.name} against {heats.teams[heat.second]!.name}
      </h2>
      <p className="row">
        <Button variant="contained" onClick={startBoth}>
          Start both
        </Button>
        <span className="fine muted">
          Keys: <kbd>s</kbd> starts both, <kbd>1</kbd> and <kbd>2</kbd> stop a lane. At most {heats.limitS} s.
        </span>
      </p>
      <div className="score-lanes">
        {sheet.map((l, i) => {
          const team = heats.teams[i === 0 ? heat.first : heat.second]!.name
          const field = i === 0 ? 'one' : 'other'
          const fault = Object.entries(fields)
            .filter(([f]) => f.startsWith(`${field}.`))
            .map(([, says]) => says.join(' '))
            .join(' ')
          const bad = !l.absent && !Number.isFinite(number(l.value) ?? 0)
          return (
            <fieldset key={i} className="plain-set score-lane">
              <legend>
                Lane {i + 1}: <b>{team}</b>
              </legend>
              <p className="stopwatch mono" role="timer" aria-label={`Stopwatch of ${team}`}>
                {shown(l, now).toFixed(2)} s
              </p>
              <p className="row">
                {l.since === null ? (
                  <Button
                    disabled={l.absent}
                    aria-label={`Start ${team}`}
                    onClick={() => change(i, (x) => ({ ...x, since: Date.now(), before: 0, value: fills ? '' : x.value }))}
                  >
                    Start
                  </Button>
                ) : (
                  <Button variant="contained" aria-label={`Stop ${team}`} onClick={() => change(i, (x) => stopped(x, fills))}>
                    Stop
                  </Button>
                )}
                {l.since === null && l.before > 0 && (
                  <Button variant="text" aria-label={`Go on with ${team}`} onClick={() => change(i, (x) => ({ ...x, since: Date.now() }))}>
                    Go on
                  </Button>
                )}
              </p>
              <TextField
                size="small"
                label={`${valueWords[heats.by]}, ${team}`}
                value={l.value}
                disabled={l.absent}
                onChange={(e) => change(i, (x) => ({ ...x, value: e.target.value }))}
                error={fault !== '' || bad}
                helperText={
                  bad
                    ? 'This is no number.'
                    : fault ||
                      (heats.by === 'time'
                        ? 'Empty where it was not done in time.'
                        : heats.by === 'stays'
                          ? 'Empty where it did not fall.'
                          : '')
                }
                slotProps={{ htmlInput: { inputMode: 'decimal', maxLength: 12 } }}
                fullWidth
              />
              {heats.falls && <Count label="Falls" team={team} value={l.falls} onChange={(falls) => change(i, (x) => ({ ...x, falls }))} />}
              {heats.touches > 0 && (
                <Count
                  label="Touches"
                  team={team}
                  value={l.touches}
                  onChange={(touches) => change(i, (x) => ({ ...x, touches }))}
                  says={l.touches > heats.touches ? 'the run does not count' : `${heats.touches} allowed`}
                />
              )}
              <FormControlLabel
                control={
                  <Checkbox checked={l.absent} onChange={(e) => change(i, (x) => ({ ...x, absent: e.target.checked, since: null }))} />
                }
                label={`${team} could not start`}
              />
            </fieldset>
          )
        })}
      </div>
      {score.isError && (
        <Faults
          sentences={
            fields.heat ?? (Object.keys(fields).length > 0 ? ['It is not kept: something above is wrong.'] : sentencesOf(score.error))
          }
        />
      )}
      <p className="row">
        <Button variant="contained" disabled={score.isPending || running || nonsense} onClick={keep}>
          Keep the result
        </Button>
        <Button variant="text" onClick={() => setSheet([empty, empty])}>
          Empty the sheet
        </Button>
      </p>
    </section>
  )
}

function Count({
  label,
  team,
  value,
  onChange,
  says,
}: {
  label: string
  team: string
  value: number
  onChange: (value: number) => void
  says?: string
}) {
  return (
    <p className="row" role="group" aria-label={`${label} of ${team}`}>
      <span style={{ minWidth: 70 }}>{label}</span>
      <Button aria-label={`One of ${label.toLowerCase()} less, ${team}`} disabled={value === 0} onClick={() => onChange(value - 1)}>
        −
      </Button>
      <output className="mono" style={{ minWidth: 24, textAlign: 'center' }}>
        {value}
      </output>
      <Button aria-label={`One of ${label.toLowerCase()} more, ${team}`} disabled={value >= 99} onClick={() => onChange(value + 1)}>
        +
      </Button>
      {says && <span className="fine muted">{says}</span>}
    </p>
  )
}
