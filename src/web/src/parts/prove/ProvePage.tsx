import { newKey } from '../../app/keys'
import { useEffect, useRef, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useLocation, useNavigate, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, tabId, unwrap, type Proof } from '../../app/api'
import { useProgress } from '../../app/live'
import { partKey, useAnswered, useRig } from '../../app/rig'
import { useScenes } from '../../app/scenes'
import { Term } from '../../shared/Term'
import { Tide } from '../../shared/Tide'
import { show } from '../../shared/format'
import { Faults } from '../../shared/Faults'
import { Compare } from './Compare'
import { CopyAxis, NextTen } from './CopyAxis'
import { Measure } from './Measure'
import { SceneRows } from './SceneRows'
import { Statement } from './Statement'
import { Strokes } from './Strokes'
import { Tune } from './Tune'

export default function ProvePage() {
  const { rig } = useRig()
  const queries = useQueryClient()
  const answered = useAnswered()
  const navigate = useNavigate()
  const { search } = useLocation()
  const [params, setParams] = useSearchParams()
  const [runs, setRuns] = useState('200')
  const [seed, setSeed] = useState('1')
  const [target, setTarget] = useState('')
  const [scene, setScene] = useState('')
  const [comparing, setComparing] = useState(false)
  const [keeping, setKeeping] = useState(false)
  const [again, setAgain] = useState('')
  const [tuning, setTuning] = useState(false)
  const compareAt = useRef<HTMLDivElement>(null)
  const known = useScenes()
  const scenes = known.data?.scenes ?? []
  const [job, setJob] = useState<string | null>(null)
  const progress = useProgress(job)
  const key = partKey(rig.id, 'proof', rig.copy)
  const asked = params.get('proof')
  const latest = useQuery({
    queryKey: key,
    queryFn: async () =>
      (await unwrap(client.GET('/api/rigs/{id}/proofs/latest', { params: { path: { id: rig.id }, query: { copy: rig.copy } } }))).proof,
  })
  const kept = useQuery({
    queryKey: [...key, 'number', asked],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/proofs/{number}', { params: { path: { id: rig.id, number: Number(asked) } } })),
    enabled: asked !== null && /^\d+$/.test(asked),
    retry: false,
  })
  const begin = () => {
    const name = newKey()
    setJob(name)
    return name
  }
  const show1 = (number: number | null) => {
    const next = new URLSearchParams(params)
    if (number === null) next.delete('proof')
    else next.set('proof', String(number))
    setParams(next, { replace: true })
  }
  const settled = async (proof: Proof | undefined) => {
    if (proof) await answered(key, proof)
    show1(null)
    await Promise.all([
      queries.invalidateQueries({ queryKey: ['rig', rig.id] }),
      queries.invalidateQueries({ queryKey: [...key, 'scenes'] }),
      queries.invalidateQueries({ queryKey: [...key, 'list'] }),
    ])
  }
  const prove = useMutation({
    mutationFn: (name: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/proofs', {
          params: { path: { id: rig.id } },
          body: {
            runs: Number(runs),
            seed: Number(seed),
            copy: rig.copy,
            revision: null,
            job: name,
            by: tabId,
            scene: scene || null,
            target: target.trim() === '' ? null : Number(target) / 100,
          },
        }),
      ),
    onSuccess: (proof) => settled(proof),
    onSettled: () => setJob(null),
  })
  const all = useMutation({
    mutationFn: (name: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/proofs/all', {
          params: { path: { id: rig.id } },
          body: { runs: Number(runs), seed: Number(seed), copy: rig.copy, job: name, scenes: null },
        }),
      ),
    onSuccess: (made) => settled(made.proofs[0]),
    onSettled: () => setJob(null),
  })
  const proof = asked !== null && kept.data ? kept.data : latest.data
  const busy = prove.isPending || all.isPending || job !== null
  // What cannot be run is not offered; why stands in its place.
  const hindered = rig.rate.state === 'faults' || rig.rate.state === 'none'
  const replay = (s: number, copySeed: number | null, where?: string | null) => {
    const to = new URLSearchParams(search)
    to.delete('proof')
    to.set('seed', String(s))
    if (copySeed !== null) to.set('made', String(copySeed))
    const at = where ?? proof?.scene
    if (at) to.set('scene', at)
    void navigate({ pathname: `/rigs/${rig.id}/simulate`, search: `?${to}` })
  }
  useEffect(() => {
    if (comparing) compareAt.current?.scrollIntoView({ block: 'nearest' })
  }, [comparing])
  const counting = scenes.filter((s) => s.counts)
  const open = scene || (counting[0] ?? scenes[0])?.name || ''
  return (
    <main className="prove">
      <div className="prove-columns">
        <div className="page prove-page">
          <form
            className="row no-print"
            onSubmit={(e) => {
              e.preventDefault()
              if (!busy) prove.mutate(begin())
            }}
            // Nothing to press until it is known what stands here: what comes in later would move the button from under the finger.
            style={{ marginBottom: 12, visibility: known.isPending ? 'hidden' : undefined }}
          >
            {(known.isPending || scenes.length > 1) && (
              <TextField
                select
                size="small"
                label="Scene"
                value={open}
                onChange={(e) => setScene(e.target.value)}
                sx={{ width: 170 }}
                slotProps={{ select: { native: true } }}
              >
                {scenes.map((s) => (
                  <option key={s.name}>{s.name}</option>
                ))}
              </TextField>
            )}
            <TextField
              size="small"
              label="Runs"
              value={runs}
              onChange={(e) => setRuns(e.target.value)}
              sx={{ width: 80 }}
              slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
            />
            <TextField
              size="small"
              label="Seed"
              value={seed}
              onChange={(e) => setSeed(e.target.value)}
              sx={{ width: 80 }}
              slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
            />
            <TextField
              size="small"
              label="Target in 100"
              placeholder="none"
              title="Stops as soon as it is settled whether this many in 100 pass"
              value={target}
              onChange={(e) => setTarget(e.target.value)}
              sx={{ width: 118 }}
              slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' }, inputLabel: { shrink: true } }}
            />
            <Button type="submit" variant="contained" disabled={busy || hindered}>
              {target.trim() === '' ? `Prove with ${runs || '…'} runs` : `Prove against ${target}`}
            </Button>
            {counting.length > 1 && (
              <Button onClick={() => !busy && all.mutate(begin())} disabled={busy || hindered}>
                Prove all that count
              </Button>
            )}
          </form>
          {busy && (
            <div className="row no-print" data-testid="proving" style={{ marginBottom: 8 }}>
              <LinearProgress
                variant="determinate"
                value={progress ? Math.min(100, (100 * progress.done) / progress.total) : 0}
                aria-label="Runs done"
                sx={{ flex: 1, maxWidth: 420 }}
              />
              <span className="fine mono">
                {progress
                  ? `${progress.done} of ${progress.total}, ${progress.passed} passed${progress.remainingS === null ? '' : `, ${show(progress.remainingS, 2)} s left`}`
                  : 'starting'}
              </span>
              <Button onClick={() => job && void client.DELETE('/api/jobs/{job}', { params: { path: { job } } })}>Stop</Button>
            </div>
          )}
          {hindered && (
            <p className="fault" data-testid="cannot-run">
              {rig.rate.state === 'faults'
                ? 'The program has faults. Mend them in Program, then prove it.'
                : `${rig.rate.say}. ${rig.rate.likely}`}
            </p>
          )}
          {prove.isError && <Faults sentences={sentencesOf(prove.error)} />}
          {all.isError && <Faults sentences={sentencesOf(all.error)} />}
          {kept.isError && <Faults sentences={sentencesOf(kept.error)} />}
          {!proof && !latest.isPending && !hindered && (
            <>
              <h2 className="page-title">How often it works</h2>
              <p className="lead">
                Nothing was proved yet. Each run draws the physical numbers of this copy from their spread: placement, speed, braking,
                light. The share that passes says how often the machine will work in class.
              </p>
            </>
          )}
          {proof && (
            <>
              <div data-testid="proof" className="no-print">
                <h2 className="proof-say">{proof.say}</h2>
                <p className="muted" style={{ marginBottom: 10 }}>
                  {proof.counted !== proof.say && `${proof.counted} `}
                  {proof.copies > 0 &&
                    proof.target === null &&
                    `${proof.copies} made-up copies${proof.runs === 2 * proof.copies ? ' with two runs each' : ''}; each mark below is one that yours may be. `}
                  {proof.copies > 0 && proof.target !== null && 'Every run on a new made-up copy: it judges the mean over copies. '}
                  {proof.lucks.length > 0 && `From run to run most hangs on ${proof.lucks[0]}. `}
                  Revision {proof.revision}, copy {proof.onCopy}
                  {proof.scene && `, ${proof.scene}`}, <Term word="seed">seed</Term> <span className="mono">{proof.seed}</span>.
                  {!proof.current && ' The machine has changed since: prove it again.'}
                  {asked !== null && kept.data && (
                    <>
                      {' '}
                      This is proof {proof.number}, kept from {new Date(proof.timeUtc).toLocaleString()}.{' '}
                      <button type="button" className="as-link" onClick={() => show1(null)}>
                        Back to the latest
                      </button>
                    </>
                  )}
                </p>
              </div>
              {proof.runs > 0 && (
                <div className="no-print">
                  <CopyAxis proof={proof} />
                  {proof.next.length > 0 && (
                    <div className="next-row">
                      <NextTen proof={proof} />
                      <Button component={Link} to={`/rigs/${rig.id}/log?copy=${rig.copy}`}>
                        Log real runs
                      </Button>
                    </div>
                  )}
                  {scenes.length > 1 && <SceneRows chosen={open} onChoose={setScene} />}
                  {proof.failures.length > 0 && (
                    <section className="proof-section">
                      <h3 className="small-title">How it failed</h3>
                      <ul className="failure-rows">
                        {proof.failures.map((f, i) => (
                          <li key={i}>
                            <span className="mono">{f.count}</span>
                            <span>
                              <b>{upper(f.ended || f.goal)}</b>
                              {f.common && `. ${upper(f.common)}`}
                              <br />
                              <span className="fine muted">
                                {f.goal}; last: {f.lastTransition}. {f.say && `Run ${f.run}: ${f.say}`}
                              </span>
                            </span>
                            <Button onClick={() => replay(f.seed, f.copySeed)} aria-label={`Replay run ${f.run}`}>
                              Replay {f.run}
                            </Button>
                          </li>
                        ))}
                      </ul>
                    </section>
                  )}
                  <section className="proof-section">
                    <Strokes proof={proof} />
                    <form
                      className="row"
                      onSubmit={(e) => {
                        e.preventDefault()
                        const stroke = proof.strokes[Number(again) - 1]
                        if (stroke) replay(stroke.seed, stroke.copySeed ?? null)
                      }}
                    >
                      <TextField
                        size="small"
                        label={`Any run, 1 to ${proof.runs}`}
                        value={again}
                        onChange={(e) => setAgain(e.target.value)}
                        error={again !== '' && !proof.strokes[Number(again) - 1]}
                        helperText={again !== '' && !proof.strokes[Number(again) - 1] ? `A number from 1 to ${proof.runs}` : undefined}
                        sx={{ width: 180 }}
                        slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
                      />
                      <Button type="submit" disabled={!proof.strokes[Number(again) - 1]}>
                        See it again
                      </Button>
                    </form>
                  </section>
                  <div ref={compareAt}>
                    {comparing && (
                      <Compare
                        earlier={rig.rate.against && !rig.rate.against.sameRevision ? rig.rate.against.revision : null}
                        scene={proof.scene ?? open}
                        onLeave={() => setComparing(false)}
                        working={{ begin, end: () => setJob(null) }}
                      />
                    )}
                  </div>
                  <div className="row proof-acts">
                    {proof.number > 0 && (
                      <a href={`/api/rigs/${rig.id}/proofs/${proof.number}/export`} download>
                        All runs as CSV
                      </a>
                    )}
                    <Button onClick={() => setTuning(!tuning)} aria-expanded={tuning} disabled={hindered}>
                      Look for better numbers
                    </Button>
                    <Button onClick={() => window.print()}>Print a statement</Button>
                    <Button onClick={() => setKeeping(!keeping)} aria-expanded={keeping}>
                      Proofs that were kept
                    </Button>
                  </div>
                  {tuning && (
                    <Tune scene={open} seed={Number(seed)} onLeave={() => setTuning(false)} working={{ begin, end: () => setJob(null) }} />
                  )}
                  {keeping && <Kept at={proof.number} onShow={show1} />}
                </div>
              )}
              <Statement proof={proof} />
            </>
          )}
        </div>
        {proof && proof.runs > 0 && <Measure proof={proof} onCompare={() => setComparing(true)} />}
      </div>
      <Tide />
    </main>
  )
}

