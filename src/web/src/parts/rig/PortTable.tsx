import type { Schemas } from '../../app/api'

type Props = {
  controller: Schemas['ControllerTable']
  map: Schemas['PortMap']
  busy: boolean
  onRun: (device: string, lead: string, port: string | null) => void
}

/** One controller as a ruled table: sockets and pins as columns, leads as rows, a tick where a lead runs. */
export function PortTable({ controller, map, busy, onRun }: Props) {
  const clashes = new Set(controller.ports.filter(p => map.leads.filter(l => l.controller === controller.name && l.port === p.name).length > 1).map(p => p.name))
  return (
    <div className="wide" tabIndex={0} role="group" aria-label={`Ports of ${controller.name}`}>
      <table className="ruled ports">
        <caption className="small-head">{controller.name}</caption>
        <thead>
          <tr>
            <th scope="col">Lead</th>
            {controller.ports.map(p => (
              <th key={p.name} scope="col" className={clashes.has(p.name) ? 'clash' : ''} title={[p.can, p.volts].filter(Boolean).join('; ')}>
                {p.name}{clashes.has(p.name) && <span className="hidden-text">, two leads</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {map.leads.map(l => (
            <tr key={l.device + l.lead}>
              <th scope="row"><b>{l.device}</b> <span className="muted">{l.lead}</span></th>
              {controller.ports.map(p => {
                const here = l.controller === controller.name && l.port === p.name
                const fits = l.fits.includes(`${controller.name}, ${p.name}`)
                return (
                  <td key={p.name} className={clashes.has(p.name) ? 'clash' : ''}>
                    <button disabled={busy} aria-pressed={here} className={`cell${here ? ' here' : ''}${here && !fits ? ' wrong' : ''}`}
                      aria-label={here ? `${l.device} ${l.lead} runs to ${p.name}; take it off` : `Run ${l.device} ${l.lead} to ${p.name}${fits ? '' : ', which cannot serve it'}`}
                      title={fits ? `${p.name} can ${p.can}` : `${p.name} cannot ${l.needs}`}
                      onClick={() => onRun(l.device, l.lead, here ? null : p.name)}>
                      {here ? '\u2713' : fits ? '\u00b7' : ''}
                    </button>
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
