import { useEdit } from '../../app/edit'
import { useState } from 'react'
import Button from '@mui/material/Button'
import { client, Problem, sentencesOf, tabId, unwrap, type Sense } from '../../app/api'
import { useRig } from '../../app/rig'
import { show } from '../../shared/format'
import { Faults } from '../../shared/Faults'

/** From where to where each zone of a distance sensor reaches, and what lies between. */
export function Bands({ sense }: { sense: Sense }) {
  const { rig } = useRig()
  const now = sense.bands?.bands ?? []
  const [draft, setDraft] = useState<Record<string, { from: string; to: string }>>({})
  const text = (zone: string, end: 'from' | 'to') =>
    draft[zone]?.[end] ??
    (() => {
      const b = now.find((x) => x.zone === zone)
      return b ? String(end === 'from' ? b.fromMm : b.toMm) : ''
    })()
  const put = (zone: string, end: 'from' | 'to', value: string) =>
    setDraft({ ...draft, [zone]: { from: text(zone, 'from'), to: text(zone, 'to'), [end]: value } })
  const save = useEdit({
    call: (bands: { zone: string; fromMm: number; toMm: number }[]) =>
      unwrap(
        client.PUT('/api/rigs/{id}/sense/bands', {
          params: { path: { id: rig.id } },
          body: { baseRevision: rig.revision, sensor: sense.sensor, bands, copy: rig.copy, by: tabId },
        }),
      ),
    done: () => setDraft({}),
  })
  // What was taken in or set aside a moment ago may still be on its way to this page: they are taken from what is known now.
  const take = async () => {
    const known = await unwrap(
      client.GET('/api/rigs/{id}/sense', { params: { path: { id: rig.id }, query: { copy: rig.copy, sensor: sense.sensor } } }),
    ).catch(() => sense)
    save.mutate(known.bandsFromReadings)
  }
  const keep = () =>
    save.mutate(
      sense.zones
        .map((z) => ({
          zone: z.zone,
          fromMm: Number(text(z.zone, 'from').replace(',', '.')),
          toMm: Number(text(z.zone, 'to').replace(',', '.')),
        }))
        .filter((b) => text(b.zone, 'from') !== '' || text(b.zone, 'to') !== ''),
    )
  return (
    <section className="note lead-note" style={{ maxWidth: 760 }}>
      <small>Bands</small>
      <p>A band is chosen; how sharply its ends can be told comes from the readings. Nothing heard never counts as near.</p>
      <form
        onSubmit={(e) => {
          e.preventDefault()
          keep()
        }}
      >
        <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
          <thead>
            <tr>
              <th>Zone</th>
              <th>From mm</th>
              <th>To mm</th>
            </tr>
          </thead>
          <tbody>
            {sense.zones.map((z) => (
              <tr key={z.zone}>
                <td>{z.zone}</td>
                <td>
                  <input
                    className="mono figure"
                    style={{ width: 76 }}
                    inputMode="decimal"
                    aria-label={`${z.zone} from, in mm`}
                    value={text(z.zone, 'from')}
                    onChange={(e) => put(z.zone, 'from', e.target.value)}
                  />
                </td>
                <td>
                  <input
                    className="mono figure"
                    style={{ width: 76 }}
                    inputMode="decimal"
                    aria-label={`${z.zone} to, in mm`}
                    value={text(z.zone, 'to')}
                    onChange={(e) => put(z.zone, 'to', e.target.value)}
                  />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <div className="row" style={{ marginTop: 8 }}>
          <Button type="submit" disabled={save.isPending}>
            Keep the bands
          </Button>
          {sense.bandsFromReadings.length > 1 && (
            <Button type="button" onClick={() => void take()}>
              Take them from the readings
            </Button>
          )}
        </div>
      </form>
      {save.isError && !(save.error instanceof Problem && save.error.status === 409) && <Faults sentences={sentencesOf(save.error)} />}
      <ul style={{ paddingLeft: 18, margin: '8px 0 0', fontSize: 14 }}>
        {(sense.bands?.boundaries ?? []).map((b, i) => (
          <li key={i}>
            <b className={b.grade}>
              {b.nearer} to {b.farther} at {show(b.thresholdMm)} mm: {b.grade}.
            </b>{' '}
            {b.say}
          </li>
        ))}
        {(sense.bands?.stretches ?? []).map((s, i) => (
          <li key={`s${i}`} className={s.kind === 'gap' ? '' : 'risky'}>
            {s.say}
          </li>
        ))}
      </ul>
    </section>
  )
}