const upper = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)

/** Proofs of this copy, the latest first. */
function Kept({ at, onShow }: { at: number; onShow: (number: number) => void }) {
  const { rig } = useRig()
  const list = useQuery({
    queryKey: [...partKey(rig.id, 'proof', rig.copy), 'list'],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/proofs', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  if (!list.data) return null
  return (
    <div className="wide" tabIndex={0} role="group" aria-label="Proofs that were kept">
      <table className="ruled">
        <thead>
          <tr>
            <th>When</th>
            <th>Revision</th>
            <th>Scene</th>
            <th>Passed</th>
            <th>This copy</th>
            <th>
              <span className="hidden-text">Show</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {list.data.map((p) => (
            <tr key={p.number}>
              <td>{new Date(p.timeUtc).toLocaleString()}</td>
              <td>
                <span className="mono">{p.revision}</span>
                {p.current && <span className="muted fine"> as it is now</span>}
              </td>
              <td>{p.scene}</td>
              <td className="mono">
                {p.passes} of {p.runs}
              </td>
              <td className="mono">
                {Math.round(100 * p.low)} to {Math.round(100 * p.high)}
              </td>
              <td>
                {p.number === at ? (
                  <span className="muted fine">shown</span>
                ) : (
                  <Button onClick={() => onShow(p.number)}>Show proof {p.number}</Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
