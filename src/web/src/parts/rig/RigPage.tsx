import { useEdit } from '../../app/edit'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { NavLink, useLocation, useParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { Note } from '../../shared/NoteCard'
import { CopiesSheet } from './CopiesSheet'
import { Describe } from './Describe'
import { LeadPanel } from './LeadPanel'
import { LineSheet } from './LineSheet'
import { PortTable } from './PortTable'
import { PowerSheet, usePowerIssues } from './PowerSheet'
import { PreflightSheet } from './PreflightSheet'
import { useDesign } from './useDesign'
import { PartFindings } from '../../shared/PartFindings'
import { WiringSheet } from './WiringSheet'
import { Moment } from '../../shared/Moment'

const words: Record<string, string> = {
  'wiring-clash': 'Clash',
  'wiring-kind': 'Wrong port',
  'wiring-level': 'Voltage',
  'wiring-missing': 'Missing',
  'wiring-short': 'Short circuit',
  'wiring-ground': 'Ground',
}

const views = [
  ['describe', 'Describe'],
  ['ports', 'Port map'],
  ['wiring', 'Wiring table'],
  ['power', 'Power'],
  ['preflight', 'Preflight'],
  ['copies', 'Copies'],
  ['line', 'Line'],
] as const

/** The rig: described, wired, fed, checked before use, and its copies. Findings stand in the margin of every view. */
export default function RigPage() {
  const { rig } = useRig()
  const { search } = useLocation()
  const { query } = useDesign()
  const view = useParams().view ?? (rig.devices.length === 0 ? 'describe' : 'ports')
  const issues = usePowerIssues()
  const [opened, setOpened] = useState<{ device: string; lead: string } | null>(null)
  const ports = useQuery({
    queryKey: partKey(rig.id, 'ports', rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/ports', { params: { path: { id: rig.id } } })),
  })
  const run = useEdit({
    call: (wire: { device: string; lead: string; controller: string | null; port: string | null }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/ports', {
          params: { path: { id: rig.id } },
          body: { ...wire, baseRevision: ports.data!.revision, copy: rig.copy, by: tabId },
        }),
      ),
    aloud: true,
  })
  const assign = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/ports/assign', {
          params: { path: { id: rig.id } },
          body: { baseRevision: ports.data!.revision, keep: true, copy: rig.copy, by: tabId },
        }),
      ),
    said: null,
    aloud: true,
  })
  if (ports.isError)
    return (
      <main className="page">
        <p className="fault" role="alert">
          {sentencesOf(ports.error).join(' ')}
        </p>
      </main>
    )
  if (!ports.data) return <Moment />
  const map: Schemas['PortMap'] = ports.data
  const lead = map.leads.find((l) => l.device === opened?.device && l.lead === opened.lead && l.controller !== null)
  const unplaced = assign.data?.unassigned ?? []
  return (
    <main>
      <div className="program">
        <section className="sheet" aria-label={`Rig: ${views.find((v) => v[0] === view)?.[1] ?? ''}`}>
          <nav className="tools no-print" aria-label="Views of the rig">
            {views.map(([key, name]) => (
              <NavLink
                key={key}
                to={{ pathname: `/rigs/${rig.id}/rig/${key}`, search }}
                className={view === key ? 'tab' : 'tab off'}
                aria-current={view === key ? 'page' : undefined}
              >
                {name}
              </NavLink>
            ))}
          </nav>
          {view === 'describe' && (
            <Describe
              findings={[
                ...map.faults.map((f) => ({ device: f.device, say: f.say })),
                ...issues.filter((p) => p.device).map((p) => ({ device: p.device!, say: p.say })),
              ]}
            />
          )}
          {view === 'ports' && (
            <>
              <div className="row" style={{ marginBottom: 8 }}>
                <span className="muted fine">
                  A tick is a lead, a dot a port that could take it. Press a cell to run the lead of its row there.
                </span>
                <span className="push" />
                <Button onClick={() => assign.mutate()} disabled={assign.isPending}>
                  Let Chiton assign
                </Button>
              </div>
              {map.leads.length === 0 && <p className="lead">Nothing to wire yet. Describe a controller and its devices first.</p>}
              {map.controllers.map((c) => (
                <div key={c.name}>
                  <PortTable
                    controller={c}
                    map={map}
                    busy={run.isPending}
                    onRun={(device, lead, port) => run.mutate({ device, lead, controller: c.name, port })}
                    onOpen={(l) => setOpened({ device: l.device, lead: l.lead })}
                  />
                  {lead?.controller === c.name && (
                    <LeadPanel
                      key={lead.device + lead.lead}
                      lead={lead}
                      onOff={() => {
                        run.mutate({ device: lead.device, lead: lead.lead, controller: null, port: null })
                        setOpened(null)
                      }}
                      onClose={() => setOpened(null)}
                    />
                  )}
                </div>
              ))}
            </>
          )}
          {view === 'wiring' && <WiringSheet />}
          {view === 'power' && <PowerSheet />}
          {view === 'preflight' && <PreflightSheet />}
          {view === 'copies' && <CopiesSheet />}
          {view === 'line' && <LineSheet key={rig.copy} />}
        </section>
        <aside className="margin no-print" aria-label="Findings about the rig">
          <h2 className="small-head">
            {map.faults.length + issues.length > 0
              ? `${map.faults.length + issues.length} to settle`
              : map.leads.length === 0
                ? 'Nothing to judge yet'
                : 'Every lead has its place'}
          </h2>
          {map.faults.map((f, i) => (
            <Note key={i} lead={i === 0} tone="stops" word={words[f.code] ?? 'Wiring'} title={f.device}>
              {f.say}
            </Note>
          ))}
          {issues.map((p, i) => (
            <Note key={i} tone={p.kind === 'over-voltage' ? 'stops' : 'risky'} word="Power" title={p.device ?? 'The supply'}>
              {p.say}
            </Note>
          ))}
          {unplaced.map((u) => (
            <Note key={u.device} tone="risky" word="No place" title={u.device}>
              {u.reasons.join(' ')}
            </Note>
          ))}
          {/* Leads, supplies and the body have notes of their own above and below. */}
          <PartFindings part="rig" but={(code) => code.startsWith('wiring-') || code === 'power-short' || code === 'self-seen'} />
          {(query.data?.notes ?? []).map((n, i) => (
            <Note
              key={`b${i}`}
              tone={n.attention ? 'risky' : 'advice'}
              word={n.attention ? 'Mind' : 'Good to know'}
              title={n.device || 'Body'}
            >
              {n.say}
            </Note>
          ))}
          {(query.data?.cautions ?? []).length > 0 && (
            <section className="note">
              <small>Beware</small>
              <ul className="fine" style={{ margin: '4px 0 0', paddingLeft: 18 }}>
                {query.data!.cautions.map((c, i) => (
                  <li key={i}>{c}</li>
                ))}
              </ul>
            </section>
          )}
          {map.faults.length === 0 && map.leads.length > 0 && (
            <p className="fine">Check with the rig in hand before class: a lead in the wrong socket looks just like a dead sensor.</p>
          )}
        </aside>
      </div>
    </main>
  )
}
