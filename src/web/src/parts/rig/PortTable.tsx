import type { Schemas } from '../../app/api'
import { show } from '../../shared/format'

type Props = {
  controller: Schemas['ControllerTable']
  map: Schemas['PortMap']
  busy: boolean
  onRun: (device: string, lead: string, port: string) => void
  onOpen: (lead: Schemas['LeadRow']) => void
}

/** One controller as a ruled table: sockets and pins as columns, leads as rows, a tick where a lead runs. */
export function PortTable({ controller, map, busy, onRun, onOpen }: Props) {
  const clashes = new Set(
    controller.ports
      .filter((p) => map.leads.filter((l) => l.controller === controller.name && l.port === p.name).length > p.holds)
      .map((p) => p.name),
  )
  // A strip or pack takes only supply and ground; a socket board without them has no use for those rows.
  const rows = map.leads.filter((l) =>
    controller.role === 'controller'
      ? !['supply', 'ground'].includes(l.lead) ||
        l.controller === controller.name ||
        (l.controller === null && controller.ports.some((p) => l.fits.includes(`${controller.name}, ${p.name}`)))
      : ['supply', 'ground'].includes(l.lead),
  )
  return (
    <div className="wide" tabIndex={0} role="group" aria-label={`Ports of ${controller.name}`}>
      <table className="ruled ports">
        <caption className="small-head">
          {controller.name}
          {controller.role !== 'controller' && <span className="muted">, {controller.role}</span>}
        </caption>
        <thead>
          <tr>
            <th scope="col">Lead</th>
            {controller.ports.map((p) => (
              <th
                key={p.name}
                scope="col"
                className={clashes.has(p.name) ? 'clash' : ''}
                title={[p.can, p.volts].filter(Boolean).join('; ')}
              >
                {p.name}
                {clashes.has(p.name) && <span className="hidden-text">, two leads</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((l) => (
            <tr key={l.device + l.lead}>
              <th scope="row">
                <b>{l.device}</b> <span className="muted">{l.lead}</span>
              </th>
              {controller.ports.map((p) => {
                const here = l.controller === controller.name && l.port === p.name
                const fits = l.fits.includes(`${controller.name}, ${p.name}`)
                return (
                  <td key={p.name} className={clashes.has(p.name) ? 'clash' : ''}>
                    <button
                      disabled={busy}
                      aria-pressed={here}
                      className={`cell${here ? ' here' : ''}${here && !fits ? ' wrong' : ''}`}
                      aria-label={
                        here
                          ? `${l.device} ${l.lead} runs to ${p.name}; open it`
                          : `Run ${l.device} ${l.lead} to ${p.name}${fits ? '' : ', which cannot serve it'}`
                      }
                      title={fits ? `${p.name} can ${p.can}` : `${p.name} cannot ${l.needs}`}
                      onClick={() => (here ? onOpen(l) : onRun(l.device, l.lead, p.name))}
                    >
                      {here
                        ? l.via === 'nothing'
                          ? '\u2713'
                          : l.via === 'divider'
                            ? '\u2713\u2099'
                            : '\u2713\u2191'
                        : fits
                          ? '\u00b7'
                          : ''}
                    </button>
                  </td>
                )
              })}
            </tr>
          ))}
        </tbody>
        {controller.ports.some((p) => p.currentMA !== null) && (
          <tfoot>
            <tr>
              <th scope="row" className="muted fine">
                current when all work, mA
              </th>
              {controller.ports.map((p) => (
                <td key={p.name} className="mono fine">
                  {p.currentMA === null ? '' : show(p.currentMA)}
                </td>
              ))}
            </tr>
          </tfoot>
        )}
      </table>
    </div>
  )
}
