import { useState } from 'react'
import Button from '@mui/material/Button'
import { useLatestRun, useRig, useRunOnce } from '../app/rig'
import { sentencesOf } from '../app/api'
import { Strip } from './Strip'
import { stateAt } from './runAt'

/** The strip of the latest run, at the foot of Program and Prove. */
export function Tide({ state, onState }: { state?: string | null; onState?: (state: string | null) => void }) {
  const { rig } = useRig()
  const latest = useLatestRun()
  const once = useRunOnce()
  const [at, setAt] = useState<number | null>(null)
  const run = latest.data
  const hindered = rig.rate.state === 'faults' || rig.rate.state === 'none'
  const event = run && at !== null ? run.events.filter((e) => e.timeS <= at).at(-1) : undefined
  return (
    <section className="tide" aria-label="Latest run">
      <div className="cap">
        {event ? (
          <span className="one-line">
            <b>
              {event.timeS.toFixed(2)} s, {event.to}
            </b>{' '}
            {event.from === null ? 'begins.' : event.say} {event.warning}
          </span>
        ) : run ? (
          <span className="one-line">
            <b>Latest run</b> {run.outcome === 'pass' ? run.report.say.replace(/^P/, 'p') : `failed. ${run.report.say}`} Run number{' '}
            {run.number}
            {run.tried
              ? ', a try with other numbers.'
              : run.current
                ? '.'
                : `, of revision ${run.revision}: the machine has changed since.`}
          </span>
        ) : hindered ? null : (
          <span>
            <b>No run yet.</b> Run the machine once to see its states and signals here.
          </span>
        )}
        {once.isError && (
          <span className="fault" role="alert">
            {sentencesOf(once.error).join(' ')}
          </span>
        )}
        <span className="push" />
        {hindered ? (
          <span className="one-line muted" data-testid="cannot-run">
            <b>Cannot run yet.</b> {rig.rate.state === 'faults' ? 'The program has faults.' : rig.rate.likely}
          </span>
        ) : (
          <Button onClick={() => once.mutate(Math.floor(Math.random() * 1e9))} disabled={once.isPending}>
            Run once
          </Button>
        )}
      </div>
      {run && (
        <Strip
          run={run}
          at={at}
          onAt={(t) => {
            setAt(t)
            onState?.(t === null ? null : stateAt(run, t))
          }}
          state={state ?? event?.to}
        />
      )}
    </section>
  )
}
