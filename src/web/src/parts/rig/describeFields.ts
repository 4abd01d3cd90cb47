import type { Schemas } from '../../app/api'
import type { Draft, Field } from './fields'
import type { Design } from './useDesign'
import { spans } from '../../shared/spans'

export type List = 'controllers' | 'sensors' | 'actuators' | 'mechanisms' | 'starts'
type Kinds = Schemas['TemplatesView']

const connections: [string, string][] = [
  ['cable', 'one cable'],
  ['pins', 'pins: signal, supply, ground'],
  ['builtIn', 'part of the controller'],
]
const ends: [string, string][] = [
  ['socket', 'a socket end (its own are pins)'],
  ['plug', 'a plug end (its own are holes)'],
  ['clip', 'a clip (its own are pads)'],
  ['bare', 'a bare wire'],
  ['cable', 'a device cable'],
]
const facings: [string, string][] = [
  ['down', 'down'],
  ['ahead', 'ahead'],
  ['back', 'back'],
  ['left', 'left'],
  ['right', 'right'],
  ['up', 'up'],
]
const is =
  (...kinds: string[]) =>
  (d: Draft) =>
    kinds.includes(d.kind as string)
const not =
  (...kinds: string[]) =>
  (d: Draft) =>
    !kinds.includes(d.kind as string)
const pins = (d: Draft) => d.connection === 'pins'
const joined = (d: Draft) => d.connection !== 'builtIn'

const wiringFields: Field[] = [
  { at: 'connection', label: 'Joined by', kind: 'choice', choices: connections },
  { at: 'takes', label: 'Takes', kind: 'choice', choices: ends, when: pins },
  { at: 'ownLead', label: 'Its lead is part of it', kind: 'yes', when: joined },
  { at: 'supplyMinV', label: 'Works from', kind: 'number', unit: 'V', when: pins },
  { at: 'supplyMaxV', label: 'Stands up to', kind: 'number', unit: 'V', when: pins },
]

const turning = ['regulatedMotor', 'plainMotor', 'servo', 'stepper']

/** What a sensor of its kind is asked for, and no more. */
export function sensorFields(design: Design, kinds: Kinds['sensors']): Field[] {
  const on: [string, string][] = [
    ['', 'nothing'],
    ...design.actuators.filter((a) => turning.includes(a.kind)).map((a): [string, string] => [a.name, a.name]),
    ...(design.mechanisms ?? []).map((m): [string, string] => [m.name, m.name]),
  ]
  const light = is('reflectedLight', 'ambientLight', 'colour', 'colourName')
  const looks = is('reflectedLight', 'ambientLight', 'colour', 'colourName', 'distance', 'lightGate')
  const placed = not('encoder', 'button', 'clickEncoder', 'force', 'probe', 'sound')
  return [
    { at: 'kind', label: 'Measures', kind: 'choice', choices: kinds.map((k) => [k.kind, k.words]) },
    { at: 'zones', label: 'Zones', kind: 'names', hint: 'names for ranges of readings', when: not('encoder') },
    { at: 'samplePeriodMs', label: 'One reading every', kind: 'number', unit: 'ms' },
    {
      at: 'resolution',
      label: 'Smallest difference',
      kind: 'number',
      when: not('touch', 'button', 'clickEncoder', 'lightGate', 'colourName'),
    },
    { at: 'mount.aheadMm', label: 'Ahead', kind: 'quantity', unit: 'mm', span: 40, when: placed },
    { at: 'mount.rightMm', label: 'To the right', kind: 'quantity', unit: 'mm', span: 20, when: placed },
    { at: 'mount.heightMm', label: 'Above the floor', kind: 'quantity', unit: 'mm', span: 20, when: placed },
    { at: 'mount.facing', label: 'Looks', kind: 'choice', choices: facings, when: looks },
    { at: 'mount.tiltDeg', label: 'Tilted down by', kind: 'number', unit: '°', when: is('distance', 'reflectedLight', 'colour') },
    { at: 'spotDiameterMm', label: 'Spot it sees', kind: 'quantity', unit: 'mm', span: 6, when: light },
    {
      at: 'lamp',
      label: 'Its own lamp',
      kind: 'choice',
      choices: [
        ['none', 'has none'],
        ['on', 'shines'],
        ['off', 'stays dark'],
        ['indicator', 'tells people something'],
      ],
      when: light,
    },
    {
      at: 'principle',
      label: 'Measures by',
      kind: 'choice',
      choices: [
        ['ultrasonic', 'echo'],
        ['optical', 'light'],
      ],
      when: is('distance'),
    },
    { at: 'beamHalfAngleDeg', label: 'Half its beam', kind: 'quantity', unit: '°', span: 10, when: is('distance') },
    { at: 'blindMm', label: 'Blind nearer than', kind: 'quantity', unit: 'mm', span: 30, when: is('distance') },
    { at: 'reachMm', label: 'Hears nothing beyond', kind: 'quantity', unit: 'mm', span: 800, when: is('distance') },
    { at: 'silentReading', label: 'Then it answers', kind: 'number', unit: 'mm', hint: 'empty: nothing', when: is('distance') },
    {
      at: 'silenceIs',
      label: 'Hearing nothing counts as',
      kind: 'choice',
      choicesOf: (d) => [['', 'no zone'], ...((d.zones as string[] | undefined) ?? []).map((z): [string, string] => [z, z])],
      when: is('distance'),
    },
    { at: 'delayMs', label: 'Its reading is late by', kind: 'number', unit: 'ms', when: is('distance') },
    { at: 'clicksPerTurn', label: 'Clicks a turn', kind: 'number', when: is('clickEncoder') },
    { at: 'probeSupplyV', label: 'Fed with', kind: 'number', unit: 'V', when: is('probe') },
    { at: 'on', label: 'Belongs to', kind: 'choice', choices: on, when: is('touch', 'encoder', 'clickEncoder', 'force', 'lightGate') },
    { at: 'signalV', label: 'Its signal reaches', kind: 'number', unit: 'V', when: joined },
    ...wiringFields,
    { at: 'note', label: 'Note', kind: 'text' },
  ]
}

