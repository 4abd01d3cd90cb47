import { Link } from 'react-router'
import type { Sense } from '../../app/api'
import { useRig } from '../../app/rig'

/** How far this sensor can be relied on, what would cure it, the cheapest first; and which sensor of the rig is weakest. */
export function Judgement({ sense }: { sense: Sense }) {
  const { rig } = useRig()
  const j = sense.judgement
  const other = sense.rig.weakest && sense.rig.weakest !== sense.sensor
  if (j.grade === null && !other) return null
  return (
    <section className="note lead-note" style={{ maxWidth: 760 }} data-testid="judgement">
      <small className={j.grade ?? ''}>{j.grade ? `${sense.sensor}: ${j.grade}` : sense.sensor}</small>
      {j.stale && (
        <p className="risky">
          <b>{j.stale}</b>
        </p>
      )}
      {j.say && <p>{j.say}</p>}
      {j.cures.length > 0 && (
        <>
          <h3>What would cure it, cheapest first</h3>
          <ol style={{ margin: '2px 0 6px', paddingLeft: 22, fontSize: 14 }}>
            {j.cures.map((c, i) => (
              <li key={i}>
                {c.say} <span className="muted">({c.where})</span>
              </li>
            ))}
          </ol>
        </>
      )}
      {other && (
        <p className="fine">
          Weakest of this rig:{' '}
          <Link to={`/rigs/${rig.id}/sense?copy=${rig.copy}&sensor=${encodeURIComponent(sense.rig.weakest!)}`}>{sense.rig.weakest}</Link>.{' '}
          {sense.rig.say}
        </p>
      )}
    </section>
  )
}
