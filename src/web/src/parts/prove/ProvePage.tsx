import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, tabId, unwrap } from '../../app/api'
import { useProgress } from '../../app/live'
import { partKey, useRig } from '../../app/rig'
import { useScenes } from '../../app/scenes'
import { Term } from '../../shared/Term'
import { Tide } from '../../shared/Tide'
import { show } from '../../shared/format'
import { RateScale, Strokes } from './Strokes'
import { Faults } from '../../shared/Faults'

export default function ProvePage() {
  const { rig } = useRig()
  const queries = useQueryClient()
  const navigate = useNavigate()
  const { search } = useLocation()
  const [runs, setRuns] = useState('200')
  const [seed, setSeed] = useState('1')
  const [scene, setScene] = useState('')
  const scenes = useScenes().data?.scenes ?? []
  const [job, setJob] = useState<string | null>(null)
  const progress = useProgress(job)
  const key = partKey(rig.id, 'proof', rig.copy)
  const latest = useQuery({
    queryKey: key,
    queryFn: async () =>
      (await unwrap(client.GET('/api/rigs/{id}/proofs/latest', { params: { path: { id: rig.id }, query: { copy: rig.copy } } }))).proof,
  })
  const prove = useMutation({
    mutationFn: (name: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/proofs', {
          params: { path: { id: rig.id } },
          body: { runs: Number(runs), seed: Number(seed), copy: rig.copy, revision: null, job: name, by: tabId, scene: scene || null },
        }),
      ),
    onSuccess: (proof) => {
      queries.setQueryData(key, proof)
      void queries.invalidateQueries({ queryKey: ['rig', rig.id] })
    },
    onSettled: () => setJob(null),
  })
  const start = () => {
    const name = crypto.randomUUID()
    setJob(name)
    prove.mutate(name)
  }
  const proof = latest.data
  // What cannot be run is not offered; why stands in its place.
  const hindered = rig.rate.state === 'faults' || rig.rate.state === 'none'
  const replay = (s: number) => {
    const to = new URLSearchParams(search)
    to.set('seed', String(s))
    if (proof?.scene) to.set('scene', proof.scene)
    void navigate({ pathname: `/rigs/${rig.id}/simulate`, search: `?${to}` })
  }
  return (
    <main>
      <div className="page" style={{ flex: 1 }}>
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault()
            if (!prove.isPending) start()
          }}
          style={{ marginBottom: 8 }}
        >
          <h2 className="page-title" style={{ margin: 0 }}>
            How often it works
          </h2>
          <span className="push" />
          {scenes.length > 1 && (
            <TextField
              select
              size="small"
              label="Scene"
              value={scene || (scenes.find((s) => s.counts) ?? scenes[0]!).name}
              onChange={(e) => setScene(e.target.value)}
              sx={{ width: 190 }}
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
            sx={{ width: 100 }}
            slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
          />
          <TextField
            size="small"
            label="Seed"
            value={seed}
            onChange={(e) => setSeed(e.target.value)}
            sx={{ width: 110 }}
            slotProps={{ htmlInput: { inputMode: 'numeric', className: 'mono' } }}
          />
          <Button type="submit" variant="contained" disabled={prove.isPending || hindered}>
            Prove with {runs || '…'} runs
          </Button>
        </form>
        {prove.isPending && (
          <div className="row" data-testid="proving" style={{ marginBottom: 8 }}>
            <LinearProgress
              variant="determinate"
              value={progress ? (100 * progress.done) / progress.total : 0}
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
        {!proof && !latest.isPending && !hindered && (
          <p className="lead">
            Nothing was proved yet. Each run draws the physical numbers of this copy from their spread: placement, speed, braking, light.
            The share that passes says how often the machine will work in class.
          </p>
        )}
        {proof && (
          <>
            <p data-testid="proof" style={{ fontSize: 17 }}>
              <b>{proof.say}</b>{' '}
              <span className="muted fine">
                Revision {proof.revision}, copy {proof.copy}
                {proof.scene && `, ${proof.scene}`}, <Term word="seed">seed</Term> <span className="mono">{proof.seed}</span>.
                {!proof.current && ' The machine has changed since: prove it again.'}
              </span>
            </p>
            <RateScale proof={proof} />
            <Strokes proof={proof} />
            {proof.failures.length > 0 && (
              <div className="wide" tabIndex={0} role="group" aria-label="Failures">
                <table className="ruled" style={{ marginTop: 6 }}>
                  <thead>
                    <tr>
                      <th>Runs</th>
                      <th>How they failed</th>
                      <th>One of them</th>
                      <th>
                        <span className="hidden-text">Replay</span>
                      </th>
                    </tr>
                  </thead>
                  <tbody>
                    {proof.failures.map((f) => (
                      <tr key={f.ended + f.lastTransition}>
                        <td className="mono">{f.count}</td>
                        <td>
                          <b>{f.ended.charAt(0).toUpperCase() + f.ended.slice(1)}</b>
                          <br />
                          <span className="fine muted">
                            {f.goal}; last: {f.lastTransition}
                          </span>
                        </td>
                        <td style={{ fontSize: 14 }}>
                          Run {f.run}. {f.say}
                        </td>
                        <td>
                          <Button onClick={() => replay(f.seed)}>Replay run {f.run}</Button>
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            )}
          </>
        )}
      </div>
      <Tide />
    </main>
  )
}
