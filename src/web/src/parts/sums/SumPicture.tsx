import type { ReactNode } from 'react'
import { show } from '../../shared/format'
import type { Figures } from './figures'
import { EdgePicture, StopPicture, SweepPicture } from './sensing'
import { LoadPicture, PathPicture, TurnPicture } from './pictures'

type Props = { input: Record<string, unknown>; result: Figures }

const n = (v: unknown) => (typeof v === 'number' && Number.isFinite(v) ? v : 0)

function Frame({ w, h, label, children }: { w: number; h: number; label: string; children: ReactNode }) {
  return (
    <svg
      className="scaled"
      width={w}
      height={h}
      viewBox={`0 0 ${w} ${h}`}
      role="img"
      aria-label={label}
      style={{ background: 'var(--paper)', border: '1px solid var(--line)', borderRadius: 8 }}
    >
      {children}
    </svg>
  )
}

/** The marker, the spot, every reading with the whole spot on it, and where the vehicle comes to rest. */
function MarkerPicture({ input, result }: Props) {
  const [length, spot, speed, period] = [n(input.markerLengthMm), n(input.spotDiameterMm), n(input.speedMmPerS), n(input.samplePeriodMs)]
  const [low, high] = [n(result.restLowMm), n(result.restHighMm)]
  const rests = typeof result.restLowMm === 'number'
  const least = Math.min(-spot, rests ? low : 0)
  const most = Math.max(length + spot, rests ? high : 0, 1)
  const x = (mm: number) => 20 + ((mm - least) / (most - least)) * 340
  const scale = 340 / (most - least)
  const way = (speed * period) / 1000
  const dots = way > 0 ? Array.from({ length: Math.min(60, Math.floor((length - spot) / way) + 1) }, (_, i) => spot / 2 + i * way) : []
  return (
    <Frame
      w={380}
      h={118}
      label={`The marker is ${show(length)} mm long; ${show(n(result.readingsOnMarker))} readings lie wholly on it${rests ? `; it rests ${show(low)} to ${show(high)} mm past its edge` : ''}`}
    >
      <rect x={x(0)} y={34} width={length * scale} height={26} fill="var(--mussel-wash)" stroke="var(--mussel)" />
      <circle cx={x(spot / 2)} cy={47} r={Math.max(2, (spot * scale) / 2)} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      {dots.map((d, i) => (
        <line key={i} x1={x(d)} x2={x(d)} y1={22} y2={30} stroke="var(--ink)" strokeWidth={1.5} />
      ))}
      <text x={x(0)} y={16} fontSize={12} fill="var(--muted)">
        {dots.length > 0 ? 'one stroke a reading' : 'no speed yet'}
      </text>
      {rests && (
        <>
          <path d={`M${x(low)} 80V72H${Math.max(x(high), x(low) + 2)}V80`} fill="none" stroke="var(--teal)" strokeWidth={2.5} />
          <text x={Math.min(300, Math.max(70, (x(low) + x(high)) / 2))} y={98} fontSize={12} fill="var(--ink)" textAnchor="middle">
            rests {show(low)} to {show(high)} mm past the edge
          </text>
        </>
      )}
    </Frame>
  )
}

