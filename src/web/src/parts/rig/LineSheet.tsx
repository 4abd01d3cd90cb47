import { useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap } from '../../app/api'
import { useMe } from '../../app/me'
import { partKey, useAnswered, useRig } from '../../app/rig'
import { CopyKind } from '../../shared/CopyKind'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { howOften, useLine, type OutsideLine } from '../../shared/OnLine'

/** The line to the real thing: joined at the desk, looked at by everybody who works on the copy. */
export function LineSheet() {
  const { rig, say } = useRig()
  const desk = useMe().data?.who === 'desk'
  const answered = useAnswered()
  const line = useLine(1000)
  const took = (next: OutsideLine) => answered(partKey(rig.id, 'line', rig.copy), next)
  const leave = useMutation({
    mutationFn: () => unwrap(client.DELETE('/api/rigs/{id}/line', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
    onSuccess: took,
    onError: (e) => say(sentencesOf(e).join(' ')),
  })
  return (
    <section aria-labelledby="line-title" style={{ marginTop: 22 }}>
      <h2 id="line-title" className="page-title">
        Line
      </h2>
      <p className="fine muted">
        A board that speaks the line brings in readings, trials and runs without typing. It can be a real one on a port of this machine or
        on the network, or a box: a stand-in that <span className="mono">./dev box {rig.id}</span> starts.{' '}
        <a href="/help/line">How to write one</a> is one page.
      </p>
      <CopyKind />
      {rig.kind !== 'real' && (
        <p className="lead">This copy is a stand-in in here and has no plug. Add a copy that is on a table under Copies.</p>
      )}
      {rig.kind === 'real' && line && line.standing === 'none' && (
        <>
          <p className="lead">This copy is on no line.</p>
          {!desk && <p>Lines are joined at the desk.</p>}
        </>
      )}
      {rig.kind === 'real' && line && desk && line.standing === 'none' && <Join line={line} onJoined={took} />}
      {rig.kind === 'real' && line && line.standing !== 'none' && (
        <>
          <p className="lead" role="status" data-testid="line-standing">
            <span className={line.standing === 'joined' ? 'solid' : 'stops'}>
              {line.standing === 'joined' ? 'Joined.' : line.standing === 'joining' ? 'Joining.' : 'The plug is out.'}
            </span>{' '}
            {line.say}
          </p>
          {desk && line.standing !== 'joined' && <Join line={line} onJoined={took} />}
          {line.holding && (
            <p className={line.holdsThis === true ? '' : 'risky'} data-testid="line-holds">
              {line.holding}
            </p>
          )}
          {line.complaints.length > 0 && (
            <section aria-labelledby="line-complaints">
              <h3 className="small-head" id="line-complaints">
                Called out
              </h3>
              <ul data-testid="line-complaints">
                {line.complaints.map((c) => (
                  <li key={c.say} className="risky">
                    {c.say} <span className="muted">{howOften(c)}</span>
                  </li>
                ))}
              </ul>
            </section>
          )}
          {line.missing.length > 0 && <p>It does not have {line.missing.join(', ')}: readings of that are typed.</p>}
          {line.standing === 'joined' && line.sensors.length === 0 && <p>It has no sensors.</p>}
          {line.sensors.length > 0 && (
            <div className="wide" tabIndex={0} role="region" aria-label="What it reads">
              <table className="ruled">
                <thead>
                  <tr>
                    <th>Sensor</th>
                    <th>Every</th>
                    <th>Readings</th>
                    <th>Last</th>
                    <th>At, by its clock</th>
                  </tr>
                </thead>
                <tbody>
                  {line.sensors.map((s) => (
                    <tr key={s.name} className={s.known ? '' : 'risky'}>
                      <th scope="row">{s.name}</th>
                      <td className="mono">{s.periodMs == null ? '–' : `${show(s.periodMs)} ms`}</td>
                      <td className="mono">{s.count}</td>
                      <td className="mono">{s.last ?? '–'}</td>
                      <td className="mono">{s.atMicros == null ? '–' : `${(s.atMicros / 1e6).toFixed(3)} s`}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )}
          <p style={{ margin: '10px 0' }}>
            {line.volts != null && <>The pack gives {show(line.volts)} V. </>}
            {line.programs.map((p) => (
              <span key={p.program}>
                {p.program} {p.state === '' ? 'does not run' : <>is in {p.state}</>}.{' '}
              </span>
            ))}
            {line.lines} {line.lines === 1 ? 'line' : 'lines'} came;{' '}
            {line.strange === 0 ? 'all were understood' : `${line.strange} were not understood`}.
          </p>
          {line.unread.length > 0 && (
            <details>
              <summary>Lines that nobody understood</summary>
              <ul className="fine">
                {line.unread.map((u, i) => (
                  <li key={i}>
                    <span className="mono" style={{ overflowWrap: 'anywhere' }}>
                      {u.line || '(empty)'}
                    </span>
                    : {u.why}
                  </li>
                ))}
              </ul>
            </details>
          )}
          {desk && (
            <>
              {line.standing === 'joined' && <SayLine eye={line.sensors[0]?.name} onSaid={took} />}
              <div className="row" style={{ marginTop: 12 }}>
                <Button onClick={() => leave.mutate()} disabled={leave.isPending}>
                  Let it go
                </Button>
              </div>
            </>
          )}
        </>
      )}
    </section>
  )
}

/** Where to: a port of this machine, or an address that is typed. */
function Join({ line, onJoined }: { line: OutsideLine; onJoined: (next: OutsideLine) => void }) {
  const { rig } = useRig()
  const [to, setTo] = useState(line.to || '127.0.0.1:5190')
  const ports = useQuery({ queryKey: ['ports'], refetchInterval: 3000, queryFn: () => unwrap(client.GET('/api/ports', {})) })
  const join = useMutation({
    mutationFn: (where: string) =>
      unwrap(client.PUT('/api/rigs/{id}/line', { params: { path: { id: rig.id } }, body: { copy: rig.copy, to: where } })),
    onSuccess: onJoined,
  })
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        join.mutate(to)
      }}
    >
      <div className="row" style={{ gap: '8px 14px' }}>
        <label>
          Join &nbsp;
          <input
            className="mono figure"
            style={{ width: 230 }}
            aria-label="A serial port, or an address and its port"
            value={to}
            onChange={(e) => setTo(e.target.value)}
            autoComplete="off"
            spellCheck={false}
          />
        </label>
        <Button type="submit" variant="contained" disabled={join.isPending}>
          Join it
        </Button>
        {(ports.data?.names ?? []).slice(0, 8).map((p) => (
          <Button key={p} onClick={() => setTo(p)}>
            {p}
          </Button>
        ))}
      </div>
      {join.isError && <Faults sentences={sentencesOf(join.error)} />}
      <p className="fine muted">
        {(ports.data?.names ?? []).length === 0 ? 'This machine has no serial port now. ' : 'Ports of this machine are offered. '}A port has
        115200 bits a second, or what is typed behind it. Nothing else is opened or called.
      </p>
    </form>
  )
}

/** A line as a person types it; shown as an example with one of the sensors that are there. */
function SayLine({ eye, onSaid }: { eye?: string; onSaid: (next: OutsideLine) => void }) {
  const { rig } = useRig()
  const [typed, setTyped] = useState('')
  const tell = useMutation({
    mutationFn: () =>
      unwrap(client.POST('/api/rigs/{id}/line/say', { params: { path: { id: rig.id } }, body: { copy: rig.copy, line: typed } })),
    onSuccess: (answer) => {
      onSaid(answer.line)
      setTyped('')
    },
  })
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        if (typed.trim() !== '') tell.mutate()
      }}
    >
      <div className="row" style={{ gap: '8px 14px' }}>
        <label>
          Say &nbsp;
          <input
            className="mono figure"
            style={{ width: 300 }}
            aria-label="A line to say"
            placeholder={eye ? `tell ${eye}` : '?'}
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            autoComplete="off"
            spellCheck={false}
          />
        </label>
        <Button type="submit" disabled={tell.isPending || typed.trim() === ''}>
          Say it
        </Button>
        <span role="status" className="fine">
          {tell.data?.say ?? ''}
        </span>
      </div>
      {tell.isError && <Faults sentences={sentencesOf(tell.error)} />}
    </form>
  )
}
