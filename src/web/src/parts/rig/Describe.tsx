import { useState, type ReactNode } from 'react'
import Button from '@mui/material/Button'
import { sentencesOf, type Schemas } from '../../app/api'
import { useRig } from '../../app/rig'
import { BodyPlan } from './BodyPlan'
import { Fields, Marked, type Draft, type Field } from './fields'
import { Ports } from './Ports'
import { Positions } from './Positions'
import { useDesign, useTemplates, type Design } from './useDesign'
import { within } from '../../shared/format'
import { Faults } from '../../shared/Faults'

type List = 'controllers' | 'sensors' | 'actuators' | 'mechanisms' | 'starts'
type Open = { list: List; index: number; draft: Draft } | null

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
const pins = (d: Draft) => d.connection === 'pins'

const wiringFields: Field[] = [
  { at: 'connection', label: 'Joined by', kind: 'choice', choices: connections },
  { at: 'takes', label: 'Takes', kind: 'choice', choices: ends, when: pins },
  { at: 'ownLead', label: 'Its lead is part of it', kind: 'yes' },
  { at: 'supplyMinV', label: 'Works from', kind: 'number', unit: 'V', when: pins },
  { at: 'supplyMaxV', label: 'Stands up to', kind: 'number', unit: 'V', when: pins },
]

function sensorFields(design: Design, kinds: Schemas['SensorKindItem'][]): Field[] {
  const on: [string, string][] = [
    ['', 'nothing'],
    ...design.actuators.map((a): [string, string] => [a.name, a.name]),
    ...(design.mechanisms ?? []).map((m): [string, string] => [m.name, m.name]),
  ]
  const light = is('reflectedLight', 'ambientLight', 'colour', 'colourName')
  return [
    { at: 'kind', label: 'Measures', kind: 'choice', choices: kinds.map((k) => [k.kind, k.words]) },
    { at: 'zones', label: 'Zones', kind: 'names', hint: 'names for ranges of readings' },
    { at: 'samplePeriodMs', label: 'One reading every', kind: 'number', unit: 'ms' },
    { at: 'resolution', label: 'Smallest difference', kind: 'number' },
    { at: 'mount.aheadMm', label: 'Ahead', kind: 'quantity', unit: 'mm' },
    { at: 'mount.rightMm', label: 'To the right', kind: 'quantity', unit: 'mm' },
    { at: 'mount.heightMm', label: 'Above the floor', kind: 'quantity', unit: 'mm' },
    { at: 'mount.facing', label: 'Looks', kind: 'choice', choices: facings },
    { at: 'mount.tiltDeg', label: 'Tilted down by', kind: 'number', unit: '°' },
    { at: 'spotDiameterMm', label: 'Spot it sees', kind: 'quantity', unit: 'mm', when: light },
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
    { at: 'beamHalfAngleDeg', label: 'Half its beam', kind: 'quantity', unit: '°', when: is('distance') },
    { at: 'blindMm', label: 'Blind nearer than', kind: 'quantity', unit: 'mm', when: is('distance') },
    { at: 'reachMm', label: 'Hears nothing beyond', kind: 'quantity', unit: 'mm', when: is('distance') },
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
    { at: 'on', label: 'Belongs to', kind: 'choice', choices: on },
    { at: 'signalV', label: 'Its signal reaches', kind: 'number', unit: 'V' },
    ...wiringFields,
    { at: 'note', label: 'Note', kind: 'text' },
  ]
}

function actuatorFields(kinds: Schemas['KindItem'][]): Field[] {
  return [
    { at: 'kind', label: 'Kind', kind: 'choice', choices: kinds.map((k) => [k.kind, k.words]) },
    { at: 'reversed', label: 'Mounted the other way round', kind: 'yes', when: is('regulatedMotor', 'plainMotor', 'servo', 'stepper') },
    { at: 'stepsPerTurn', label: 'Steps a turn', kind: 'number', when: is('stepper') },
    { at: 'mostStepsPerS', label: 'Loses steps above', kind: 'number', unit: 'steps/s', when: is('stepper') },
    ...wiringFields,
    { at: 'needsHighV', label: 'Takes for high', kind: 'number', unit: 'V or more', when: pins },
    { at: 'note', label: 'Note', kind: 'text' },
  ]
}

