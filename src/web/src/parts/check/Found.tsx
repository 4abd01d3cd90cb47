import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import type { FoundThing } from './CheckPage'

const words: Record<FoundThing['severity'], string> = { stops: 'Cannot work', risky: 'Risky', advice: 'Good to know', holds: 'Holds' }

/** One finding as it stands under its line: what will happen, why, and what can be done. */
export function Found({
  finding,
  follows,
  chosen,
  wanted,
  busy,
  reasoning,
  problem,
  onReasoning,
  onCure,
  onSilence,
}: {
  finding: FoundThing
  /** What follows from it. */
  follows: FoundThing[]
  chosen: boolean
  /** Another number each time it is to get the focus; 0 for never. */
  wanted: number
  busy: boolean
  /** True while a reason to set it aside is typed. */
  reasoning: boolean
  problem: string[]
  onReasoning: (on: boolean) => void
  onCure: () => void
  onSilence: (reason: string) => void
}) {
  const { rig } = useRig()
  const article = useRef<HTMLElement>(null)
  useEffect(() => {
    if (wanted > 0) article.current?.focus()
  }, [wanted])
  const [reason, setReason] = useState(finding.before ?? '')
  const to = `/rigs/${rig.id}/program?copy=${rig.copy}${finding.program > 0 ? `&program=${finding.program}` : ''}#line-${finding.line}`
  return (
    <article
      ref={article}
      id={`finding-${finding.key}`}
      tabIndex={-1}
      className={`found ${finding.severity}${chosen ? ' chosen' : ''}`}
      aria-label={`${words[finding.severity]}: ${finding.headline}`}
    >
      <p className="found-head">
        <span className="found-word">{words[finding.severity]}:</span> <b>{finding.headline}.</b>
      </p>
      <p>{finding.say}</p>
      {finding.tried && <p className="fine">{finding.tried}</p>}
      {finding.notTried && <p className="fine muted">Not tried in the bench yet.</p>}
      {finding.cure && finding.cureTried && <p className="fine">{finding.cureTried}</p>}
      {finding.steps.length > 0 && (
        <details className="looked-rest sum-steps">
          <summary>How it was worked out</summary>
          <table>
            <tbody>
              {finding.steps.map((s, i) => (
                <tr key={i}>
                  <th scope="row">{s.say}</th>
                  <td className="mono">{s.arithmetic}</td>
                  <td className="mono">
                    {s.value === null ? '' : Number(s.value.toPrecision(4))} {s.unit}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
      {follows.length > 0 && (
        <details className="looked-rest">
          <summary>{follows.length === 1 ? '1 thing follows' : `${follows.length} things follow`} from it</summary>
          <ul className="looked">
            {follows.map((f) => (
              <li key={f.key}>
                {f.headline}.<small>{f.say}</small>
              </li>
            ))}
          </ul>
        </details>
      )}
      {finding.before && (
        <p className="fine muted">Set aside before (“{finding.before}”). Its figures are others now, so it speaks again.</p>
      )}
      {reasoning ? (
        <form
          className="row"
          onSubmit={(e) => {
            e.preventDefault()
            onSilence(reason)
          }}
          onKeyDown={(e) => {
            if (e.key === 'Escape') onReasoning(false)
          }}
        >
          <TextField
            autoFocus
            size="small"
            label="Why it may stand"
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            error={problem.length > 0}
            sx={{ minWidth: 280 }}
          />
          <Button type="submit" variant="contained" disabled={busy}>
            Set it aside
          </Button>
          <Button variant="text" onClick={() => onReasoning(false)}>
            Leave it
          </Button>
          <Faults sentences={problem} />
        </form>
      ) : (
        <div className="row no-print">
          {finding.cure && (
            <Button variant="contained" onClick={onCure} disabled={busy}>
              {finding.cure.label}
            </Button>
          )}
          {finding.walk && (
            <Button
              component={Link}
              to={`/rigs/${rig.id}/program/walk?copy=${rig.copy}&program=${finding.program}&finding=${encodeURIComponent(finding.key)}`}
              aria-label={`Walk there: ${finding.headline}`}
            >
              Walk there
            </Button>
          )}
          {finding.run && (
            <Button
              component={Link}
              to={`/rigs/${rig.id}/simulate?copy=${rig.copy}&scene=${encodeURIComponent(finding.run.scene)}&seed=${finding.run.seed}&made=${finding.run.copySeed}`}
              aria-label={`Watch a run: ${finding.headline}`}
            >
              Watch a run
            </Button>
          )}
          {finding.line > 0 && (
            <Button component={Link} to={to} variant="text" aria-label={`Show in Program: ${finding.headline}`}>
              Show in Program
            </Button>
          )}
          {finding.severity !== 'holds' && (
            <Button variant="text" onClick={() => onReasoning(true)} aria-label={`Set aside: ${finding.headline}`}>
              Set it aside…
            </Button>
          )}
        </div>
      )}
    </article>
  )
}
