import { useQuery } from '@tanstack/react-query'
import { Link, useLocation, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { show } from '../../shared/format'
import { when } from './History'
import { Moment } from '../../shared/Moment'

/** The calibration card: what was found, when, by whom, in which light, for which copy. Prints on one page. */
export default function CardPage() {
  const { rig } = useRig()
  const { search } = useLocation()
  const [params] = useSearchParams()
  const sensor = params.get('sensor')
  const at = { params: { path: { id: rig.id }, query: { copy: rig.copy, ...(sensor ? { sensor } : {}) } } }
  const sense = useQuery({
    queryKey: [...partKey(rig.id, 'sense', rig.copy), sensor],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/sense', at)),
  })
  const history = useQuery({
    queryKey: [...partKey(rig.id, 'sense-history', rig.copy), sensor, 'card'],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/sense/history', at)),
  })
  const failed = sense.error ?? history.error
  if (failed)
    return (
      <main className="page">
        <p className="fault" role="alert">
          {sentencesOf(failed).join(' ')}
        </p>
      </main>
    )
  if (!sense.data || !history.data) return <Moment />
  const s = sense.data
  return (
    <main className="page card">
      <div className="row no-print" style={{ marginBottom: 14 }}>
        <Button onClick={() => window.print()}>Print</Button>
        <Button component={Link} to={{ pathname: `/rigs/${rig.id}/sense`, search }}>
          Back to Sense
        </Button>
      </div>
      <h2 className="page-title">Calibration card: {s.sensor}</h2>
      <p className="lead">
        {rig.name}, copy {rig.copy}
        {rig.team ? `, ${rig.team}` : ''}. {rig.place}. Calibration version {s.version}
        {history.data.versions[0] ? `, ${when(history.data.versions[0].timeUtc)}` : ''}. One reading every {show(s.samplePeriodMs)} ms.
      </p>
      <h3 className="small-head">Zones</h3>
      <table className="ruled">
        <thead>
          <tr>
            <th>Zone</th>
            <th>Readings</th>
            <th>Mean</th>
            <th>SD</th>
            <th>From</th>
            <th>To</th>
          </tr>
        </thead>
        <tbody>
          {s.zones.map((z) => (
            <tr key={z.zone}>
              <td>
                <b>{z.zone}</b>
              </td>
              <td className="mono">{z.figures?.count ?? z.readings.length}</td>
              <td className="mono">{z.figures ? `${show(z.figures.mean)} ${s.unit}` : '–'}</td>
              <td className="mono">{z.figures ? show(z.figures.sd, 2) : '–'}</td>
              <td className="mono">{z.figures ? show(z.figures.min) : '–'}</td>
              <td className="mono">{z.figures ? show(z.figures.max) : '–'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {s.bands && s.bands.bands.length > 0 && (
        <>
          <h3 className="small-head" style={{ marginTop: 16 }}>
            Bands
          </h3>
          <table className="ruled">
            <thead>
              <tr>
                <th>Zone</th>
                <th>From</th>
                <th>To</th>
              </tr>
            </thead>
            <tbody>
              {s.bands.bands.map((b) => (
                <tr key={b.zone}>
                  <td>{b.zone}</td>
                  <td className="mono">{show(b.fromMm, 4)} mm</td>
                  <td className="mono">{show(b.toMm, 4)} mm</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p style={{ marginTop: 6 }}>
            {s.bands.boundaries
              .map(
                (b) =>
                  `${b.nearer} to ${b.farther} at ${show(b.thresholdMm)} mm, ${show(b.hysteresisMm, 2)} mm each side: ${b.grade}${b.readingsNeeded ? `, ${b.readingsNeeded} in a row` : ''}`,
              )
              .join('; ')}
            .
          </p>
        </>
      )}
      {s.colours && (
        <>
          <h3 className="small-head" style={{ marginTop: 16 }}>
            Colours
          </h3>
          <p>
            {show(100 * s.colours.result.accuracy, 4)} % of samples are taken for their own zone; beyond{' '}
            {show(s.colours.result.rejectDistance, 3)} from every zone a sample is unknown. {s.colours.verdict.say}
          </p>
        </>
      )}
      {(s.switch || s.names) && <p style={{ marginTop: 12 }}>{s.judgement.say}</p>}
      {s.pairs.length > 0 && (
        <h3 className="small-head" style={{ marginTop: 16 }}>
          Thresholds
        </h3>
      )}
      {s.pairs.length > 0 && (
        <table className="ruled">
          <thead>
            <tr>
              <th>Between</th>
              <th>Threshold</th>
              <th>Hysteresis</th>
              <th>Placed by</th>
              <th>In a row</th>
              <th>Verdict</th>
            </tr>
          </thead>
          <tbody>
            {s.pairs.map((p) => (
              <tr key={p.lower}>
                <td>
                  {p.lower} and {p.upper}
                </td>
                <td className="mono">
                  {show(p.sum.result.threshold)} {s.unit}
                </td>
                <td className="mono">{show(p.sum.result.hysteresis, 2)} each side</td>
                <td>{s.schools.find((x) => x.school === p.sum.result.school)?.name}</td>
                <td className="mono">{p.sum.result.readingsNeededSafe ?? 'more than 8'}</td>
                <td>{p.sum.verdict?.grade}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <h3 className="small-head" style={{ marginTop: 16 }}>
        Taken
      </h3>
      <table className="ruled">
        <thead>
          <tr>
            <th>When</th>
            <th>Zone</th>
            <th>Readings</th>
            <th>How</th>
            <th>By</th>
            <th>Place and light</th>
            <th>Mode</th>
          </tr>
        </thead>
        <tbody>
          {history.data.recordings.map((r, i) => (
            <tr key={i}>
              <td>{when(r.timeUtc)}</td>
              <td>{r.zone}</td>
              <td className="mono">{r.count}</td>
              <td>{r.origin}</td>
              <td>{r.who || 'not said'}</td>
              <td>{r.conditions || 'not said'}</td>
              <td>{[r.mode, r.supplyV ? `${show(r.supplyV)} V` : ''].filter(Boolean).join(', ') || 'not said'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {s.zones.some((z) => z.setAside.length > 0) && (
        <p style={{ marginTop: 12 }}>
          Set aside: {s.zones.flatMap((z) => z.setAside.map((a) => `${show(a.value)} of ${z.zone} (${a.reason})`)).join(', ')}.
        </p>
      )}
    </main>
  )
}