export function actuatorFields(kinds: Kinds['actuators']): Field[] {
  return [
    { at: 'kind', label: 'Kind', kind: 'choice', choices: kinds.map((k) => [k.kind, k.words]) },
    { at: 'reversed', label: 'Mounted the other way round', kind: 'yes', when: is(...turning) },
    {
      at: 'noticesStall',
      label: 'When it is held fast',
      kind: 'choice',
      choicesOf: (d) => [
        ['', d.kind === 'regulatedMotor' ? 'it is noticed, as usual for its kind' : 'nobody notices, as usual for its kind'],
        ['true', 'it is noticed'],
        ['false', 'nobody notices'],
      ],
      flag: true,
      when: is('regulatedMotor', 'plainMotor', 'stepper'),
    },
    { at: 'stepsPerTurn', label: 'Steps a turn', kind: 'number', when: is('stepper') },
    { at: 'mostStepsPerS', label: 'Loses steps above', kind: 'number', unit: 'steps/s', when: is('stepper') },
    {
      at: 'phases',
      label: 'Its driver takes',
      kind: 'choice',
      choices: [
        ['', 'a step and a direction'],
        ['true', 'four phases, in their order'],
      ],
      flag: true,
      when: (d) => d.kind === 'stepper' && pins(d),
    },
    ...wiringFields,
    { at: 'needsHighV', label: 'Takes for high', kind: 'number', unit: 'V or more', when: pins },
    { at: 'note', label: 'Note', kind: 'text' },
  ]
}

