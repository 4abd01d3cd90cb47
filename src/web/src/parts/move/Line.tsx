import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { client, sentencesOf, unwrap } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { useWidth } from '../../shared/useWidth'
import { typed, type Mechanism } from './move'

const words: Record<string, string> = { twoLevel: 'Two levels', threeBand: 'Three bands', proportional: 'Proportional' }

/** The same line followed three ways, each as far off the edge as it goes. */
export function Line({ of }: { of: Mechanism }) {
  const { rig } = useRig()
  const { ref, width } = useWidth<HTMLDivElement>(900, 520)
  const [speed, setSpeed] = useState('150')
  const [turn, setTurn] = useState('40')
  const [bend, setBend] = useState('300')
  const [kp, setKp] = useState('')
  const follow = useQuery({
    queryKey: ['follow', rig.id, rig.copy, of.name, speed, turn, bend, kp],
    queryFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/move/follow', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            mechanism: of.name,
            speedMmPerS: typed(speed),
            turnMmPerS: typed(turn),
            bendMm: typed(bend),
            kp: typed(kp),
            lineWidthMm: null,
            delayMs: null,
            readingsNeeded: null,
            maxWheelMmPerS: null,
          },
        }),
      ),
    placeholderData: (p) => p,
    retry: false,
  })
  const a = follow.isError ? undefined : follow.data
  const most = a ? Math.max(6, ...a.traces.map((t) => Math.min(30, t.mostMm))) : 10
  const end = 1400
  const x = (s: number) => 104 + (s / end) * (width - 124)
  const field = (label: string, unit: string, value: string, put: (v: string) => void, hint = '') => (
    <label>
      {label}{' '}
      <input
        className="mono figure"
        style={{ width: 70 }}
        inputMode="decimal"
        placeholder={hint}
        aria-label={`${label}, in ${unit}`}
        value={value}
        onChange={(e) => put(e.target.value)}
      />{' '}
      {unit}
    </label>
  )
  return (
    <section aria-label="Following a line three ways">
      <p className="fine muted">
        {of.sight!.eye} sees {show(of.sight!.dark)} % over the line and {show(of.sight!.bright)} % beside it
        {of.sight!.measured ? ', read on this copy' : ', usual values: record them in Sense'}; {show(of.sight!.contrastPercentPerMm ?? 0)} %
        a mm across the edge, {show(of.sight!.aheadMm)} mm ahead of the axle.
      </p>
      <div className="row" style={{ gap: '6px 20px', margin: '6px 0' }}>
        {field('At', 'mm/s', speed, setSpeed)}
        <input
          type="range"
          aria-label="Speed, slider in mm/s"
          min={20}
          max={500}
          step={10}
          value={typed(speed) ?? 150}
          onChange={(e) => setSpeed(e.target.value)}
          style={{ width: 160 }}
        />
        {field('switching by', 'mm/s', turn, setTurn)}
        {field('kp', '% a %', kp, setKp, a ? show(a.gain.result.kp, 2) : '')}
        {field('bends of', 'mm', bend, setBend)}
      </div>
      {follow.isError && <Faults sentences={sentencesOf(follow.error)} />}
      <div ref={ref} className="wide" tabIndex={0} role="group" aria-label="Three drives along the line">
        {a && (
          <svg
            width={width}
            height={300}
            role="img"
            aria-label={a.traces
              .map(
                (t) => `${words[t.kind]}: ${t.lostAtMm === null ? `off by ${show(t.rmsMm, 2)} mm` : `lost after ${show(t.lostAtMm)} mm`}`,
              )
              .join('; ')}
          >
            <g fontSize={12} fill="var(--muted)" textAnchor="middle">
              {['straight', 'bend to the right', 'bend to the left', 'straight'].map((w, i) => (
                <text key={i} x={x(175 + 350 * i)} y={14}>
                  {w}
                </text>
              ))}
            </g>
            {[350, 700, 1050].map((s) => (
              <line key={s} x1={x(s)} x2={x(s)} y1={20} y2={276} stroke="var(--line)" />
            ))}
            {a.traces.map((t, i) => {
              const middle = 64 + i * 86
              const y = (mm: number) => middle + (Math.max(-most, Math.min(most, mm)) / most) * 34
              return (
                <g key={t.kind}>
                  <text x={94} y={middle - 4} fontSize={13} fill="var(--ink)" textAnchor="end" fontWeight={600}>
                    {words[t.kind]}
                  </text>
                  <text x={94} y={middle + 12} fontSize={12} fill="var(--muted)" textAnchor="end">
                    strays {show(t.rmsMm, 2)} mm
                  </text>
                  <line x1={x(0)} x2={x(end)} y1={middle} y2={middle} stroke="var(--mussel)" strokeDasharray="2 4" />
                  <path
                    d={t.alongMm.map((s, k) => `${k === 0 ? 'M' : 'L'}${x(s).toFixed(1)} ${y(t.offMm[k] ?? 0).toFixed(1)}`).join('')}
                    fill="none"
                    stroke="var(--ink)"
                    strokeWidth={1.5}
                  />
                  {t.lostAtMm !== null && (
                    <g>
                      <path d={`M${x(t.lostAtMm) - 5} ${middle - 5}l10 10m0 -10l-10 10`} stroke="var(--red)" strokeWidth={2.5} />
                      <text x={x(t.lostAtMm) + 10} y={middle + 4} fontSize={12} fill="var(--red)">
                        loses the line
                      </text>
                    </g>
                  )}
                </g>
              )
            })}
            <text x={x(end)} y={294} fontSize={12} fill="var(--muted)" textAnchor="end">
              way along the line, 1400 mm; up is left of the edge, full height ± {show(most, 2)} mm
            </text>
          </svg>
        )}
      </div>
      {a && (
        <p role="status">
          {a.say} {a.gain.verdict?.say}
        </p>
      )}
      {a && (
        <p className="fine muted">
          The default is proportional where the reading changes gradually; switching is simpler to read and needs no gain.
        </p>
      )}
    </section>
  )
}