function mechanismFields(design: Design, kinds: Schemas['KindItem'][]): Field[] {
  const ended = (d: Draft) => d.travel !== null && d.travel !== undefined
  const motor = design.actuators.find((a) => a.name === ((design.mechanisms ?? [])[0]?.motors ?? [])[0])
  const unit = motor?.kind === 'servo' ? 'deg' : 'motor deg'
  return [
    { at: 'kind', label: 'Kind', kind: 'choice', choices: kinds.map((k) => [k.kind, k.words]) },
    {
      at: 'motors',
      label: 'Motors',
      kind: 'picks',
      choices: design.actuators
        .filter((a) => ['regulatedMotor', 'plainMotor', 'servo', 'stepper'].includes(a.kind))
        .map((a): [string, string] => [a.name, a.name]),
      hint: 'of a drive the left one first',
    },
    { at: 'lengthMm', label: 'Length over all', kind: 'quantity', unit: 'mm', when: is('railVehicle', 'twoWheelDrive') },
    { at: 'wheelDiameterMm', label: 'Wheel, drum or pinion', kind: 'quantity', unit: 'mm' },
    { at: 'trackWidthMm', label: 'Track width', kind: 'quantity', unit: 'mm', when: is('twoWheelDrive') },
    { at: 'motorTurnsPerTurn', label: 'Motor turns for one turn', kind: 'quantity', unit: '' },
    { at: 'tipAheadMm', label: 'Its tip is ahead by', kind: 'quantity', unit: 'mm' },
    { at: 'travel.from', label: 'Travel begins at', kind: 'quantity', unit },
    { at: 'travel.to', label: 'Travel ends at', kind: 'quantity', unit },
    {
      at: 'travel.home',
      label: 'Home sensor',
      kind: 'choice',
      choices: [
        ['none', 'none'],
        ['from', 'where travel begins'],
        ['to', 'where travel ends'],
      ],
      when: ended,
    },
    {
      at: 'travel.homeSensor',
      label: 'That sensor',
      kind: 'choice',
      choices: [['', 'none'], ...design.sensors.map((s): [string, string] => [s.name, s.name])],
      when: ended,
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
      when: ended,
    },
    {
      at: 'travel.overCentre',
      label: 'Over centre at',
      kind: 'quantity',
      unit,
      when: (d) => (d.travel as Draft | null)?.pastEnd === 'overCentre',
    },
    { at: 'travel.jamRisk', label: 'May jam', kind: 'text', hint: 'where and why', when: ended },
    { at: 'positions', label: 'Positions', kind: 'names', hint: 'such as open, closed, home' },
    { at: 'directions', label: 'Directions', kind: 'names', hint: 'motor forward first, then back' },
  ]
}

const startFields: Field[] = [
  { at: 'what', label: 'What is put down', kind: 'text' },
  { at: 'atMm', label: 'Along', kind: 'quantity', unit: 'mm' },
  { at: 'atMm.moveSd', label: 'Spread of repeated placements (SD)', kind: 'number', unit: 'mm' },
  { at: 'rightMm', label: 'To the right', kind: 'quantity', unit: 'mm' },
  { at: 'headingDeg', label: 'Points to the right by', kind: 'quantity', unit: '°' },
  { at: 'side', label: 'On which side of the line', kind: 'text' },
]