/** What a mechanism of its kind is asked for, in the unit of the motor that was chosen. */
export function mechanismFields(design: Design, kinds: Kinds['mechanisms']): Field[] {
  const ended = (d: Draft) => d.travel !== null && d.travel !== undefined
  const motorOf = (d: Draft) => design.actuators.find((a) => a.name === ((d.motors ?? []) as string[])[0])
  const servo = (d: Draft) => motorOf(d)?.kind === 'servo'
  const unit = (d: Draft) => (servo(d) ? 'deg' : 'motor deg')
  const span = (d: Draft) => (servo(d) ? spans.travelServoDeg : spans.travelMotorDeg)
  const stays = not('twoWheelDrive', 'railVehicle')
  const motors = design.actuators.filter((a) => turning.includes(a.kind)).map((a): [string, string] => [a.name, a.name])
  const wheeled = (d: Draft) => !servo(d) && is('twoWheelDrive', 'railVehicle', 'lift', 'belt', 'crank')(d)
  const wheel = (d: Draft) => (stays(d) ? 'Drum or pinion' : 'Wheel')
  return [
    { at: 'kind', label: 'Kind', kind: 'choice', choices: kinds.map((k) => [k.kind, k.words]) },
    { at: 'motors', label: 'Motors', kind: 'pair', pair: ['Left motor', 'Right motor'], choices: motors, when: is('twoWheelDrive') },
    {
      at: 'motors',
      label: 'Motors',
      kind: 'picks',
      choices: motors,
      hint: 'two on one part are commanded as one',
      when: not('twoWheelDrive'),
    },
    {
      at: 'lengthMm',
      label: 'Length over all',
      kind: 'quantity',
      unit: 'mm',
      span: spans.lengthMm,
      when: is('railVehicle', 'twoWheelDrive'),
    },
    { at: 'wheelDiameterMm', label: 'Wheel', labelOf: wheel, kind: 'quantity', unit: 'mm', span: spans.wheelMm, when: wheeled },
    { at: 'trackWidthMm', label: 'Track width', kind: 'quantity', unit: 'mm', span: spans.trackMm, when: is('twoWheelDrive') },
    { at: 'motorTurnsPerTurn', label: 'Motor turns for one turn', kind: 'quantity', unit: '', span: spans.turns, when: (d) => !servo(d) },
    { at: 'tipAheadMm', label: 'Its tip is ahead by', kind: 'quantity', unit: 'mm', span: 40, when: is('gripper', 'lift', 'armJoint') },
    { at: 'travel.from', label: 'Travel begins at', kind: 'quantity', unitOf: unit, spanOf: span, when: stays },
    { at: 'travel.to', label: 'Travel ends at', kind: 'quantity', unitOf: unit, spanOf: span, when: stays },
    {
      at: 'travel.home',
      label: 'Home sensor',
      kind: 'choice',
      choices: [
        ['none', 'none'],
        ['from', 'where travel begins'],
        ['to', 'where travel ends'],
      ],
      when: (d) => ended(d) && stays(d) && !servo(d),
    },
    {
      at: 'travel.homeSensor',
      label: 'That sensor',
      kind: 'choice',
      choices: [['', 'none'], ...design.sensors.map((s): [string, string] => [s.name, s.name])],
      when: (d) => ended(d) && ((d.travel as Draft).home ?? 'none') !== 'none',
    },
    {
      at: 'travel.pastEnd',
      label: 'Driven past its end it',
      kind: 'choice',
      choices: [
        ['stalls', 'stalls'],
        ['comesApart', 'comes apart or jams'],
        ['overCentre', 'goes over centre and comes back'],
        ['goesOn', 'goes on'],
      ],
      when: (d) => ended(d) && stays(d),
    },
    {
      at: 'travel.overCentre',
      label: 'Over centre at',
      kind: 'quantity',
      unitOf: unit,
      span: 60,
      when: (d) => (d.travel as Draft | null)?.pastEnd === 'overCentre',
    },
    { at: 'travel.jamRisk', label: 'May jam', kind: 'text', hint: 'where and why', when: (d) => ended(d) && stays(d) },
    { at: 'positions', label: 'Positions', kind: 'names', hint: 'such as open, closed, home', when: stays },
    { at: 'directions', label: 'Directions', kind: 'names', hint: 'motor forward first, then back' },
  ]
}

export const startFields: Field[] = [
  { at: 'what', label: 'What is put down', kind: 'text' },
  { at: 'atMm', label: 'Along', kind: 'quantity', unit: 'mm', span: 40 },
  { at: 'atMm.moveSd', label: 'Spread of repeated placements (SD)', kind: 'number', unit: 'mm' },
  { at: 'rightMm', label: 'To the right', kind: 'quantity', unit: 'mm', span: 30 },
  { at: 'headingDeg', label: 'Points to the right by', kind: 'quantity', unit: '°', span: 12 },
  { at: 'side', label: 'On which side of the line', kind: 'text' },
]

const guess = (value: number, unit: string, span: number, min = 0): Schemas['Quantity'] => ({
  value,
  unit,
  kind: 'guessed',
  source: 'usual, never tested',
  meanSd: 0,
  moveSd: 0,
  span,
  min,
  max: 1e9,
})

/** The first name of its kind that is not taken yet. */
export const fresh = (base: string, taken: string[]) => {
  let n = 1
  while (taken.includes(n === 1 ? base : `${base} ${n}`)) n++
  return n === 1 ? base : `${base} ${n}`
}

// How devices are joined follows from the controllers there are: sockets take one cable, a pin board three leads.
const joint = (design: Design): Draft => {
  const boards = design.controllers.filter((c) => (c.role ?? 'controller') === 'controller')
  const ports = boards.flatMap((c) => c.ports)
  const bare = ports.length > 0 && !ports.some((p) => p.can?.includes('motorOut') || p.can?.includes('smartIn'))
  const high = ports.map((p) => p.outputHighV ?? 0).filter((v) => v > 0 && v <= 5)
  return bare
    ? { connection: 'pins', takes: 'socket', ownLead: true, supplyMinV: 3, supplyMaxV: 5.5, signalV: Math.max(3.3, ...high) }
    : { connection: 'cable', takes: 'socket', ownLead: true }
}

export function newSensor(design: Design, kind: Kinds['sensors'][number]): Draft {
  return {
    name: fresh(
      'Sensor',
      design.sensors.map((s) => s.name),
    ),
    kind: kind.kind,
    samplePeriodMs: kind.samplePeriodMs,
    resolution: kind.resolution,
    zones: kind.zones,
    mount: { facing: kind.kind === 'distance' ? 'ahead' : 'down', tiltDeg: 0 },
    signalV: 5,
    ...joint(design),
    ...(kind.kind === 'button' ? { connection: 'builtIn' } : {}),
    lamp: kind.kind === 'reflectedLight' || kind.kind === 'colour' ? 'on' : 'none',
    delayMs: 0,
  }
}

