import { useEffect, useRef, useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import TextField from '@mui/material/TextField'
import { Link } from 'react-router'
import { client, Problem, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'

type Row = {
  name: string
  points: string
  runS: string
  resetS: string
  success: string
  low: string
  high: string
  tries: string
  from: string
}
type Plan = { limitS: string; penalty: string; fixed: boolean; own: string; rows: Row[] }

const empty: Row = { name: '', points: '', runS: '', resetS: '10', success: '', low: '', high: '', tries: '', from: '' }
const fresh: Plan = { limitS: '120', penalty: '0', fixed: false, own: '', rows: [empty] }
const kept = 'chiton.match'

const stored = (): Plan => {
  try {
    const read = JSON.parse(localStorage.getItem(kept) ?? 'null') as Partial<Plan> | null
    return read && Array.isArray(read.rows) ? { ...fresh, ...read, rows: read.rows.map((r) => ({ ...empty, ...r })) } : fresh
  } catch {
    return fresh
  }
}

const number = (s: string) => (s.trim() === '' ? null : Number(s.trim().replace(',', '.')))
const bad = (s: string) => s.trim() !== '' && !Number.isFinite(number(s))
const columns: [keyof Row, string, string, number][] = [
  ['points', 'Points', 'decimal', 90],
  ['runS', 'Run, s', 'numeric', 90],
  ['resetS', 'Reset, s', 'numeric', 90],
  ['success', 'Success, in 100', 'decimal', 120],
  ['low', 'at least', 'decimal', 90],
  ['high', 'at most', 'decimal', 90],
  ['tries', 'Tries', 'numeric', 80],
]
const share = (s: string) => {
  const n = number(s)
  return n === null ? null : n / 100
}
const signed = (n: number) => `${n < 0 ? '−' : '+'}${show(Math.abs(n), 3)}`

/** A match planned: what to try first, what to repeat and when to stop, from the log, the bench or typed figures. */
export default function MatchPage() {
  const { rig } = useRig()
  const [plan, setPlan] = useState(stored)
  const missions = useQuery({ queryKey: ['missions'], queryFn: () => unwrap(client.GET('/api/missions')), staleTime: 0 })
  useEffect(() => {
    try {
      localStorage.setItem(kept, JSON.stringify(plan))
    } catch {
      // A browser that keeps nothing: the plan lasts as long as the page.
    }
  }, [plan])
  const sum = useMutation({
    mutationFn: (p: Plan) =>
      unwrap(
        client.POST('/api/sums/match-plan', {
          body: {
            limitS: number(p.limitS),
            penaltyPerTouch: number(p.penalty) ?? 0,
            fixedOrder: p.fixed,
            own:
              p.own.trim() === ''
                ? null
                : p.own
                    .split(/[,;\n]/)
                    .map((n) => n.trim())
                    .filter(Boolean),
            missions: p.rows.map((r) => ({
              name: r.name.trim(),
              points: number(r.points),
              runS: number(r.runS),
              resetS: number(r.resetS),
              success: share(r.success),
              tries: number(r.tries),
              successLow: share(r.low),
              successHigh: share(r.high),
            })),
          },
        }),
      ),
  })
  const set = (change: Partial<Plan>) => {
    setPlan({ ...plan, ...change })
    if (sum.data || sum.isError) sum.reset()
  }
  const put = (i: number, change: Partial<Row>) => set({ rows: plan.rows.map((r, k) => (k === i ? { ...r, ...change } : r)) })
  const sheet = useRef<HTMLFormElement>(null)
  const move = (i: number, by: number) => {
    const to = i + by
    if (to < 0 || to >= plan.rows.length) return
    const rows = [...plan.rows]
    const [row] = rows.splice(i, 1)
    rows.splice(to, 0, row!)
    set({ rows })
    // What was held stays held: the same field, or button, of the mission that moved.
    const groups = sheet.current?.querySelectorAll('.log-mission')
    const held = [...(groups?.[i]?.querySelectorAll('input, button') ?? [])].indexOf(document.activeElement as Element)
    requestAnimationFrame(() => {
      const there = groups?.[to]?.querySelectorAll<HTMLElement>('input, button')[held]
      const other = there?.closest('.log-mission')?.querySelector<HTMLElement>('input')
      ;(there?.matches(':disabled') ? other : there)?.focus()
    })
  }
  const add = (m: Schemas['Mission']) => {
    const row: Row = {
      ...empty,
      name: m.name.replaceAll(',', ''),
      success: show(100 * m.success, 3),
      low: show(100 * m.low, 3),
      high: show(100 * m.high, 3),
      runS: m.runS === null || m.runS === undefined ? '' : String(m.runS),
      from: m.say,
    }
    // An empty row is filled before another is added.
    const at = plan.rows.findIndex((r) => r.name.trim() === '' && r.points.trim() === '')
    set({ rows: at < 0 ? [...plan.rows, row] : plan.rows.map((r, k) => (k === at ? { ...row, points: r.points, tries: r.tries } : r)) })
  }
  const errors = sum.error instanceof Problem ? sum.error.fields : {}
  const faultOf = (field: string) => errors[field]?.[0] ?? ''
  const local = [plan.limitS, plan.penalty, ...plan.rows.flatMap((r) => columns.map(([k]) => r[k]))].some(bad)
  const result = sum.data?.result
  const offered = (missions.data ?? []).filter((m) => !plan.rows.some((r) => r.name === m.name.replaceAll(',', '')))
  const limited = result?.policy.some((p) => p.triesLeft.some((t) => t !== null)) ?? false
  const guessed = plan.rows.filter((r) => r.success.trim() !== '' && r.from === '' && r.low.trim() === '')
  return (
    <main className="page log-match">
      <h2 className="page-title">Match plan</h2>
      <p className="row no-print">
        <Button component={Link} to={`/rigs/${rig.id}/log?copy=${rig.copy}`} variant="text">
          Back to the log
        </Button>
        <Button variant="text" onClick={() => window.print()}>
          Print
        </Button>
      </p>
      <form
        ref={sheet}
        onSubmit={(e) => {
          e.preventDefault()
          if (!local) sum.mutate(plan)
        }}
      >
        <div className="row log-rules">
          <TextField
            size="small"
            label="The match lasts, s"
            value={plan.limitS}
            error={bad(plan.limitS) || faultOf('limitS') !== ''}
            helperText={bad(plan.limitS) ? 'A number, as 120.' : faultOf('limitS')}
            onChange={(e) => set({ limitS: e.target.value })}
            slotProps={{ htmlInput: { inputMode: 'numeric' } }}
            style={{ width: 160 }}
          />
          <TextField
            size="small"
            label="A failed try costs"
            value={plan.penalty}
            error={bad(plan.penalty) || faultOf('penaltyPerTouch') !== ''}
            helperText={bad(plan.penalty) ? 'A number, as 5.' : faultOf('penaltyPerTouch')}
            onChange={(e) => set({ penalty: e.target.value })}
            slotProps={{ htmlInput: { inputMode: 'decimal' } }}
            style={{ width: 160 }}
          />
          <FormControlLabel
            control={<Checkbox checked={plan.fixed} onChange={(e) => set({ fixed: e.target.checked })} />}
            label="Only in this order"
          />
        </div>
        <h3 className="small-head">Missions</h3>
        {plan.rows.map((r, i) => (
          <div
            key={i}
            className="row log-mission"
            role="group"
            aria-label={`Mission ${i + 1}`}
            onKeyDown={(e) => {
              if (!e.altKey || (e.key !== 'ArrowUp' && e.key !== 'ArrowDown')) return
              e.preventDefault()
              move(i, e.key === 'ArrowUp' ? -1 : 1)
            }}
          >
            <TextField
              size="small"
              label="Mission"
              value={r.name}
              error={faultOf(`missions[${i}].name`) !== ''}
              helperText={faultOf(`missions[${i}].name`)}
              onChange={(e) => put(i, { name: e.target.value })}
              slotProps={{ htmlInput: { maxLength: 60 } }}
              style={{ width: 220 }}
            />
            {columns.map(([k, label, mode, width]) => {
              const sums = { low: 'successLow', high: 'successHigh' } as Record<string, string>
              const fault = faultOf(`missions[${i}].${sums[k] ?? k}`)
              return (
                <TextField
                  key={k}
                  size="small"
                  label={label}
                  value={r[k]}
                  error={bad(r[k]) || fault !== ''}
                  helperText={bad(r[k]) ? 'A number.' : fault}
                  onChange={(e) => put(i, { [k]: e.target.value, ...(k === 'success' ? { from: '' } : {}) })}
                  slotProps={{ htmlInput: { inputMode: mode as 'decimal' | 'numeric' } }}
                  style={{ width }}
                />
              )
            })}
            <span className="log-mission-acts no-print">
              {plan.rows.length > 1 && (
                <>
                  <Button
                    variant="text"
                    className="no-print"
                    disabled={i === 0}
                    onClick={() => move(i, -1)}
                    aria-label={`Move mission ${i + 1} up`}
                  >
                    Up
                  </Button>
                  <Button
                    variant="text"
                    className="no-print"
                    disabled={i === plan.rows.length - 1}
                    onClick={() => move(i, 1)}
                    aria-label={`Move mission ${i + 1} down`}
                  >
                    Down
                  </Button>
                </>
              )}
              <Button
                variant="text"
                className="no-print"
                disabled={plan.rows.length === 1}
                onClick={() => set({ rows: plan.rows.filter((_, k) => k !== i) })}
                aria-label={`Take out mission ${i + 1}`}
              >
                Take out
              </Button>
            </span>
            {r.from && <small className="muted log-from">{r.from}</small>}
          </div>
        ))}
        <div className="row no-print">
          <Button onClick={() => set({ rows: [...plan.rows, empty] })} disabled={plan.rows.length >= 10}>
            Another mission
          </Button>
          {offered.length > 0 && plan.rows.length < 11 && (
            <TextField
              select
              size="small"
              label="From the log or the bench"
              value=""
              onChange={(e) => {
                const m = offered.find((o) => o.name === e.target.value)
                if (m) add(m)
              }}
              slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
              style={{ minWidth: 280 }}
            >
              <option value="">choose a copy</option>
              {offered.map((m) => (
                <option key={m.name} value={m.name}>
                  {m.name}: {m.say}
                </option>
              ))}
            </TextField>
          )}
        </div>
        <TextField
          size="small"
          label="Your own order, a name a try"
          placeholder="Seeding, Lift, Seeding"
          value={plan.own}
          error={Object.keys(errors).some((k) => k.startsWith('own'))}
          helperText={errors[Object.keys(errors).find((k) => k.startsWith('own')) ?? '']?.[0] ?? 'Compared with the best. Empty for none.'}
          onChange={(e) => set({ own: e.target.value })}
          fullWidth
          style={{ margin: '16px 0 12px' }}
        />
        <div className="row no-print">
          <Button type="submit" variant="contained" disabled={sum.isPending || local}>
            Plan it
          </Button>
          <Button variant="text" onClick={() => set(fresh)}>
            Start anew
          </Button>
        </div>
        {sum.isError && <Faults sentences={sentencesOf(sum.error)} />}
      </form>
      {result && (
        <section aria-label="The best plan" data-testid="match-plan">
          <h3 className="small-head">The best plan</h3>
          <p className="lead">
            {result.first === null || result.first === undefined ? (
              'Nothing is worth a try in this time.'
            ) : (
              <>
                Begin with <b>{result.first}</b>. In the mean {show(result.expectedPoints, 4)} points, give or take{' '}
                {show(result.sdPoints, 3)}.
              </>
            )}
          </p>
          {result.order.length > 1 && <p>As long as each try succeeds: {result.order.join(', then ')}.</p>}
          {result.own && (
            <p>
              Your own order comes to {show(result.own.expectedPoints, 4)} points, give or take {show(result.own.sdPoints, 3)}:{' '}
              {result.expectedPoints - result.own.expectedPoints < 0.005
                ? 'as good as the best.'
                : `${show(result.expectedPoints - result.own.expectedPoints, 3)} fewer than the best in the mean.`}
            </p>
          )}
          <ul>
            <li>One more minute would bring {signed(result.oneMoreMinute)} points.</li>
            {[...result.better]
              .sort((a, b) => b.gain - a.gain)
              .slice(0, 3)
              .map((b) => (
                <li key={b.name}>
                  If {b.name} succeeded in 10 more of 100 tries: {signed(b.gain)} points.
                </li>
              ))}
            {result.hangsOn.map((h) => (
              <li key={h.name}>
                How often {h.name} succeeds is not known well: the plan comes to {show(h.low, 4)} to {show(h.high, 4)} points for it.
              </li>
            ))}
            {guessed.length > 0 && (
              <li>
                {guessed.map((r) => r.name || 'a mission').join(', ')}: the success was typed. Say at least and at most, and the plan says
                how far it hangs on it.
              </li>
            )}
          </ul>
          <h3 className="small-head">What to do in each case</h3>
          <div className="wide" tabIndex={0} role="region" aria-label="What to do in each case">
            <table className="ruled">
              <thead>
                <tr>
                  <th scope="col">Done</th>
                  <th scope="col">Time left</th>
                  {limited && <th scope="col">Tries left</th>}
                  <th scope="col">Next</th>
                  <th scope="col">Comes by, in 100</th>
                </tr>
              </thead>
              <tbody>
                {result.policy.slice(0, 60).map((p, i) => (
                  <tr key={i}>
                    <th scope="row">{p.done.length === 0 ? 'nothing yet' : p.done.join(', ')}</th>
                    <td className="mono">{p.fromS === p.toS ? `${p.fromS} s` : `${p.fromS} to ${p.toS} s`}</td>
                    {limited && (
                      <td>
                        {p.triesLeft
                          .map((t, k) => (t === null ? '' : `${sum.variables?.rows[k]?.name ?? ''}: ${t}`))
                          .filter(Boolean)
                          .join(', ')}
                      </td>
                    )}
                    <td>{p.next ?? 'stop'}</td>
                    <td className="mono">{show(100 * p.likelihood, 3)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {(result.policyTruncated || result.policy.length > 60) && <p className="fine muted">The likeliest cases; there are more.</p>}
        </section>
      )}
    </main>
  )
}
