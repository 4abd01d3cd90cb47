import { useMutation, useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { partKey, useAnswered, useRig } from '../../app/rig'
import { show } from '../../shared/format'

/** One lead of the map: its row of the wiring table, what its voltages do, and its test. */
export function LeadPanel({ lead, onOff, onClose }: { lead: Schemas['LeadRow']; onOff: () => void; onClose: () => void }) {
  const { rig, say } = useRig()
  const answered = useAnswered()
  const key = partKey(rig.id, 'preflight', rig.copy)
  const table = useQuery({
    queryKey: partKey(rig.id, 'wiring', 0),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/wiring', { params: { path: { id: rig.id } } })),
  })
  const flight = useQuery({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/preflight', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  const attempt = useMutation({
    mutationFn: (t: { device: string; action: Schemas['PreflightAction'] }) =>
      unwrap(client.POST('/api/rigs/{id}/preflight/try', { params: { path: { id: rig.id } }, body: { copy: rig.copy, ...t } })),
    onSuccess: async (next) => {
      await answered(key, next)
      say(next.last ?? '')
    },
    onError: (e) => say(sentencesOf(e).join(' ')),
  })
  const row = table.data?.rows.find((r) => r.device === lead.device && r.pin === lead.lead)
  const check = flight.data?.devices.find((d) => d.device === lead.device)
  return (
    <section
      className="note lead-note"
      aria-label={`Lead ${lead.lead} of ${lead.device}`}
      style={{ maxWidth: 760 }}
      onKeyDown={(e) => {
        if (e.key === 'Escape') onClose()
      }}
    >
      <small>
        {lead.device}, {lead.lead}
      </small>
      <h2 style={{ fontSize: 15, fontWeight: 700 }}>
        {lead.device} {lead.lead} to {lead.port} of {lead.controller}
      </h2>
      {row && (
        <p>
          {row.signal}; {row.colour === 'cable' ? 'its own cable' : `${row.colour} wire`}
          {row.leadType ? `, a lead ${row.leadType}` : ''}
          {row.via ? `, through ${row.via}` : ''}. {row.fault && <b className="unusable">{row.fault}</b>}
        </p>
      )}
      {lead.level && (
        <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
          <tbody>
            {lead.level.steps.map((s, i) => (
              <tr key={i}>
                <td>{s.say}</td>
                <td className="mono">{s.arithmetic}</td>
                <td className="mono">
                  {s.value === null ? '' : show(s.value)} {s.unit}
                </td>
              </tr>
            ))}
            <tr>
              <td colSpan={3}>
                <b className={lead.level.verdict?.grade}>{lead.level.verdict?.say}</b>
              </td>
            </tr>
          </tbody>
        </table>
      )}
      {check && (
        <p style={{ marginTop: 6 }}>
          On the simulated controller: {check.should}. <b>{check.say}</b>
        </p>
      )}
      <div className="row">
        {check?.next && (
          <Button
            autoFocus
            onClick={() =>
              attempt.mutate({ device: check.next === 'battery' ? '' : (check.nextDevice ?? lead.device), action: check.next! })
            }
            disabled={attempt.isPending}
          >
            {check.next === 'move'
              ? 'Move'
              : check.next === 'read'
                ? 'Test'
                : check.next === 'search'
                  ? 'Try every port for'
                  : 'Measure the pack for'}{' '}
            {check.nextDevice ?? lead.device}
          </Button>
        )}
        <Button onClick={onOff}>Take it off</Button>
        <Button variant="text" onClick={onClose}>
          Close
        </Button>
      </div>
    </section>
  )
}