const called: Record<string, string> = { lamp: 'Lamp', sounder: 'Horn', display: 'Display', servo: 'Servo' }

export function newActuator(design: Design, kind: string): Draft {
  const how = joint(design)
  delete how.signalV
  return {
    name: fresh(
      called[kind] ?? 'Motor',
      design.actuators.map((a) => a.name),
    ),
    kind,
    reversed: false,
    ...how,
    ...(how.connection === 'pins' && kind === 'servo' ? { supplyMinV: 4.8, supplyMaxV: 6.2 } : {}),
  }
}

const ways: Record<string, [string[], string[]]> = {
  lift: [
    ['up', 'down'],
    ['bottom', 'top'],
  ],
  gripper: [
    ['close', 'open'],
    ['open', 'closed'],
  ],
  armJoint: [
    ['out', 'in'],
    ['rest', 'out'],
  ],
  lid: [
    ['open', 'shut'],
    ['shut', 'open'],
  ],
}

/** A mechanism of a kind, with the motors that move nothing yet, and what is usual for it. */
export function newMechanism(design: Design, kind: Kinds['mechanisms'][number]): Draft {
  const taken = (design.mechanisms ?? []).flatMap((m) => m.motors)
  const idle = design.actuators.filter((a) => turning.includes(a.kind) && !taken.includes(a.name))
  const drive = kind.kind === 'twoWheelDrive'
  const left = idle.find((a) => /left|port/i.test(a.name))
  const right = idle.find((a) => /right|starboard/i.test(a.name))
  const pair = left && right ? [left, right] : idle.slice(0, 2)
  const motors = drive ? pair.map((a) => a.name) : idle.slice(0, 1).map((a) => a.name)
  const servo = idle[0]?.kind === 'servo' && !drive
  const [directions, positions] = ways[kind.kind] ?? [[], []]
  return {
    name: fresh(
      drive ? 'Drive' : kind.kind === 'railVehicle' ? 'Vehicle' : kind.words.split(/[ ,]/)[0]!.replace(/^./, (c) => c.toUpperCase()),
      (design.mechanisms ?? []).map((m) => m.name),
    ),
    kind: kind.kind,
    motors,
    positions,
    directions,
    ...(drive ? { wheelDiameterMm: guess(56, 'mm', spans.wheelMm, 1), trackWidthMm: guess(120, 'mm', spans.trackMm, 1) } : {}),
    ...(kind.kind === 'railVehicle' ? { lengthMm: guess(120, 'mm', spans.lengthMm, 1) } : {}),
    ...(servo
      ? {
          travel: {
            from: { ...guess(0, 'deg', 0), kind: 'chosen', source: 'as far as a servo goes' },
            to: { ...guess(180, 'deg', 0), kind: 'chosen', source: 'as far as a servo goes' },
            home: 'none',
            pastEnd: 'stalls',
          },
        }
      : {}),
  }
}

export const newStart = (design: Design): Draft => ({
  what: (design.starts ?? []).length === 0 ? design.name : 'load',
  atMm: { ...guess(0, 'mm', 40, -100000), source: 'typed in, never tested', moveSd: 5 },
})

export const newController = (design: Design, template: Kinds['controllers'][number] | undefined): Draft => ({
  ...((template?.controller as unknown as Draft) ?? { role: 'controller', ports: [] }),
  name: fresh(
    template?.template === 'strip' ? 'Rails' : template?.template === 'pack' ? 'Pack' : 'Box',
    design.controllers.map((c) => c.name),
  ),
})

// Directions and motors are typed as names; the two first directions are forward and back.
export const loosen = (list: List, item: Draft): Draft =>
  list === 'mechanisms'
    ? {
        ...item,
        directions: [...((item.directions ?? []) as { name: string; forward: boolean }[])]
          .sort((a, b) => Number(b.forward) - Number(a.forward))
          .map((d) => d.name),
      }
    : item

export const tidy = (list: List, item: Draft): Draft => {
  if (list === 'mechanisms') {
    const travel = item.travel as Draft | null | undefined
    const goes = item.kind === 'twoWheelDrive' || item.kind === 'railVehicle'
    return {
      ...item,
      name: String(item.name ?? '').trim(),
      motors: Array.isArray(item.motors) ? item.motors : [],
      directions: ((item.directions ?? []) as string[]).map((name, i) => ({ name, forward: i === 0 })),
      travel: !goes && (travel?.from || travel?.to) ? { home: 'none', pastEnd: 'stalls', ...travel } : null,
    }
  }
  return typeof item.name === 'string' ? { ...item, name: item.name.trim() } : item
}