/** Sensor, bumper and object before an edge, from the side. */
function PushPicture({ input, result }: Props) {
  const [sensor, bumper, radius, stop] = [n(input.sensorAheadMm), n(input.bumperAheadMm), n(input.objectRadiusMm), n(input.stopDistanceMm)]
  const edge = sensor - stop
  const most = Math.max(sensor, bumper + 2 * radius, edge, 1) * 1.25
  const x = (mm: number) => 30 + (mm / most) * 300
  const go = n(result.extraForwardMinMm)
  const far = n(result.extraForwardMaxMm)
  return (
    <Frame w={360} h={140} label={`After the stop the edge is ${show(edge)} mm ahead of the wheel; go on ${show(go)} to ${show(far)} mm`}>
      <path d={`M10 92H${x(edge)}V128`} fill="none" stroke="var(--ink)" strokeWidth={2} />
      <circle cx={x(0)} cy={80} r={11} fill="none" stroke="var(--ink)" strokeWidth={2.5} />
      <line x1={x(0)} x2={x(bumper)} y1={72} y2={72} stroke="var(--ink)" strokeWidth={4} />
      <circle
        cx={x(bumper + radius)}
        cy={91 - (radius / most) * 300}
        r={Math.max(2, (radius / most) * 300)}
        fill="var(--mussel-wash)"
        stroke="var(--mussel)"
      />
      <path d={`M${x(sensor)} 40V88`} stroke="var(--teal)" strokeWidth={2} strokeDasharray="3 3" />
      <text x={x(sensor)} y={34} fontSize={12} fill="var(--teal)" textAnchor="middle">
        sensor
      </text>
      <path d={`M${x(go)} 120V112H${x(Math.max(go, far))}V120`} fill="none" stroke="var(--weed)" strokeWidth={2.5} />
      <text x={x((go + Math.max(go, far)) / 2)} y={134} fontSize={12} fill="var(--ink)" textAnchor="middle">
        wheel may stand here
      </text>
    </Frame>
  )
}

/** Timed, counted and sensed ends on one scale. */
function EndsPicture({ result }: Props) {
  const rows: [string, number][] = [
    ['by time', n(result.timedSdMm)],
    ['by counting', n(result.countedSdMm)],
    ['by a sensor', n(result.sensedSdMm)],
  ]
  const most = Math.max(...rows.map((r) => r[1]), 0.1) * 2.4
  const x = (mm: number) => 215 + (mm / most) * 130
  return (
    <Frame w={360} h={130} label={rows.map(([w, sd]) => `${w} within ± ${show(2 * sd)} mm`).join(', ')}>
      <line x1={x(0)} x2={x(0)} y1={8} y2={110} stroke="var(--ink)" />
      {rows.map(([word, sd], i) => (
        <g key={word}>
          <text x={78} y={28 + i * 32} fontSize={13} fill="var(--ink)" textAnchor="end">
            {word}
          </text>
          <path
            d={`M${x(-2 * sd)} ${30 + i * 32}V${22 + i * 32}H${x(2 * sd)}V${30 + i * 32}`}
            fill="none"
            stroke={
              word.endsWith(
                String(result.best === null ? '' : { timed: 'time', counted: 'counting', sensed: 'sensor' }[String(result.best)]),
              )
                ? 'var(--weed)'
                : 'var(--mussel)'
            }
            strokeWidth={2.5}
          />
          <text x={x(0)} y={42 + i * 32} fontSize={12} fill="var(--muted)" textAnchor="middle">
            ± {show(2 * sd)} mm
          </text>
        </g>
      ))}
      <text x={x(0)} y={124} fontSize={12} fill="var(--muted)" textAnchor="middle">
        95 of 100 end within
      </text>
    </Frame>
  )
}

/** The weave about the edge of a line, and the tightest bend, to one scale each. */
function WeavePicture({ result }: Props) {
  const weave = Math.max(0, n(result.weaveMm))
  const radius = n(result.tightestRadiusMm)
  const size = Math.min(46, 10 + weave * 4)
  return (
    <Frame w={360} h={130} label={`It weaves ${show(weave)} mm to each side and can follow a bend of ${show(radius)} mm`}>
      <line x1={14} x2={220} y1={65} y2={65} stroke="var(--mussel)" strokeWidth={2} />
      <path
        d={`M14 65${Array.from({ length: 4 }, (_, i) => `q13 ${i % 2 === 0 ? -2 * size : 2 * size} 26 0`).join('')}${Array.from({ length: 4 }, (_, i) => `q13 ${i % 2 === 0 ? -2 * size : 2 * size} 26 0`).join('')}`}
        fill="none"
        stroke="var(--ink)"
        strokeWidth={2}
      />
      <text x={14} y={16} fontSize={12} fill="var(--muted)">
        ± {show(weave)} mm
      </text>
      <path d="M250 110A80 80 0 0 1 330 30" fill="none" stroke="var(--mussel)" strokeWidth={2} />
      <line x1={330} x2={330} y1={110} y2={30} stroke="var(--line)" />
      <line x1={250} x2={330} y1={110} y2={110} stroke="var(--line)" />
      <text x={290} y={124} fontSize={12} fill="var(--muted)" textAnchor="middle">
        bend of {show(radius)} mm
      </text>
    </Frame>
  )
}

