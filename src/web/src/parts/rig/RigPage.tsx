import { useMutation, useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, Problem, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRefresh, useRig } from '../../app/rig'
import { Note } from '../../shared/NoteCard'
import { CopiesSheet } from './CopiesSheet'
import { PortTable } from './PortTable'
import { PowerSheet, usePowerIssues } from './PowerSheet'

const words: Record<string, string> = { 'wiring-clash': 'Clash', 'wiring-kind': 'Wrong port', 'wiring-level': 'Voltage', 'wiring-missing': 'Missing' }

/** The port map: which lead runs to which socket or pin, by hand or assigned. */
export default function RigPage() {
  const { rig, say } = useRig()
  const refresh = useRefresh()
  const issues = usePowerIssues()
  const ports = useQuery({
    queryKey: partKey(rig.id, 'ports', rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/ports', { params: { path: { id: rig.id } } })),
  })
  const failed = async (error: unknown) => {
    say(error instanceof Problem && error.status === 409 ? `${error.message} Here is the new state.` : sentencesOf(error).join(' '))
    await refresh()
  }
  const run = useMutation({
    mutationFn: (wire: { device: string; lead: string; controller: string | null; port: string | null }) =>
      unwrap(client.PUT('/api/rigs/{id}/ports', { params: { path: { id: rig.id } }, body: { ...wire, baseRevision: ports.data!.revision, copy: rig.copy, by: tabId } })),
    onSuccess: async done => {
      say(`Kept as revision ${done.revision}: ${done.what}.`)
      await refresh()
    },
    onError: failed,
  })
  const assign = useMutation({
    mutationFn: () => unwrap(client.POST('/api/rigs/{id}/ports/assign', { params: { path: { id: rig.id } }, body: { baseRevision: ports.data!.revision, keep: true, copy: rig.copy, by: tabId } })),
    onSuccess: async () => refresh(),
    onError: failed,
  })
  if (ports.isError) return <main className="page"><p className="fault" role="alert">{sentencesOf(ports.error).join(' ')}</p></main>
  if (!ports.data) return <p className="page muted">One moment…</p>
  const map: Schemas['PortMap'] = ports.data
  const unplaced = assign.data?.unassigned ?? []
  return (
    <main>
      <div className="program">
        <section className="sheet" aria-label="Port map">
          <div className="tools">
            <span className="tab">Port map</span>
            <span className="push muted fine">A tick is a lead. Press a cell to run the lead of its row there.</span>
            <Button onClick={() => assign.mutate()} disabled={assign.isPending}>Let Chiton assign</Button>
          </div>
          {map.controllers.map(c => <PortTable key={c.name} controller={c} map={map} busy={run.isPending} onRun={(device, lead, port) => run.mutate({ device, lead, controller: port && c.name, port })} />)}
          <PowerSheet />
          <CopiesSheet />
          <p className="lead muted fine" style={{ marginTop: 18 }}>
            Not built yet in this part: describing other rigs from templates, mechanisms and positions, the wiring table with its leads, and preflight.
          </p>
        </section>
        <aside className="margin" aria-label="Wiring">
          <h2 className="small-head">{map.faults.length + issues.length > 0 ? `${map.faults.length + issues.length} to settle` : 'Every lead has its place'}</h2>
          {map.faults.map((f, i) => <Note key={i} lead={i === 0} tone="stops" word={words[f.code] ?? 'Wiring'} title={f.device}>{f.say}</Note>)}
          {issues.map((p, i) => <Note key={i} tone={p.kind === 'over-voltage' ? 'stops' : 'risky'} word="Power" title={p.device ?? 'The supply'}>{p.say}</Note>)}
          {unplaced.map(u => <Note key={u.device} tone="risky" word="No place" title={u.device}>{u.reasons.join(' ')}</Note>)}
          {map.faults.length === 0 && <p className="fine">Check with the rig in hand before class: a lead in the wrong socket looks just like a dead sensor.</p>}
        </aside>
      </div>
    </main>
  )
}
