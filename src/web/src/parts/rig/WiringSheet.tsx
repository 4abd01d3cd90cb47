import { useEdit } from '../../app/edit'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { useDesign } from './useDesign'

const ends: Schemas['LeadEnd'][] = ['cable', 'plug', 'socket', 'clip', 'bare']

/** The wiring table: pin to pin, colour, signal, which lead it takes; leads counted against those at hand. Prints on one page. */
export function WiringSheet() {
  const { rig } = useRig()
  const { query, save, busy } = useDesign()
  const table = useQuery({
    queryKey: partKey(rig.id, 'wiring', 0),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/wiring', { params: { path: { id: rig.id } } })),
  })
  const [stock, setStock] = useState('plug to socket')
  const [count, setCount] = useState('10')
  const [link, setLink] = useState({ from: '', to: '' })
  const change = useEdit({
    call: (w: { device: string; lead: string; controller: string; port: string; via: Schemas['Between']; colour: string | null }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/ports', {
          params: { path: { id: rig.id } },
          body: { ...w, baseRevision: rig.revision, copy: rig.copy, by: tabId },
        }),
      ),
    said: null,
    aloud: true,
  })
  const failed = table.error ?? query.error
  if (failed)
    return (
      <p className="fault" role="alert">
        {sentencesOf(failed).join(' ')}
      </p>
    )
  if (!table.data || !query.data) return <p className="muted">One moment…</p>
  const { design } = query.data
  const nodes = design.controllers.flatMap((c) =>
    c.ports.filter((p) => p.can.includes('supply') || p.can.includes('ground')).map((p) => `${c.name}, ${p.name}`),
  )
  const split = (s: string) => {
    const i = s.indexOf(', ')
    return [s.slice(0, i), s.slice(i + 2)] as const
  }
  const addStock = () => {
    const [one, other] = stock.split(' to ') as [Schemas['LeadEnd'], Schemas['LeadEnd']]
    const rest = (design.leadsAtHand ?? []).filter(
      (l) => !([l.one, l.other].includes(one) && [l.one, l.other].includes(other) && (one !== other || l.one === l.other)),
    )
    save.mutate({ ...design, leadsAtHand: [...rest, { one, other, count: Number(count) }] })
  }
  const wireOf = (r: Schemas['WiringRow']) => (design.wires ?? []).find((w) => w.device === r.device && w.lead === r.pin)
  return (
    <div>
      <div className="row no-print" style={{ marginBottom: 10 }}>
        <Button onClick={() => window.print()}>Print</Button>
        <span className="fine muted">Black on white, for the bench.</span>
      </div>
      <h2 className="page-title">Wiring of {rig.name}</h2>
      {table.data.rows.length === 0 && <p className="lead">No leads yet. Describe controllers and devices first.</p>}
      <div className="wide" tabIndex={0} role="group" aria-label="Wiring table">
        <table className="ruled wiring">
          <thead>
            <tr>
              <th>From</th>
              <th>Pin</th>
              <th>To</th>
              <th>Port</th>
              <th>Carries</th>
              <th>Colour</th>
              <th>Lead</th>
              <th>Between</th>
            </tr>
          </thead>
          <tbody>
            {table.data.rows.map((r, i) => {
              const wire = wireOf(r)
              return (
                <tr key={i}>
                  <td>
                    <b>{r.device}</b>
                  </td>
                  <td>{r.pin}</td>
                  {r.controller ? (
                    <>
                      <td>{r.controller}</td>
                      <td>{r.port}</td>
                    </>
                  ) : (
                    <td colSpan={2} className="unusable">
                      nowhere yet
                    </td>
                  )}
                  <td>
                    {r.signal}
                    {r.fault && (
                      <span className="fine unusable" style={{ display: 'block', maxWidth: 340 }}>
                        {r.fault}
                      </span>
                    )}
                  </td>
                  <td>
                    {wire ? (
                      <input
                        className="figure no-frame"
                        style={{ width: 74 }}
                        aria-label={`Colour of ${r.device} ${r.pin}`}
                        defaultValue={r.colour}
                        key={r.colour}
                        maxLength={20}
                        onBlur={(e) => {
                          if (e.target.value !== r.colour)
                            change.mutate({
                              device: wire.device,
                              lead: wire.lead,
                              controller: wire.controller,
                              port: wire.port,
                              via: wire.via ?? 'nothing',
                              colour: e.target.value || null,
                            })
                        }}
                      />
                    ) : (
                      r.colour
                    )}
                  </td>
                  <td>{r.leadType ?? <span className="muted">its own</span>}</td>
                  <td>
                    {wire && !['supply', 'ground'].includes(r.pin) ? (
                      <select
                        className="figure no-frame"
                        aria-label={`Between ${r.device} ${r.pin} and its port`}
                        value={wire.via ?? 'nothing'}
                        onChange={(e) =>
                          change.mutate({
                            device: wire.device,
                            lead: wire.lead,
                            controller: wire.controller,
                            port: wire.port,
                            via: e.target.value as Schemas['Between'],
                            colour: wire.colour ?? null,
                          })
                        }
                      >
                        <option value="nothing">nothing</option>
                        <option value="divider">a divider</option>
                        <option value="levelShifter">a level shifter</option>
                      </select>
                    ) : (
                      (r.via ?? '')
                    )}
                  </td>
                </tr>
              )
            })}
          </tbody>
        </table>
      </div>
      <div className="cols">
        <section>
          <h3 className="small-head" style={{ marginTop: 14 }}>
            Leads
          </h3>
          {table.data.leads.length === 0 ? (
            <p className="fine muted">Every device's own lead fits; none is needed besides.</p>
          ) : (
            <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
              <thead>
                <tr>
                  <th>By its ends</th>
                  <th>Needed</th>
                  <th>At hand</th>
                </tr>
              </thead>
              <tbody>
                {table.data.leads.map((l) => (
                  <tr key={l.type}>
                    <td>
                      {l.type}
                      {l.say && (
                        <span className="risky fine" style={{ display: 'block' }}>
                          {l.say}
                        </span>
                      )}
                    </td>
                    <td className="mono">{l.needed}</td>
                    <td className="mono">{l.atHand ?? 'not counted'}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          <div className="row no-print" style={{ marginTop: 8 }}>
            <label className="fine">
              At hand{' '}
              <input
                className="mono figure"
                style={{ width: 52 }}
                inputMode="numeric"
                value={count}
                onChange={(e) => setCount(e.target.value)}
              />
            </label>
            <select className="figure" aria-label="Kind of lead" value={stock} onChange={(e) => setStock(e.target.value)}>
              {ends.flatMap((a, i) =>
                ends.slice(i).map((b) => (
                  <option key={a + b}>
                    {a} to {b}
                  </option>
                )),
              )}
            </select>
            <Button onClick={addStock} disabled={busy || change.isPending}>
              Count them
            </Button>
          </div>
        </section>
        <section>
          <h3 className="small-head" style={{ marginTop: 14 }}>
            Ground
          </h3>
          {table.data.grounds.length === 0 ? (
            <p className="fine muted">No ground is wired by itself in this rig.</p>
          ) : (
            <ul style={{ paddingLeft: 18, margin: 0 }}>
              {table.data.grounds.map((g, i) => (
                <li key={i} style={{ fontSize: 14 }}>
                  {g}
                </li>
              ))}
            </ul>
          )}
          {nodes.length > 1 && (
            <div className="no-print">
              <ul className="items" style={{ marginTop: 8 }}>
                {(design.links ?? []).map((l, i) => (
                  <li key={i} className="row" style={{ padding: '2px 0' }}>
                    <span className="fine">
                      {l.fromPort} of {l.fromController} to {l.toPort} of {l.toController}
                    </span>
                    <Button
                      variant="text"
                      disabled={busy}
                      onClick={() => save.mutate({ ...design, links: (design.links ?? []).filter((_, k) => k !== i) })}
                    >
                      Take out
                    </Button>
                  </li>
                ))}
              </ul>
              <div className="row">
                <select
                  className="figure"
                  aria-label="Link from"
                  value={link.from}
                  onChange={(e) => setLink({ ...link, from: e.target.value })}
                >
                  <option value="">Link…</option>
                  {nodes.map((n) => (
                    <option key={n}>{n}</option>
                  ))}
                </select>
                <select className="figure" aria-label="Link to" value={link.to} onChange={(e) => setLink({ ...link, to: e.target.value })}>
                  <option value="">to…</option>
                  {nodes.map((n) => (
                    <option key={n}>{n}</option>
                  ))}
                </select>
                <Button
                  disabled={busy || !link.from || !link.to || link.from === link.to}
                  onClick={() => {
                    const [a, b] = split(link.from)
                    const [c, d] = split(link.to)
                    save.mutate({
                      ...design,
                      links: [...(design.links ?? []), { fromController: a, fromPort: b, toController: c, toPort: d }],
                    })
                    setLink({ from: '', to: '' })
                  }}
                >
                  Join them
                </Button>
              </div>
            </div>
          )}
        </section>
      </div>
      {save.isError && (
        <p className="fault" role="alert">
          {sentencesOf(save.error).join(' ')}
        </p>
      )}
      <p className="fine muted" style={{ marginTop: 10 }}>
        Switch off before you change a lead. Follow the maker's instructions, your school's policy and local rules.
      </p>
    </div>
  )
}