/** The wheel and the way it rolls, to scale. */
function WheelPicture({ input, result }: Props) {
  const [d, way] = [n(input.wheelDiameterMm), Math.abs(n(input.distanceMm))]
  const scale = 320 / Math.max(way + d, 1)
  const turns = Math.min(40, Math.floor(n(result.wheelTurns) < 0 ? -n(result.wheelTurns) : n(result.wheelTurns)))
  const round = n(result.circumferenceMm)
  const r = Math.min(52, (d * scale) / 2)
  return (
    <Frame w={360} h={128} label={`A wheel of ${show(d)} mm rolls ${show(way)} mm in ${show(n(result.wheelTurns), 4)} turns`}>
      <line x1={20} x2={20 + way * scale} y1={106} y2={106} stroke="var(--ink)" strokeWidth={2} />
      <circle cx={20 + r} cy={106 - r} r={Math.max(2, r)} fill="none" stroke="var(--ink)" strokeWidth={2} />
      {Array.from({ length: turns }, (_, i) => (
        <line
          key={i}
          x1={20 + (i + 1) * round * scale}
          x2={20 + (i + 1) * round * scale}
          y1={100}
          y2={112}
          stroke="var(--teal)"
          strokeWidth={2}
        />
      ))}
      <text x={20 + way * scale} y={124} fontSize={12} fill="var(--muted)" textAnchor="end">
        a stroke each turn
      </text>
    </Frame>
  )
}

/** Gears meshing, teeth to scale within each stage. */
function GearsPicture({ input }: Props) {
  const stages = Array.isArray(input.stages)
    ? (input.stages as { driverTeeth: number; drivenTeeth: number }[])
        .filter((s) => n(s?.driverTeeth) > 0 && n(s?.drivenTeeth) > 0)
        .slice(0, 4)
    : []
  if (stages.length === 0) return null
  const w = 110
  return (
    <Frame w={20 + w * stages.length} h={130} label={stages.map((s) => `${s.driverTeeth} teeth drive ${s.drivenTeeth}`).join(', then ')}>
      {stages.map((s, i) => {
        const unit = 48 / Math.max(1, s.driverTeeth + s.drivenTeeth)
        const [a, b] = [s.driverTeeth * unit, s.drivenTeeth * unit]
        const x0 = 12 + i * w
        return (
          <g key={i}>
            <circle cx={x0 + a} cy={62} r={Math.max(2, a)} fill="none" stroke="var(--ink)" strokeWidth={2.5} strokeDasharray="3 2" />
            <circle
              cx={x0 + 2 * a + b}
              cy={62}
              r={Math.max(2, b)}
              fill="none"
              stroke="var(--teal)"
              strokeWidth={2.5}
              strokeDasharray="3 2"
            />
            <text x={x0 + 48} y={126} fontSize={12} fill="var(--muted)" textAnchor="middle">
              {s.driverTeeth} on {s.drivenTeeth}
            </text>
          </g>
        )
      })}
    </Frame>
  )
}

