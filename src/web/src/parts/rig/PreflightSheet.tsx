import { useEffect, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { useIsTeam } from '../../app/me'
import { partKey, useAnswered, useRefresh, useRig } from '../../app/rig'
import { OnLine, useLine } from '../../shared/OnLine'
import { number } from './fields'

type View = Schemas['PreflightView']
type Device = Schemas['DeviceCheck']
type Entry = Partial<Schemas['SeenEntry']> & Pick<Schemas['SeenEntry'], 'device' | 'action'>

const nothing = { moved: null, way: null, weak: null, controller: null, port: null, restV: null, loadV: null }

const doing: Record<string, string> = { move: 'Move', read: 'Test', search: 'Try every port for', battery: 'Measure the pack' }
const marks: Record<string, string> = { works: '✓', fault: '✗', untested: '', 'going on': '…' }

/** Preflight: a checklist, then every device seen to work, and a name for what does not. */
export function PreflightSheet() {
  const { rig, say } = useRig()
  const team = useIsTeam()
  const queries = useQueryClient()
  const answered = useAnswered()
  const refresh = useRefresh()
  const key = partKey(rig.id, 'preflight', rig.copy)
  const at = { params: { path: { id: rig.id } } }
  const line = useLine()
  const joined = line?.standing === 'joined'
  const view = useQuery({
    queryKey: key,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/preflight', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  // A controller that answers on its line is ticked by that: when the plug comes out, or goes back in, the list is another one.
  useEffect(() => {
    void queries.invalidateQueries({ queryKey: partKey(rig.id, 'preflight', rig.copy) })
  }, [joined, queries, rig.id, rig.copy])
  const act = useMutation({
    mutationFn: (call: () => Promise<View>) => call(),
    onSuccess: async (next) => {
      await answered(key, next)
      // Of two that were ticked in a row the answer to the first may come last.
      void queries.invalidateQueries({ queryKey: key })
    },
    onError: (e) => say(sentencesOf(e).join(' ')),
  })
  const reversed = useMutation({
    mutationFn: (device: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/preflight/reversed', {
          ...at,
          body: { baseRevision: rig.revision, device, reversed: true, copy: rig.copy, by: tabId },
        }),
      ),
    onSuccess: async (done) => {
      say(`Kept as revision ${done.revision}: ${done.what}. Move it again.`)
      await refresh()
    },
    onError: (e) => say(sentencesOf(e).join(' ')),
  })
  if (view.isError)
    return (
      <p className="fault" role="alert">
        {sentencesOf(view.error).join(' ')}
      </p>
    )
  if (!view.data) return <p className="muted">One moment…</p>
  const v = view.data
  const attempt = (device: string, action: Schemas['PreflightAction']) =>
    act.mutate(() => unwrap(client.POST('/api/rigs/{id}/preflight/try', { ...at, body: { copy: rig.copy, device, action } })))
  const real = rig.kind === 'real'
  const saw = (seen: Entry) =>
    act.mutate(() =>
      unwrap(client.POST('/api/rigs/{id}/preflight/seen', { ...at, body: { copy: rig.copy, seen: { ...nothing, ...seen } } })),
    )
  const check = (item: string, done: boolean) =>
    act.mutate(() => unwrap(client.POST('/api/rigs/{id}/preflight/check', { ...at, body: { copy: rig.copy, key: item, done } })))
  const plant = (kind: Schemas['BenchFaultKind'] | null, device: string | null, other: string | null) =>
    act.mutate(() => unwrap(client.POST('/api/rigs/{id}/preflight/plant', { ...at, body: { copy: rig.copy, kind, device, other } })))
  const begin = () =>
    act.mutate(() => unwrap(client.POST('/api/rigs/{id}/preflight/start', { ...at, body: { copy: rig.copy, by: tabId } })))
  const next = (d: Device) =>
    d.next && (
      <Button onClick={() => attempt(d.next === 'battery' ? '' : (d.nextDevice ?? d.device), d.next!)} disabled={act.isPending}>
        {doing[d.next]}
        {d.next === 'battery' ? '' : ` ${d.nextDevice ?? d.device}`}
      </Button>
    )
  const done = v.devices.filter((d) => d.state === 'works').length
  return (
    <div>
      <OnLine line={line} />
      <p className="lead" data-testid="preflight-state">
        {v.ready
          ? 'Everything was seen to work. This copy is ready.'
          : `${done} of ${v.devices.length} devices seen to work; ${v.checklist.filter((c) => c.done).length} of ${v.checklist.length} looked at.`}
        {v.last && (
          <>
            {' '}
            Last: <b aria-live="polite">{v.last}</b>
          </>
        )}
      </p>
      {v.faults.length > 0 && <h2 className="hidden-text">What was found</h2>}
      {v.faults.map((f, i) => (
        <section key={i} className="note lead-note" data-testid="named-fault">
          <small className="stops">{f.code === 'flat-battery' ? 'The pack' : f.device}</small>
          <h3>{f.say}</h3>
          <p>{f.cure}</p>
          {f.code === 'reversed-motor' && (
            <Button onClick={() => reversed.mutate(f.device)} disabled={reversed.isPending}>
              Record that {f.device} is mounted the other way round
            </Button>
          )}
        </section>
      ))}
      <h2 className="small-head" style={{ marginTop: 10 }}>
        Look first
      </h2>
      <ul className="items">
        {v.checklist.map((c) => (
          <li key={c.key}>
            <label className="row" style={{ padding: '4px 0', minHeight: 32 }}>
              <input type="checkbox" checked={c.done} onChange={(e) => check(c.key, e.target.checked)} style={{ width: 20, height: 20 }} />
              {c.say}
            </label>
          </li>
        ))}
      </ul>
      <div className="row" style={{ margin: '10px 0' }}>
        {real ? (
          <>
            {joined && (
              <Button onClick={() => attempt('', 'battery')} disabled={act.isPending}>
                Ask what the pack gives
              </Button>
            )}
            <Pack onSeen={saw} busy={act.isPending} />
          </>
        ) : (
          <Button onClick={() => attempt('', 'battery')} disabled={act.isPending}>
            Measure the pack
          </Button>
        )}
        {v.pack && (
          <span className={v.faults.some((f) => f.code === 'flat-battery') ? 'stops' : 'holds'} data-testid="pack">
            Measured: {v.pack}
          </span>
        )}
      </div>
      <h2 className="small-head">Then every device, {real ? 'on the table' : 'on the simulated controller'}</h2>
      <p className="fine muted" style={{ marginBottom: 6 }}>
        Three tries each: a loose lead shows itself in one of them. Keep fingers away from what moves.
        {joined && ' A sensor is listened to for five seconds: leave it alone for one, then touch, cover or approach it.'}
      </p>
      <p className="fine" role="status">
        {joined && act.isPending ? 'The robot is asked…' : ''}
      </p>
      {v.devices.length === 0 && (
        <p>
          This rig has no devices yet. <Link to={`/rigs/${rig.id}/rig/describe?copy=${rig.copy}`}>Describe them</Link>, and each gets its
          row here.
        </p>
      )}
      <div className="wide" tabIndex={0} role="group" aria-label="Devices" hidden={v.devices.length === 0}>
        <table className="ruled">
          <thead>
            <tr>
              <th>Device</th>
              <th>Port</th>
              <th>Should</th>
              <th>Seen</th>
              <th>
                <span className="hidden-text">What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {v.devices.map((d) => (
              <tr key={d.device}>
                <td>
                  <b>{d.device}</b>
                </td>
                <td>{d.where}</td>
                <td>{d.should}</td>
                <td className={d.state === 'fault' ? 'unusable' : d.state === 'works' ? 'solid' : ''}>
                  <span className="mono">{marks[d.state]}</span> {d.say}
                </td>
                <td>
                  {real && joined && (d.next === 'move' || d.next === 'read') && (
                    <Button onClick={() => attempt(d.nextDevice ?? d.device, d.next!)} disabled={act.isPending}>
                      {doing[d.next]} {d.nextDevice ?? d.device}
                    </Button>
                  )}
                  {real ? <Saw device={d} all={v.devices} onSeen={saw} busy={act.isPending} /> : next(d)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {real && (
        <Button onClick={begin} sx={{ mt: 2 }}>
          Begin anew
        </Button>
      )}
      {!real && !team && (
        <section style={{ marginTop: 18 }}>
          <h2 className="small-head">Practise</h2>
          <p className="fine muted">
            Give the simulated controller a fault and find it. {v.planted > 0 && !v.shown && <b>A fault is in it now.</b>}
          </p>
          {v.shown && <p data-testid="planted">{v.shown.length === 0 ? 'No fault was planted.' : v.shown.join(' ')}</p>}
          <div className="row">
            <Button onClick={() => plant(null, null, null)} disabled={act.isPending}>
              Plant any fault
            </Button>
            <select
              className="figure"
              aria-label="Plant this fault"
              value=""
              onChange={(e) => {
                const f = v.canPlant[Number(e.target.value)]
                if (e.target.value !== '' && f) plant(f.kind, f.device, f.other)
              }}
            >
              <option value="">Plant this one…</option>
              {v.canPlant.map((f, i) => (
                <option key={i} value={i}>
                  {f.say}
                </option>
              ))}
            </select>
            {v.planted > 0 && !v.shown && (
              <Button
                onClick={() =>
                  act.mutate(() => unwrap(client.POST('/api/rigs/{id}/preflight/show', { ...at, body: { copy: rig.copy, by: tabId } })))
                }
              >
                Show it
              </Button>
            )}
            <Button onClick={begin}>Begin anew</Button>
          </div>
        </section>
      )}
    </div>
  )
}

/** What the pack gave on the table, at rest and with everything on. */
function Pack({ onSeen, busy }: { onSeen: (seen: Entry) => void; busy: boolean }) {
  const [volts, setVolts] = useState({ rest: '', load: '' })
  const field = (at: 'rest' | 'load', label: string) => (
    <label>
      {label}{' '}
      <input
        className="mono figure"
        inputMode="decimal"
        style={{ width: 72 }}
        aria-label={`${label}, in V`}
        value={volts[at]}
        onChange={(e) => setVolts({ ...volts, [at]: e.target.value })}
      />{' '}
      V
    </label>
  )
  return (
    <form
      className="row"
      style={{ gap: '6px 14px' }}
      onSubmit={(e) => {
        e.preventDefault()
        onSeen({ device: '', action: 'battery', moved: [], way: 'nothing', restV: number(volts.rest), loadV: number(volts.load) })
      }}
    >
      {field('rest', 'The pack gives at rest')}
      {field('load', 'with everything on')}
      <Button type="submit" disabled={busy}>
        Keep what the pack gave
      </Button>
    </form>
  )
}

const asked: Record<string, string> = {
  move: 'Moved it: what was seen?',
  read: 'Did it: what was seen?',
  search: 'Tried every port: which answers?',
}

/** What was seen of a device on the table, picked in words. */
function Saw({ device, all, onSeen, busy }: { device: Device; all: Device[]; onSeen: (seen: Entry) => void; busy: boolean }) {
  if (!device.next || device.next === 'battery') return null
  const name = device.nextDevice ?? device.device
  const action = device.next
  const others = all.map((d) => d.device).filter((d) => d !== name)
  const base = { device: name, action, moved: [] as string[], way: 'nothing' as Entry['way'] }
  const seen: [string, Entry][] =
    action === 'move'
      ? [
          ['it did as it should', { ...base, moved: [name], way: 'forward' }],
          ...(device.should.startsWith('turns')
            ? [['it went the other way', { ...base, moved: [name], way: 'backward' }] as [string, Entry]]
            : []),
          ['it moved, but weakly', { ...base, moved: [name], way: 'forward', weak: true }],
          ['nothing happened', base],
          ...others.map((o): [string, Entry] => [`${o} did it instead`, { ...base, moved: [o], way: 'forward' }]),
        ]
      : action === 'read'
        ? [
            ['its reading changed', { ...base, moved: [name] }],
            ['its reading stayed', base],
          ]
        : [
            ['none', base],
            ...all
              .filter((d) => d.where.includes(', '))
              .map((d): [string, Entry] => {
                // A controller may have a comma in its name.
                const at = d.where.lastIndexOf(', ')
                const [controller, port] = [d.where.slice(0, at), d.where.slice(at + 2)]
                return [`${d.where}, where ${d.device} belongs`, { ...base, controller, port }]
              }),
          ]
  return (
    <select
      className="figure"
      aria-label={`${name}: ${asked[action]}`}
      value=""
      disabled={busy}
      onChange={(e) => {
        const picked = seen[Number(e.target.value)]
        if (e.target.value !== '' && picked) onSeen(picked[1])
      }}
    >
      <option value="">{name === device.device ? asked[action] : `${name}: ${asked[action]}`}</option>
      {seen.map(([word], i) => (
        <option key={i} value={i}>
          {word}
        </option>
      ))}
    </select>
  )
}