/** The rig, described: every part a line that opens into its fields. */
export function Describe({ findings }: { findings: { device: string; say: string }[] }) {
  const { rig } = useRig()
  const { query, save, rename, busy } = useDesign()
  const templates = useTemplates()
  const [open, setOpen] = useState<Open>(null)
  if (query.isError)
    return (
      <p className="fault" role="alert">
        {sentencesOf(query.error).join(' ')}
      </p>
    )
  if (!query.data || !templates.data) return <p className="muted">One moment…</p>
  const { design } = query.data
  const kinds = templates.data
  const words = (list: { kind: string; words: string }[], kind: string) => list.find((k) => k.kind === kind)?.words ?? kind
  const close = () => {
    setOpen(null)
    save.reset()
    rename.reset()
  }
  const keep = async () => {
    if (!open) return
    const { list, index } = open
    const items = [...((design[list] ?? []) as unknown as Draft[])]
    const draft = tidy(list, open.draft)
    const before = items[index]
    const renamed = before && list !== 'starts' && list !== 'controllers' && before.name !== draft.name
    items[index] = renamed ? { ...draft, name: before.name } : draft
    const done = await save.mutateAsync({ ...design, [list]: items } as Design)
    // A new name goes into the wiring, the readings and the program too.
    if (renamed)
      await rename.mutateAsync({
        what: list === 'mechanisms' ? 'mechanism' : 'device',
        of: null,
        from: String(before.name),
        to: String(draft.name),
        baseRevision: done.revision,
      })
    close()
  }
  const remove = async (list: List, index: number) => {
    const items = [...((design[list] ?? []) as unknown as Draft[])]
    const gone = items.splice(index, 1)[0]
    const next = { ...design, [list]: items } as Design
    // What hung on it goes too, so that nothing points at a thing that is not there.
    if (list === 'sensors' || list === 'actuators') {
      next.wires = (design.wires ?? []).filter((w) => w.device !== gone?.name)
      if (design.power) next.power = { ...design.power, devices: design.power.devices.filter((d) => d.name !== gone?.name) }
      next.mechanisms = (next.mechanisms ?? [])
        .map((m) => ({
          ...m,
          motors: m.motors.filter((x) => x !== gone?.name),
          travel:
            m.travel?.homeSensor === gone?.name && m.travel ? { ...m.travel, home: 'none' as const, homeSensor: null } : (m.travel ?? null),
        }))
        .filter((m) => m.motors.length > 0)
      next.sensors = next.sensors.map((s) => (s.on === gone?.name ? { ...s, on: null } : s))
    }
    if (list === 'mechanisms') next.sensors = next.sensors.map((s) => (s.on === gone?.name ? { ...s, on: null } : s))
    if (list === 'controllers') {
      next.wires = (design.wires ?? []).filter((w) => w.controller !== gone?.name)
      next.links = (design.links ?? []).filter((l) => l.fromController !== gone?.name && l.toController !== gone?.name)
    }
    // Its fields go at once, or they would turn into those of a new thing while the list grows shorter; they come back with the reason if it cannot go.
    const was = open
    setOpen(null)
    try {
      await save.mutateAsync(next)
    } catch (e) {
      setOpen(was)
      throw e
    }
  }
  const begin = (list: List, draft: Draft) => {
    close()
    setOpen({ list, index: (design[list] ?? []).length, draft })
  }
  const fieldsOf = (list: List): Field[] =>
    list === 'sensors'
      ? sensorFields(design, kinds.sensors)
      : list === 'actuators'
        ? actuatorFields(kinds.actuators)
        : list === 'mechanisms'
          ? mechanismFields(design, kinds.mechanisms)
          : startFields
  const editor = (list: List, index: number) =>
    open?.list === list &&
    open.index === index && (
      <form
        className="item-editor"
        aria-label={`Fields of ${String(open.draft.name ?? open.draft.what ?? 'it')}`}
        onSubmit={(e) => {
          e.preventDefault()
          ;(document.activeElement as HTMLElement | null)?.blur()
          setTimeout(() => (document.getElementById('keep-item') as HTMLButtonElement | null)?.click())
        }}
        onKeyDown={(e) => {
          if (e.key === 'Escape') close()
        }}
      >
        {list !== 'starts' && (
          <div className="field-row">
            <span className="fine">Name</span>
            <input
              className="figure"
              aria-label="Name"
              autoFocus
              value={String(open.draft.name ?? '')}
              onChange={(e) => setOpen({ ...open, draft: { ...open.draft, name: e.target.value } })}
              style={{ width: 240 }}
            />
          </div>
        )}
        {list === 'controllers' ? (
          <Ports draft={open.draft} onDraft={(draft) => setOpen({ ...open, draft })} />
        ) : (
          <Fields fields={fieldsOf(list)} draft={open.draft} onDraft={(draft) => setOpen({ ...open, draft })} />
        )}
        {(save.isError || rename.isError) && <Faults sentences={sentencesOf(save.error ?? rename.error)} />}
        <div className="row">
          <Button id="keep-item" type="button" variant="contained" disabled={busy} onClick={() => void keep().catch(() => undefined)}>
            Keep
          </Button>
          <Button type="button" onClick={close}>
            Leave
          </Button>
          {index < (design[list] ?? []).length && (
            <Button
              type="button"
              variant="text"
              className="push"
              disabled={busy}
              onClick={() => void remove(list, index).catch(() => undefined)}
            >
              Take it out
            </Button>
          )}
        </div>
      </form>
    )
  const item = (list: List, index: number, name: string, about: ReactNode) => (
    <li key={index}>
      <button
        className="item"
        aria-expanded={open?.list === list && open.index === index}
        onClick={() => {
          if (open?.list === list && open.index === index) close()
          else {
            close()
            setOpen({ list, index, draft: loosen(list, (design[list] as unknown as Draft[])[index]!) })
          }
        }}
      >
        <b>{name}</b>
        <span>
          {about}
          {findings
            .filter((f) => f.device === name)
            .map((f, i) => (
              <span key={i} className="risky" style={{ display: 'block' }}>
                ! {f.say}
              </span>
            ))}
        </span>
      </button>
      {editor(list, index)}
    </li>
  )
  const section = (list: List, title: string, empty: string, children: ReactNode, adders: ReactNode) => (
    <section aria-label={title} style={{ marginBottom: 20 }}>
      <h2 className="small-head">{title}</h2>
      {(design[list] ?? []).length === 0 && <p className="fine muted">{empty}</p>}
      <ul className="items">
        {children}
        {open?.list === list && open.index === (design[list] ?? []).length && <li>{editor(list, open.index)}</li>}
      </ul>
      <div className="row" style={{ marginTop: 8 }}>
        {adders}
      </div>
    </section>
  )
  const fresh = (base: string, taken: string[]) => {
    let n = 1
    while (taken.includes(n === 1 ? base : `${base} ${n}`)) n++
    return n === 1 ? base : `${base} ${n}`
  }
  return (
    <div>
      <RigName key={design.name + design.place} design={design} onSave={(d) => save.mutate(d)} />
      {section(
        'controllers',
        'Controllers, strips and packs',
        'Start with a controller: it has the sockets or pins that everything else runs to.',
        design.controllers.map((c, i) =>
          item(
            'controllers',
            i,
            c.name,
            `${c.role === 'strip' ? 'strip' : c.role === 'pack' ? 'pack' : 'controller'}, ${c.ports.length} ports`,
          ),
        ),
        <label className="fine">
          Add{' '}
          <select
            className="figure"
            aria-label="Add a controller"
            value=""
            onChange={(e) => {
              const t = kinds.controllers.find((c) => c.template === e.target.value)
              if (t)
                begin('controllers', {
                  ...(t.controller as unknown as Draft),
                  name: fresh(
                    t.template === 'strip' ? 'Rails' : t.template === 'pack' ? 'Pack' : 'Box',
                    design.controllers.map((c) => c.name),
                  ),
                })
              else if (e.target.value === 'scratch')
                begin('controllers', {
                  name: fresh(
                    'Box',
                    design.controllers.map((c) => c.name),
                  ),
                  role: 'controller',
                  ports: [],
                })
            }}
          >
            <option value="">a controller, strip or pack…</option>
            {kinds.controllers.map((c) => (
              <option key={c.template} value={c.template}>
                {c.template}: {c.about}
              </option>
            ))}
            <option value="scratch">from scratch</option>
          </select>
        </label>,
      )}
      {section(
        'sensors',
        'Sensors',
        'No sensor yet.',
        design.sensors.map((s, i) =>
          item(
            'sensors',
            i,
            s.name,
            <>
              {words(kinds.sensors, s.kind)}
              {s.zones.length > 0 && <>; zones {s.zones.join(', ')}</>}
              {s.mount?.aheadMm && (
                <>
                  ; <Marked q={s.mount.aheadMm} /> ahead, looks {s.mount.facing}
                </>
              )}
            </>,
          ),
        ),
        <label className="fine">
          Add{' '}
          <select
            className="figure"
            aria-label="Add a sensor"
            value=""
            onChange={(e) => {
              const k = kinds.sensors.find((s) => s.kind === e.target.value)
              if (k)
                begin('sensors', {
                  name: fresh(
                    'Sensor',
                    design.sensors.map((s) => s.name),
                  ),
                  kind: k.kind,
                  samplePeriodMs: k.samplePeriodMs,
                  resolution: k.resolution,
                  zones: k.zones,
                  mount: { facing: k.kind === 'distance' ? 'ahead' : 'down', tiltDeg: 0 },
                  connection: k.kind === 'button' ? 'builtIn' : 'cable',
                  takes: 'socket',
                  ownLead: true,
                  signalV: 5,
                  lamp: k.kind === 'reflectedLight' || k.kind === 'colour' ? 'on' : 'none',
                  delayMs: 0,
                })
            }}
          >
            <option value="">a sensor of…</option>
            {kinds.sensors.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.words}
              </option>
            ))}
          </select>
        </label>,
      )}
      {section(
        'actuators',
        'Motors, lamps and sounders',
        'Nothing that moves, shines or sounds yet.',
        design.actuators.map((a, i) =>
          item(
            'actuators',
            i,
            a.name,
            <>
              {words(kinds.actuators, a.kind)}
              {a.reversed && ', mounted the other way round'}
            </>,
          ),
        ),
        <label className="fine">
          Add{' '}
          <select
            className="figure"
            aria-label="Add an actuator"
            value=""
            onChange={(e) => {
              if (e.target.value)
                begin('actuators', {
                  name: fresh(
                    e.target.value === 'lamp'
                      ? 'Lamp'
                      : e.target.value === 'sounder'
                        ? 'Horn'
                        : e.target.value === 'display'
                          ? 'Display'
                          : 'Motor',
                    design.actuators.map((a) => a.name),
                  ),
                  kind: e.target.value,
                  connection: 'cable',
                  takes: 'socket',
                  ownLead: true,
                  reversed: false,
                })
            }}
          >
            <option value="">a motor, lamp or sounder…</option>
            {kinds.actuators.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.words}
              </option>
            ))}
          </select>
        </label>,
      )}
      {section(
        'mechanisms',
        'Mechanisms',
        'Say what the motors move: a drive, a lift, jaws, a lid.',
        (design.mechanisms ?? []).map((m, i) =>
          item(
            'mechanisms',
            i,
            m.name,
            <>
              {words(kinds.mechanisms, m.kind)}, moved by {m.motors.join(' and ')}
              {m.travel && (
                <>
                  ; <Marked q={m.travel.from} /> to <Marked q={m.travel.to} />
                </>
              )}
            </>,
          ),
        ),
        <label className="fine">
          Add{' '}
          <select
            className="figure"
            aria-label="Add a mechanism"
            value=""
            disabled={design.actuators.length === 0}
            onChange={(e) => {
              if (e.target.value)
                begin('mechanisms', {
                  name: fresh(
                    'Mechanism',
                    (design.mechanisms ?? []).map((m) => m.name),
                  ),
                  kind: e.target.value,
                  motors: [],
                  positions: [],
                  directions: [],
                })
            }}
          >
            <option value="">a mechanism…</option>
            {kinds.mechanisms.map((k) => (
              <option key={k.kind} value={k.kind}>
                {k.words}
              </option>
            ))}
          </select>
        </label>,
      )}
      <Positions design={design} positions={query.data.positions} />
      <BodyPlan key={JSON.stringify(design.outline)} design={design} notes={query.data.notes} onSave={(d) => save.mutateAsync(d)} />
      {section(
        'starts',
        'Start placement',
        'Say where the rig and its loads are put down by hand, and how evenly that works.',
        (design.starts ?? []).map((s, i) =>
          item(
            'starts',
            i,
            s.what,
            <>
              <Marked q={s.atMm} /> along{s.atMm.moveSd ? <>, ± {within(s.atMm.moveSd)} mm from time to time</> : null}
              {s.side ? `; ${s.side}` : ''}
            </>,
          ),
        ),
        <Button
          onClick={() =>
            begin('starts', {
              what: (design.starts ?? []).length === 0 ? design.name : 'load',
              atMm: { value: 0, unit: 'mm', kind: 'guessed', source: 'typed in, never tested', span: 40, moveSd: 5, min: -100000 },
            })
          }
        >
          Add a placement
        </Button>,
      )}
      <RailSheet key={JSON.stringify(design.rail)} design={design} onSave={(d) => save.mutateAsync(d)} />
      {save.isError && !open && (
        <p className="fault" role="alert">
          {sentencesOf(save.error).join(' ')}
        </p>
      )}
      {rename.isError && !open && (
        <p className="fault" role="alert">
          {sentencesOf(rename.error).join(' ')}
        </p>
      )}
      <p className="fine muted">Everything is kept as it is typed and can be undone. Revision {rig.revision}.</p>
    </div>
  )
}

