import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRefresh, useRig, useRunOnce } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'

type Tuned = Schemas['TuneView']
type Point = Tuned['points'][number]
const most = 4

/** Better values of up to four numbers of the program. */
export function Tune({
  scene,
  seed,
  onLeave,
  working,
}: {
  scene: string
  seed: number
  onLeave: () => void
  working: { begin: () => string; end: () => void }
}) {
  const { rig, say } = useRig()
  const refresh = useRefresh()
  const navigate = useNavigate()
  const once = useRunOnce()
  const [chosen, setChosen] = useState<Record<string, { from: string; to: string }>>({})
  const numbers = useQuery({
    queryKey: [...partKey(rig.id, 'tune', rig.copy), rig.revision],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/tune', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
    retry: false,
  })
  const tune = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/tune', {
          params: { path: { id: rig.id } },
          body: {
            numbers: Object.entries(chosen).map(([key, r]) => ({
              line: Number(key.split(' ')[0]),
              index: Number(key.split(' ')[1]),
              from: Number(r.from),
              to: Number(r.to),
            })),
            seed,
            copy: rig.copy,
            program: numbers.data!.program,
            scene,
            job: working.begin(),
          },
        }),
      ),
    onSettled: () => working.end(),
  })
  const at = (found: Tuned, p: Point) => found.numbers.map((n, d) => ({ line: n.number.line, index: n.number.index, value: p.values[d]! }))
  const take = useMutation({
    mutationFn: ({ found, point }: { found: Tuned; point: Point }) =>
      unwrap(
        client.POST('/api/rigs/{id}/tune/take', {
          params: { path: { id: rig.id } },
          body: {
            baseRevision: found.revision,
            numbers: at(found, point),
            source: `tuned in ${found.scene}: ${point.passes} of ${point.runs} runs pass, seed ${found.seed}`,
            program: found.program,
            copy: rig.copy,
            by: tabId,
          },
        }),
      ),
    onSuccess: async (done) => {
      say(`The tuned numbers stand in the program now: revision ${done.revision}.`)
      await refresh()
      onLeave()
    },
  })
  const tryIt = async (found: Tuned, point: Point) => {
    await once.mutateAsync({ seed, scene: found.scene, numbers: at(found, point), program: found.program })
    void navigate({ pathname: `/rigs/${rig.id}/simulate`, search: `?copy=${rig.copy}` })
  }
  const full = Object.keys(chosen).length >= most
  const found = tune.data
  const scored = found?.points.some((p) => p.score !== 0) ?? false
  return (
    <section className="proof-section no-print" aria-label="Tune">
      <div className="row">
        <h3 className="small-title" style={{ margin: 0 }}>
          Look for better numbers
        </h3>
        <span className="push" />
        <Button onClick={onLeave}>Close</Button>
      </div>
      {numbers.isError && <Faults sentences={sentencesOf(numbers.error)} />}
      {numbers.data?.numbers.length === 0 && <p className="muted">This program has no number that could be other.</p>}
      {numbers.data && numbers.data.numbers.length > 0 && (
        <form
          onSubmit={(e) => {
            e.preventDefault()
            if (!tune.isPending) tune.mutate()
          }}
        >
          <p className="fine muted">
            Choose up to four numbers of the program and how far each may go. Many values are tried with few runs, the better ones with
            more, and the last are run again on fresh luck.
          </p>
          <ul className="tune-rows">
            {numbers.data.numbers.map((n) => {
              const key = `${n.line} ${n.index}`
              const own = chosen[key]
              const name = `${show(n.value, 4)}${n.unit ? ` ${n.unit}` : ''}`
              return (
                <li key={key}>
                  <label>
                    <Checkbox
                      checked={own !== undefined}
                      disabled={own === undefined && full}
                      onChange={(e) =>
                        setChosen((c) => {
                          const next = { ...c }
                          if (e.target.checked) next[key] = { from: show(n.from, 4), to: show(n.to, 4) }
                          else delete next[key]
                          return next
                        })
                      }
                      size="small"
                      slotProps={{ input: { 'aria-label': `${name} in ${n.sentence}` } }}
                    />
                    <span className="mono">{name}</span> <span className="muted fine">{n.owner ? `${n.owner}: ` : ''}</span>
                    {n.sentence}
                  </label>
                  {own && (
                    <span className="row">
                      {(['from', 'to'] as const).map((end) => (
                        <TextField
                          key={end}
                          size="small"
                          label={`${end === 'from' ? 'From' : 'To'}${n.unit ? `, ${n.unit}` : ''}`}
                          value={own[end]}
                          onChange={(e) => setChosen((c) => ({ ...c, [key]: { ...c[key]!, [end]: e.target.value } }))}
                          sx={{ width: 100 }}
                          slotProps={{ htmlInput: { inputMode: 'decimal', className: 'mono' } }}
                        />
                      ))}
                    </span>
                  )}
                </li>
              )
            })}
          </ul>
          <Button type="submit" variant="contained" disabled={tune.isPending || Object.keys(chosen).length === 0}>
            Tune {Object.keys(chosen).length === 1 ? 'this number' : `these ${Object.keys(chosen).length || ''} numbers`}
          </Button>
        </form>
      )}
      {tune.isError && <Faults sentences={sentencesOf(tune.error)} />}
      {take.isError && <Faults sentences={sentencesOf(take.error)} />}
      {once.isError && <Faults sentences={sentencesOf(once.error)} />}
      {found && (
        <div data-testid="tuned">
          <p style={{ marginTop: 10 }}>
            <b>{found.say}</b> <span className="muted fine">{found.runs} runs in all.</span>
          </p>
          <ul className="fine">
            {found.numbers.map((n, d) => (
              <li key={d}>
                {n.number.sentence}: from <span className="mono">{show(found.good[d]!.from, 4)}</span> to{' '}
                <span className="mono">{show(found.good[d]!.to, 4)}</span>
                {n.number.unit ? ` ${n.number.unit}` : ''} nothing is clearly worse than the best.
              </li>
            ))}
          </ul>
          <Front found={found} />
          <div className="wide" tabIndex={0} role="group" aria-label="What was tried">
            <table className="ruled">
              <thead>
                <tr>
                  {found.numbers.map((n, d) => (
                    <th key={d}>{n.number.unit || 'count'}</th>
                  ))}
                  <th>Passed</th>
                  <th>This copy</th>
                  <th>Takes</th>
                  {scored && <th>Score</th>}
                  <th>Against now</th>
                  <th>
                    <span className="hidden-text">Use</span>
                  </th>
                </tr>
              </thead>
              <tbody>
                {found.points
                  .filter((p) => p.fresh)
                  .map((p, i) => {
                    const words = p.values.map((v) => show(v, 4)).join(', ')
                    return (
                      <tr key={i}>
                        {p.values.map((v, d) => (
                          <td key={d}>
                            <span className={`num ${p.isNow ? '' : 'calculated'}`}>{show(v, 4)}</span>
                          </td>
                        ))}
                        <td className="mono">
                          {p.passes} of {p.runs}
                        </td>
                        <td className="mono">
                          {Math.round(100 * p.copy.low)} to {Math.round(100 * p.copy.high)}
                        </td>
                        <td className="mono">{p.cycleS === null ? '' : `${show(p.cycleS)} s`}</td>
                        {scored && <td className="mono">{show(p.score)}</td>}
                        <td>
                          {p.isNow ? 'as it is now' : (p.against?.say?.split(':')[0] ?? '')}
                          {p.onFront && <span className="muted fine"> none better in every way</span>}
                          {p.atEdge.length > 0 && <span className="muted fine"> at the edge of its range</span>}
                        </td>
                        <td>
                          {!p.isNow && (
                            <span className="row">
                              <Button
                                onClick={() => void tryIt(found, p)}
                                disabled={once.isPending}
                                aria-label={`Try ${words} in the bench`}
                              >
                                Try it
                              </Button>
                              <Button
                                onClick={() => take.mutate({ found, point: p })}
                                disabled={take.isPending}
                                aria-label={`Use ${words}`}
                              >
                                Use it
                              </Button>
                            </span>
                          )}
                        </td>
                      </tr>
                    )
                  })}
              </tbody>
            </table>
          </div>
        </div>
      )}
    </section>
  )
}