/** The clicks about a turn that is wanted. */
function ClicksPicture({ input, result }: Props) {
  const step = n(result.pivotDegPerClick)
  const target = Math.abs(n(input.targetTurnDeg))
  const middle = target > 0 ? target : 5 * step
  const x = (deg: number) => 180 + ((deg - middle) / Math.max(1e-6, 4.2 * step)) * 160
  const first = Math.ceil((middle - 4 * step) / step)
  return (
    <Frame w={360} h={100} label={`A click every ${show(step)} robot degrees${target > 0 ? `; the turn wanted is ${show(target)}` : ''}`}>
      <line x1={14} x2={346} y1={50} y2={50} stroke="var(--ink)" />
      {Array.from({ length: 9 }, (_, i) => (first + i) * step)
        .filter((d) => d >= 0 && x(d) > 12 && x(d) < 350)
        .map((d) => (
          <g key={d}>
            <line x1={x(d)} x2={x(d)} y1={40} y2={60} stroke="var(--ink)" strokeWidth={2} />
            <text x={x(d)} y={78} fontSize={12} fill="var(--muted)" textAnchor="middle">
              {show(d)}°
            </text>
          </g>
        ))}
      {target > 0 && (
        <>
          <path d={`M${x(target)} 34l-5 -10h10z`} fill="var(--teal)" />
          <text x={x(target)} y={18} fontSize={12} fill="var(--teal)" textAnchor="middle">
            wanted {show(target)}°
          </text>
        </>
      )}
      {typeof result.turnLowDeg === 'number' && (
        <path d={`M${x(n(result.turnLowDeg))} 58V50H${x(n(result.turnHighDeg))}V58`} fill="none" stroke="var(--mussel)" strokeWidth={4} />
      )}
    </Frame>
  )
}

/** What comes, and where it must be noticed. */
function ReactionPicture({ input, result }: Props) {
  const must = Math.max(1, n(result.mustNoticeAtMm))
  const speed = n(input.objectSpeedMmPerS)
  const seen = (speed * n(input.samplePeriodMs) * n(input.readingsNeeded)) / 1000
  const late = (speed * n(input.actuatorDelayMs)) / 1000
  const x = (mm: number) => 20 + (1 - mm / (must * 1.1)) * 310
  const parts: [number, number, string][] = [
    [must, must - seen, 'noticed'],
    [must - seen, must - seen - late, 'told'],
    [must - seen - late, 0, 'moves'],
  ]
  return (
    <Frame w={350} h={100} label={`It must be noticed ${show(must)} mm before`}>
      <rect x={x(0)} y={18} width={8} height={46} fill="var(--ink)" />
      <circle cx={x(must)} cy={41} r={7} fill="var(--mussel-wash)" stroke="var(--mussel)" strokeWidth={2} />
      {parts.map(([a, b, word], i) => (
        <g key={word}>
          <line x1={x(a)} x2={x(b)} y1={70} y2={70} stroke={['var(--mussel)', 'var(--kelp)', 'var(--teal)'][i]} strokeWidth={5} />
          {x(b) - x(a) > 30 && (
            <text x={(x(a) + x(b)) / 2} y={88} fontSize={12} fill="var(--muted)" textAnchor="middle">
              {word}
            </text>
          )}
        </g>
      ))}
    </Frame>
  )
}

const pictures: Record<string, (p: Props) => ReactNode> = {
  'edge-guard': EdgePicture,
  sweep: SweepPicture,
  'stop-distance': StopPicture,
  turn: TurnPicture,
  'load-seat': LoadPicture,
  'path-error': PathPicture,
  'marker-pass': MarkerPicture,
  'push-over': PushPicture,
  'move-end': EndsPicture,
  'line-switch': WeavePicture,
  'wheel-travel': WheelPicture,
  'gear-train': GearsPicture,
  'click-encoder': ClicksPicture,
  reaction: ReactionPicture,
}

/** The picture of a sum, to scale, where geometry is what matters. */
export function SumPicture({ sum, input, result }: { sum: string } & Props) {
  const Picture = pictures[sum]
  return Picture ? <Picture input={input} result={result} /> : null
}
