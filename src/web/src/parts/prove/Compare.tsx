import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Run } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { Strip } from '../../shared/Strip'
import { AgainstWords } from './Measure'

type Side = { revision: string; copy: string }

/** Two revisions, or two copies, on the same luck; the runs in which they part. */
export function Compare({
  earlier,
  scene,
  onLeave,
  working,
}: {
  earlier: number | null
  scene: string
  onLeave: () => void
  working: { begin: () => string; end: () => void }
}) {
  const { rig } = useRig()
  const queries = useQueryClient()
  const [sides, setSides] = useState<[Side, Side]>([
    { revision: String(earlier ?? Math.max(1, rig.revision - 1)), copy: String(rig.copy) },
    { revision: String(rig.revision), copy: String(rig.copy) },
  ])
  const [runs, setRuns] = useState('200')
  const revisions = useQuery({
    queryKey: [...partKey(rig.id, 'revisions', rig.copy), rig.revision],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/revisions', { params: { path: { id: rig.id } } })),
  })
  const compare = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/proofs/compare', {
          params: { path: { id: rig.id } },
          body: {
            earlier: { revision: Number(sides[0].revision), copy: Number(sides[0].copy) },
            later: { revision: Number(sides[1].revision), copy: Number(sides[1].copy) },
            scene,
            runs: Number(runs),
            seed: 1,
            job: working.begin(),
          },
        }),
      ),
    onSettled: () => working.end(),
  })
  // Both runs, one below the other, on one luck.
  const see = useMutation({
    mutationFn: async (p: { run: number; seed: number; copySeed: number }) => {
      const seen: Run[] = []
      for (const side of sides)
        seen.push(
          await unwrap(
            client.POST('/api/rigs/{id}/runs', {
              params: { path: { id: rig.id } },
              body: {
                seed: p.seed,
                copySeed: p.copySeed,
                copy: Number(side.copy),
                revision: Number(side.revision),
                scene,
                durationS: null,
                faults: null,
                rateHz: null,
              },
            }),
          ),
        )
      return { run: p.run, seen }
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: partKey(rig.id, 'run', rig.copy) }),
  })
  const set = (at: 0 | 1, part: Partial<Side>) => setSides((s) => (at === 0 ? [{ ...s[0], ...part }, s[1]] : [s[0], { ...s[1], ...part }]))
  const known = compare.data
  return (
    <section className="proof-section no-print" aria-label="Compare">
      <form
        className="row"
        onSubmit={(e) => {
          e.preventDefault()
          if (!compare.isPending) compare.mutate()
        }}
      >
        <h3 className="small-title" style={{ margin: 0 }}>
          Compare on the same luck
        </h3>
        {([0, 1] as const).map((at) => (
          <span key={at} className="row">
            <TextField
              select
              size="small"
              label={at === 0 ? 'Earlier' : 'Later'}
              value={sides[at].revision}
              onChange={(e) => set(at, { revision: e.target.value })}
              slotProps={{ select: { native: true } }}
              sx={{ minWidth: 130 }}
            >
              {(revisions.data ?? [{ number: Number(sides[at].revision) }]).map((r) => (
                <option key={r.number} value={r.number}>
                  revision {r.number}
                </option>
              ))}
            </TextField>
            {rig.copies.length > 1 && (
              <TextField
                select
                size="small"
                label={at === 0 ? 'Earlier on' : 'Later on'}
                value={sides[at].copy}
                onChange={(e) => set(at, { copy: e.target.value })}
                slotProps={{ select: { native: true } }}
              >
                {rig.copies.map((c) => (
                  <option key={c.number} value={c.number}>
                    copy {c.number}
                  </option>
                ))}
              </TextField>
            )}
          </span>
        ))}
        <TextField
          size="small"
          label="Runs of each"
          value={runs}
          onChange={(e) => setRuns(e.target.value)}
          sx={{ width: 110 }}
          slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
        />
        <Button type="submit" variant="contained" disabled={compare.isPending}>
          Compare them
        </Button>
        <Button onClick={onLeave}>Close</Button>
      </form>
      {compare.isError && <Faults sentences={sentencesOf(compare.error)} />}
      {known && (
        <div data-testid="compared">
          <p style={{ marginTop: 8 }}>
            In {known.scene}, {known.earlier} passes <span className="mono">{known.earlierPasses}</span> and {known.later}{' '}
            <span className="mono">{known.laterPasses}</span> of <span className="mono">{known.rates.runs}</span> runs.
          </p>
          <AgainstWords say={known.say} />
          {see.isError && <Faults sentences={sentencesOf(see.error)} />}
          {see.data && (
            <div className="side-by-side" data-testid="both">
              {see.data.seen.map((run, i) => (
                <div key={i}>
                  <p>
                    <b>
                      Run {see.data.run}, {i === 0 ? known.earlier : known.later}
                    </b>{' '}
                    {run.report.say}
                  </p>
                  <Strip run={run} at={null} onAt={() => {}} until={Math.max(...see.data.seen.map((r) => r.report.endS))} />
                </div>
              ))}
            </div>
          )}
          {known.parted.length > 0 && (
            <div className="wide" tabIndex={0} role="group" aria-label="Runs in which they part">
              <table className="ruled">
                <thead>
                  <tr>
                    <th>Run</th>
                    <th>{upper(known.earlier)}</th>
                    <th>{upper(known.later)}</th>
                    <th>How the other failed</th>
                    <th>
                      <span className="hidden-text">Replay</span>
                    </th>
                  </tr>
                </thead>
                <tbody>
                  {known.parted.slice(0, 20).map((p) => (
                    <tr key={p.run}>
                      <td className="mono">{p.run}</td>
                      <td>{p.gained ? 'failed' : 'passed'}</td>
                      <td>{p.gained ? 'passed' : 'failed'}</td>
                      <td className="fine">{p.cause}</td>
                      <td>
                        <Button onClick={() => see.mutate(p)} disabled={see.isPending}>
                          See both of run {p.run}
                        </Button>
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
              {known.parted.length > 20 && <p className="fine muted">And {known.parted.length - 20} more.</p>}
            </div>
          )}
        </div>
      )}
    </section>
  )
}

const upper = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)