/** Rate against time: those that none beats in every way are joined. */
function Front({ found }: { found: Tuned }) {
  const { ref, width } = useWidth<HTMLDivElement>(600, 280)
  const shown = found.points.filter((p) => p.cycleS !== null)
  if (shown.length < 2) return null
  const times = shown.map((p) => p.cycleS!)
  const [low, high] = [Math.min(...times), Math.max(...times)]
  const x = (t: number) => 50 + (high > low ? (t - low) / (high - low) : 0.5) * (width - 80)
  const y = (p: Point) => 150 - 120 * (p.passes / p.runs)
  const front = shown.filter((p) => p.onFront).sort((a, b) => a.cycleS! - b.cycleS!)
  const best = found.best >= 0 ? found.points[found.best] : undefined
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={190}
        role="img"
        aria-label={`Rate against time of ${shown.length} sets of values; ${front.length} are not beaten in every way.`}
      >
        <line x1={44} x2={width - 20} y1={150} y2={150} stroke="var(--edge)" />
        <line x1={44} x2={44} y1={26} y2={150} stroke="var(--edge)" />
        <g fontSize={12} fill="var(--muted)">
          <text x={38} y={154} textAnchor="end">
            0
          </text>
          <text x={38} y={34} textAnchor="end">
            100
          </text>
          <text x={4} y={16}>
            in 100
          </text>
          <text x={x(low)} y={168}>
            {show(low)} s
          </text>
          {high > low && (
            <text x={x(high)} y={168} textAnchor="end">
              {show(high)} s
            </text>
          )}
          <text x={width / 2} y={184} textAnchor="middle">
            how long a run takes
          </text>
        </g>
        <polyline points={front.map((p) => `${x(p.cycleS!)},${y(p)}`).join(' ')} fill="none" stroke="var(--mussel)" strokeWidth={2} />
        {shown.map((p, i) => (
          <g key={i}>
            {p.fresh && (
              <line
                x1={x(p.cycleS!)}
                x2={x(p.cycleS!)}
                y1={150 - 120 * p.copy.low}
                y2={150 - 120 * p.copy.high}
                stroke="var(--edge)"
                strokeWidth={1}
              />
            )}
            {p.isNow ? (
              <rect x={x(p.cycleS!) - 4} y={y(p) - 4} width={8} height={8} fill="var(--ink)" />
            ) : (
              <circle
                cx={x(p.cycleS!)}
                cy={y(p)}
                r={p.fresh ? 5 : 3}
                fill={p === best ? 'var(--weed)' : p.fresh ? 'var(--paper)' : 'var(--line)'}
                stroke={p.fresh ? 'var(--ink)' : 'none'}
              />
            )}
          </g>
        ))}
      </svg>
      <p className="fine muted">
        The square is as it is now; rings were run again on fresh luck, with the range of this copy; the line joins those that none beats in
        every way.
      </p>
    </div>
  )
}