// Directions and motors are typed as names; the two first directions are forward and back.
const loosen = (list: List, item: Draft): Draft =>
  list === 'mechanisms'
    ? {
        ...item,
        directions: [...((item.directions ?? []) as { name: string; forward: boolean }[])]
          .sort((a, b) => Number(b.forward) - Number(a.forward))
          .map((d) => d.name),
      }
    : item

const tidy = (list: List, item: Draft): Draft => {
  if (list === 'mechanisms') {
    const travel = item.travel as Draft | null | undefined
    return {
      ...item,
      motors: Array.isArray(item.motors) ? item.motors : [],
      directions: ((item.directions ?? []) as string[]).map((name, i) => ({ name, forward: i === 0 })),
      travel: travel?.from || travel?.to ? { home: 'none', pastEnd: 'stalls', ...travel } : null,
    }
  }
  return typeof item.name === 'string' ? { ...item, name: item.name.trim() } : item
}

function RigName({ design, onSave }: { design: Design; onSave: (d: Design) => void }) {
  const [name, setName] = useState(design.name)
  const [place, setPlace] = useState(design.place ?? '')
  const keep = () => {
    if (name !== design.name || place !== (design.place ?? '')) onSave({ ...design, name, place })
  }
  return (
    <div className="row" style={{ marginBottom: 16 }}>
      <label className="fine">
        Rig{' '}
        <input
          className="figure"
          style={{ width: 200 }}
          value={name}
          maxLength={60}
          onChange={(e) => setName(e.target.value)}
          onBlur={keep}
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur()
          }}
        />
      </label>
      <label className="fine">
        Whose{' '}
        <input
          className="figure"
          style={{ width: 240 }}
          value={place}
          maxLength={80}
          onChange={(e) => setPlace(e.target.value)}
          onBlur={keep}
          onKeyDown={(e) => {
            if (e.key === 'Enter') e.currentTarget.blur()
          }}
        />
      </label>
    </div>
  )
}

