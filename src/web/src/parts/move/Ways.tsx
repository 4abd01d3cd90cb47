import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { client, sentencesOf, unwrap } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import type { Figures } from '../sums/figures'
import { TurnPicture } from '../sums/pictures'
import { typed, type Mechanism } from './move'

/** Spin, pivot and arc, each with its figures and drawn to one scale of its own. */
export function Turns({ of }: { of: Mechanism }) {
  const { rig } = useRig()
  const [turn, setTurn] = useState('90')
  const [radius, setRadius] = useState('200')
  const [speed, setSpeed] = useState('300')
  const ways = useQuery({
    queryKey: ['turns', rig.id, rig.copy, of.name, turn, radius, speed],
    queryFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/move/turns', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, mechanism: of.name, turnDeg: typed(turn), radiusMm: typed(radius), motorSpeedDegPerS: typed(speed) },
        }),
      ),
    placeholderData: (p) => p,
    retry: false,
  })
  const field = (label: string, unit: string, value: string, put: (v: string) => void) => (
    <label>
      {label}{' '}
      <input
        className="mono figure"
        style={{ width: 70 }}
        inputMode="decimal"
        aria-label={`${label}, in ${unit}`}
        value={value}
        onChange={(e) => put(e.target.value)}
      />{' '}
      {unit}
    </label>
  )
  return (
    <section aria-label="Ways to turn">
      <h3 className="small-head">Ways to turn</h3>
      <div className="row" style={{ gap: '6px 20px', marginBottom: 8 }}>
        {field('Turn the robot', 'robot deg', turn, setTurn)}
        <input
          type="range"
          aria-label="Turn the robot, slider in robot degrees"
          min={-360}
          max={360}
          step={5}
          value={typed(turn) ?? 0}
          onChange={(e) => setTurn(e.target.value)}
          style={{ width: 220 }}
        />
        {field('on an arc of', 'mm', radius, setRadius)}
        {field('motors at', 'motor deg/s', speed, setSpeed)}
        <span className="fine muted">right is positive</span>
      </div>
      {ways.isError && <Faults sentences={sentencesOf(ways.error)} />}
      {ways.data && !ways.isError && (
        <div className="cols" data-testid="turns">
          {ways.data.map((w) => (
            <section key={w.style} aria-label={w.style}>
              <h3 style={{ fontSize: 15 }}>{{ spin: 'Spin on the spot', pivot: 'Pivot on one wheel', arc: 'Arc' }[w.style]}</h3>
              <TurnPicture input={w.input as unknown as Record<string, unknown>} result={w.answer.result as unknown as Figures} />
              <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
                <tbody>
                  <tr>
                    <td>Left wheel</td>
                    <td className="mono">{show(w.answer.result.leftWheelDeg, 4)} wheel deg</td>
                  </tr>
                  <tr>
                    <td>Right wheel</td>
                    <td className="mono">{show(w.answer.result.rightWheelDeg, 4)} wheel deg</td>
                  </tr>
                  {w.input.motorTurnsPerWheelTurn !== 1 && (
                    <tr>
                      <td>Motors</td>
                      <td className="mono">
                        {show(w.answer.result.leftMotorDeg, 4)}, {show(w.answer.result.rightMotorDeg, 4)} motor deg
                      </td>
                    </tr>
                  )}
                  <tr>
                    <td>It takes</td>
                    <td className="mono">{w.answer.result.durationS === null ? '–' : `${show(w.answer.result.durationS)} s`}</td>
                  </tr>
                </tbody>
              </table>
              <p className="fine">{w.say}</p>
              {w.answer.cautions
                .filter((c) => !c.startsWith('These are degrees'))
                .map((c, i) => (
                  <p key={i} className="fine risky">
                    {c}
                  </p>
                ))}
            </section>
          ))}
        </div>
      )}
    </section>
  )
}

/** Brake, hold and coast, drawn to one scale. */
export function Stops({ of }: { of: Mechanism }) {
  const { rig } = useRig()
  const [speed, setSpeed] = useState('150')
  const ways = useQuery({
    queryKey: ['stops', rig.id, rig.copy, of.name, speed],
    queryFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/move/stops', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, mechanism: of.name, speedMmPerS: typed(speed) },
        }),
      ),
    placeholderData: (p) => p,
    retry: false,
  })
  const most = Math.max(1, ...(ways.data ?? []).map((w) => (w.wayMm ?? 0) + 2 * w.sdMm)) * 1.08
  const x = (mm: number) => 10 + (mm / most) * 300
  return (
    <section aria-label="Ways to stop" style={{ marginTop: 14 }}>
      <h3 className="small-head">Brake, hold or coast</h3>
      <div className="row" style={{ gap: '6px 20px' }}>
        <label>
          From{' '}
          <input
            className="mono figure"
            style={{ width: 70 }}
            inputMode="decimal"
            aria-label="Speed, in mm/s"
            value={speed}
            onChange={(e) => setSpeed(e.target.value)}
          />{' '}
          mm/s
        </label>
        <input
          type="range"
          aria-label="Speed, slider in mm/s"
          min={20}
          max={600}
          step={10}
          value={typed(speed) ?? 150}
          onChange={(e) => setSpeed(e.target.value)}
          style={{ width: 220 }}
        />
      </div>
      {ways.isError && <Faults sentences={sentencesOf(ways.error)} />}
      {ways.data && !ways.isError && (
        <table className="ruled" data-testid="stops" style={{ maxWidth: 980 }}>
          <tbody>
            {ways.data.map((w) => (
              <tr key={w.style}>
                <td style={{ fontWeight: 600 }}>{{ brake: 'Brake', hold: 'Hold', coast: 'Coast' }[w.style]}</td>
                <td style={{ width: 330 }}>
                  <svg
                    className="scaled"
                    width={330}
                    height={30}
                    viewBox="0 0 330 30"
                    role="img"
                    aria-label={w.wayMm === null ? 'not known' : `${show(w.wayMm)} mm, within ± ${show(2 * w.sdMm, 2)} mm`}
                  >
                    {w.wayMm !== null && (
                      <>
                        <line x1={x(0)} x2={x(w.wayMm)} y1={18} y2={18} stroke="var(--ink)" strokeWidth={4} />
                        <path
                          d={`M${x(Math.max(0, w.wayMm - 2 * w.sdMm))} 14V8H${x(w.wayMm + 2 * w.sdMm)}V14`}
                          fill="none"
                          stroke="var(--mussel)"
                          strokeWidth={2}
                        />
                      </>
                    )}
                  </svg>
                </td>
                <td className="mono" style={{ whiteSpace: 'nowrap' }}>
                  {w.wayMm === null ? (
                    'not known'
                  ) : (
                    <>
                      <span className={`num ${w.kind}`}>{show(w.wayMm)} mm</span>{' '}
                      <span className="fine muted">± {show(2 * w.sdMm, 2)}</span>
                    </>
                  )}
                </td>
                <td className="fine">{w.say}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  )
}
