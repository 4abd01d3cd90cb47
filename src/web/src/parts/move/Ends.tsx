import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { client, sentencesOf, unwrap } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { typed, type Mechanism } from './move'

/** What is safe to command, drawn to scale, and what would happen past the end. */
export function Ends({ of }: { of: Mechanism }) {
  const { rig } = useRig()
  const axis = of.axis!
  const [to, setTo] = useState(() => String(Math.round(axis.safeTo > axis.safeFrom ? axis.safeTo : axis.to)))
  const [speed, setSpeed] = useState(String(axis.speedDegPerS))
  const judged = useQuery({
    queryKey: ['axis', rig.id, rig.copy, of.name, to, speed],
    queryFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/move/axis', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, mechanism: of.name, to: typed(to), speedDegPerS: typed(speed) },
        }),
      ),
    placeholderData: (p) => p,
    retry: false,
  })
  const a = judged.data?.axis ?? axis
  const at = typed(to) ?? a.from
  const span = Math.max(1, a.to - a.from)
  const [from, most] = [Math.min(a.from, at) - span * 0.08, Math.max(a.to, at) + span * 0.08]
  const x = (v: number) => 30 + ((v - from) / (most - from)) * 660
  return (
    <>
      <div className="wide" tabIndex={0} role="group" aria-label={`Ends of ${of.name}`}>
        <svg
          width={720}
          height={150}
          role="img"
          aria-label={`Travel from ${show(a.from, 4)} to ${show(a.to, 4)} ${a.unit}; safe from ${show(a.safeFrom, 4)} to ${show(a.safeTo, 4)}${a.overCentre !== null ? `; over centre at ${show(a.overCentre, 4)}` : ''}`}
        >
          <line x1={x(from)} x2={x(most)} y1={70} y2={70} stroke="var(--line)" />
          <line x1={x(a.from)} x2={x(a.to)} y1={70} y2={70} stroke="var(--ink)" strokeWidth={2} />
          <path d={`M${x(a.from)} 54V86M${x(a.to)} 54V86`} stroke="var(--ink)" strokeWidth={4} />
          {a.safeTo > a.safeFrom && (
            <path d={`M${x(a.safeFrom)} 64V56H${x(a.safeTo)}V64`} fill="none" stroke="var(--weed)" strokeWidth={2.5} />
          )}
          {a.safeTo > a.safeFrom && (
            <text x={(x(a.safeFrom) + x(a.safeTo)) / 2} y={48} fontSize={12} fill="var(--weed)" textAnchor="middle">
              safe to command
            </text>
          )}
          {a.overCentre !== null && (
            <g>
              <path d={`M${x(a.overCentre)} 58l-6 12l6 12l6 -12z`} fill="var(--red)" />
              <text x={x(a.overCentre)} y={102} fontSize={12} fill="var(--red)" textAnchor="middle">
                centre {show(a.overCentre, 4)}
              </text>
            </g>
          )}
          {a.home !== 'none' && (
            <g>
              <path d={`M${x(a.home === 'from' ? a.from : a.to) - 7} 92h14v10h-14z`} fill="none" stroke="var(--teal)" strokeWidth={2} />
              <text x={x(a.home === 'from' ? a.from : a.to)} y={118} fontSize={12} fill="var(--teal)" textAnchor="middle">
                home switch
              </text>
            </g>
          )}
          {a.marks.map((m, i) => (
            <g key={m.name}>
              <line x1={x(m.at)} x2={x(m.at)} y1={62} y2={78} stroke="var(--mussel)" strokeWidth={2} />
              <text
                x={x(m.at)}
                y={104 + (i % 2) * 16 + (a.overCentre !== null || a.home !== 'none' ? 14 : 0)}
                fontSize={12}
                fill="var(--mussel)"
                textAnchor={x(m.at) < 60 ? 'start' : x(m.at) > 650 ? 'end' : 'middle'}
              >
                {m.name} {show(m.at, 3)}
              </text>
            </g>
          ))}
          <path d={`M${x(at)} 66l-6 -12h12z`} fill="var(--ink)" />
          <text x={x(at)} y={32} fontSize={12} fill="var(--ink)" textAnchor={x(at) < 60 ? 'start' : x(at) > 650 ? 'end' : 'middle'}>
            sent to {show(at, 4)}
          </text>
        </svg>
      </div>
      <div className="row" style={{ gap: '6px 20px' }}>
        <label>
          Send it to{' '}
          <input
            className="mono figure"
            style={{ width: 80 }}
            inputMode="decimal"
            aria-label={`Send it to, in ${a.unit}`}
            value={to}
            onChange={(e) => setTo(e.target.value)}
          />{' '}
          {a.unit}
        </label>
        <input
          type="range"
          aria-label={`Send it to, slider in ${a.unit}`}
          min={Math.floor(a.from - span * 0.08)}
          max={Math.ceil(a.to + span * 0.08)}
          value={Math.round(at)}
          onChange={(e) => setTo(e.target.value)}
          style={{ width: 260 }}
        />
        {a.giveUpAfterS !== null && (
          <label>
            at{' '}
            <input
              className="mono figure"
              style={{ width: 70 }}
              inputMode="decimal"
              aria-label="Speed in motor degrees a second"
              value={speed}
              onChange={(e) => setSpeed(e.target.value)}
            />{' '}
            motor deg/s
          </label>
        )}
      </div>
      {judged.isError ? (
        <Faults sentences={sentencesOf(judged.error)} />
      ) : (
        judged.data && (
          <p style={{ margin: '8px 0' }} role="status">
            <b className={judged.data.verdict.grade}>{judged.data.verdict.say}</b>
          </p>
        )
      )}
      <ul style={{ margin: '6px 0 12px', paddingLeft: 20, maxWidth: '80ch' }}>
        {a.says.map((s, i) => (
          <li key={i}>{s}</li>
        ))}
      </ul>
      <p className="fine muted">
        Keep fingers, hair and sleeves away from what closes. Follow the maker’s instructions and your school’s policy.
      </p>
    </>
  )
}
