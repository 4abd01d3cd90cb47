import { CopyKind } from '../../shared/CopyKind'
import { Link, useSearchParams } from 'react-router'
import { sentencesOf } from '../../app/api'
import { useRig } from '../../app/rig'
import { FilledSums } from '../sums/FilledSums'
import { Chain } from './Chain'
import { Ends } from './Ends'
import { Line } from './Line'
import { Numbers } from './Numbers'
import { Trial } from './Trial'
import { Stops, Turns } from './Ways'
import { PartFindings } from '../../shared/PartFindings'
import { typed, useMove, type Mechanism } from './move'
import { Moment } from '../../shared/Moment'

/** Motor numbers become real motion: what is known, trials that find it, and what follows. */
export default function MovePage() {
  const { rig } = useRig()
  const [params] = useSearchParams()
  const key = params.get('motion')
  const wanted = params.get('target')
  const query = useMove(key, wanted === null ? null : typed(wanted))
  if (!query.data)
    return query.isError ? (
      <main className="page">
        <h2 className="page-title">Move</h2>
        <p className="fault" role="alert">
          {sentencesOf(query.error).join(' ')}
        </p>
      </main>
    ) : (
      <Moment />
    )
  if (query.data.mechanisms.length === 0)
    return (
      <main className="page">
        <h2 className="page-title">Nothing here moves yet</h2>
        <p className="lead">
          A mechanism is something motors move: wheels, a lift, jaws, a joint. Describe one, and its numbers and trials stand here.
        </p>
        <p>
          <Link to={`/rigs/${rig.id}/rig/describe`}>Describe a mechanism in Rig</Link>
        </p>
      </main>
    )
  return <MoveView mechanisms={query.data.mechanisms} fault={query.isError ? sentencesOf(query.error) : []} />
}

function MoveView({ mechanisms, fault }: { mechanisms: Mechanism[]; fault: string[] }) {
  const [params, setParams] = useSearchParams()
  const of = mechanisms.find((m) => m.name === params.get('mechanism')) ?? mechanisms[0]!
  const views = (
    [
      ['numbers', 'Numbers', true],
      ['trials', 'Trials', of.motions.length > 0],
      ['ends', 'Ends and gripping', of.axis !== null],
      ['ways', 'Turning and stopping', of.kind === 'twoWheelDrive' || of.kind === 'railVehicle'],
      ['end', 'How a move ends', of.sums.some((s) => s.sum === 'move-end' || s.sum === 'click-encoder')],
      ['load', 'Load', of.sums.some((s) => s.sum === 'load-seat')],
      ['chain', 'Chain of moves', of.path !== null],
      ['line', 'Following a line', of.sight !== null],
    ] as const
  ).filter((v) => v[2])
  const view = views.find((v) => v[0] === params.get('view'))?.[0] ?? 'numbers'
  const go = (change: Record<string, string | null>) =>
    setParams((p) => {
      for (const [k, v] of Object.entries(change))
        if (v === null) p.delete(k)
        else p.set(k, v)
      return p
    })
  const tryIt = (key: string) => go({ view: 'trials', motion: key, target: null })
  const open = of.motions.find((m) => m.plan.key === params.get('motion'))?.plan.key ?? of.motions[0]?.plan.key
  const at = (id: string) => {
    const p = new URLSearchParams(params)
    p.set('view', id)
    return p.toString()
  }
  const only = (...names: string[]) => of.sums.filter((s) => names.includes(s.sum))
  return (
    <main className="page">
      <CopyKind />
      <nav className="sensor-names" aria-label="Mechanisms">
        {mechanisms.map((m) => {
          const measured = m.motions.filter((x) => x.accepted).length
          return (
            <button
              key={m.name}
              className={m.name === of.name ? 'on' : ''}
              aria-current={m.name === of.name ? 'page' : undefined}
              onClick={() => go({ mechanism: m.name, motion: null, target: null })}
            >
              {m.name}
              <em>
                {m.words}
                {m.motions.length > 0 ? `, ${measured} of ${m.motions.length} tried` : ''}
              </em>
            </button>
          )
        })}
      </nav>
      <nav className="tools" aria-label="Views of this mechanism">
        {views.map(([id, word]) => (
          <Link key={id} to={`?${at(id)}`} className={`tab${id === view ? '' : ' off'}`} aria-current={id === view ? 'page' : undefined}>
            {word}
          </Link>
        ))}
      </nav>
      <h2 className="hidden-text">
        {of.name}: {views.find((v) => v[0] === view)?.[1]}
      </h2>
      {fault.length > 0 && (
        <p className="fault" role="alert">
          {fault.join(' ')}
        </p>
      )}
      {view === 'numbers' && <Numbers of={of} onTry={tryIt} />}
      {view === 'trials' && (
        <>
          <p className="lead">
            Ask for something, measure what happens, and take the number that explains it. Parallel stitches mean that it can be relied on;
            how they lean is what the number is off by.
          </p>
          {of.motions.map((m) => (
            <Trial
              key={m.plan.key}
              motion={m}
              open={m.plan.key === open}
              onOpen={() => tryIt(m.plan.key)}
              target={m.plan.key === open ? params.get('target') : null}
              onTarget={(t) =>
                setParams(
                  (p) => {
                    p.set('motion', m.plan.key)
                    if (t === null) p.delete('target')
                    else p.set('target', t)
                    return p
                  },
                  { replace: true },
                )
              }
            />
          ))}
        </>
      )}
      {view === 'ends' && <Ends key={of.name} of={of} />}
      {view === 'ways' && (
        <>
          {of.kind === 'twoWheelDrive' && <Turns of={of} />}
          <Stops of={of} />
        </>
      )}
      {view === 'end' && <FilledSums sums={only('move-end', 'click-encoder')} of={of.name} />}
      {view === 'load' && <FilledSums sums={only('load-seat')} of={of.name} />}
      {view === 'chain' && (
        <Chain key={of.name} of={of} onTry={(kind) => tryIt(of.motions.find((m) => m.plan.kind === kind)?.plan.key ?? '')} />
      )}
      {view === 'line' && (
        <>
          <Line key={of.name} of={of} />
          <FilledSums sums={only('line-switch', 'line-gain')} of={of.name} />
        </>
      )}
      <PartFindings part="move" first={of.name} />
    </main>
  )
}