/** The line a rail vehicle runs on: its length, what lies between markers, and the markers. */
function RailSheet({ design, onSave }: { design: Design; onSave: (d: Design) => Promise<unknown> }) {
  const rail = design.rail
  const [length, setLength] = useState(String(rail?.lengthMm ?? 4000))
  const [ground, setGround] = useState(rail?.ground ?? 'rail')
  const [text, setText] = useState((rail?.markers ?? []).map((m) => `${m.name}; ${m.surface}; ${m.atMm}; ${m.lengthMm.value}`).join('\n'))
  const [fault, setFault] = useState('')
  if (!(design.mechanisms ?? []).some((m) => m.kind === 'railVehicle')) return null
  const keep = async () => {
    const lines = text
      .split('\n')
      .map((l) => l.trim())
      .filter(Boolean)
    const markers: Schemas['Marker'][] = []
    for (const [i, line] of lines.entries()) {
      const [name, surface, at, long] = line.split(';').map((c) => c.trim())
      const [a, l] = [Number(at?.replace(',', '.')), Number(long?.replace(',', '.'))]
      if (!name || !surface || !at || !long || Number.isNaN(a) || Number.isNaN(l)) {
        setFault(`Line ${i + 1}: write name; surface; where it begins; its length, such as “bed 1; bed tag; 900; 60”.`)
        return
      }
      const old = rail?.markers.find((m) => m.name === name)
      markers.push({
        name,
        surface,
        atMm: a,
        lengthMm:
          old && old.lengthMm.value === l
            ? old.lengthMm
            : { value: l, unit: 'mm', kind: 'measured', source: 'ruler', meanSd: 0.5, moveSd: 0, span: 0, min: 1, max: 1e9 },
      })
    }
    setFault('')
    await onSave({
      ...design,
      rail: { lengthMm: Number(length.replace(',', '.')), ground, surfaces: rail?.surfaces ?? [], markers },
    }).catch(() => undefined)
  }
  return (
    <section aria-label="Rail" style={{ marginBottom: 20 }}>
      <h2 className="small-head">Rail</h2>
      <div className="row">
        <label className="fine">
          Once round{' '}
          <input
            className="mono figure"
            style={{ width: 76 }}
            inputMode="decimal"
            value={length}
            onChange={(e) => setLength(e.target.value)}
          />{' '}
          mm
        </label>
        <label className="fine">
          Between markers lies <input className="figure" value={ground} onChange={(e) => setGround(e.target.value)} />
        </label>
      </div>
      <label className="fine" style={{ display: 'block', marginTop: 6 }}>
        Markers, one a line: name; surface; where it begins; its length, in mm
        <textarea
          className="mono figure"
          style={{ display: 'block', width: '100%', maxWidth: 520, marginTop: 4 }}
          rows={Math.max(2, text.split('\n').length)}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      {fault && (
        <p className="fault" role="alert">
          {fault}
        </p>
      )}
      <Button sx={{ mt: 1 }} onClick={() => void keep()}>
        Keep the rail
      </Button>
    </section>
  )
}
