import { useEffect, useRef, useState, type ReactNode } from 'react'
import Button from '@mui/material/Button'
import { sentencesOf } from '../../app/api'
import { useRig } from '../../app/rig'
import { BodyPlan } from './BodyPlan'
import {
  actuatorFields,
  loosen,
  mechanismFields,
  newActuator,
  newController,
  newMechanism,
  newSensor,
  newStart,
  sensorFields,
  startFields,
  tidy,
  type List,
} from './describeFields'
import { Fields, Marked, type Draft, type Field } from './fields'
import { Ports } from './Ports'
import { Positions } from './Positions'
import { RailSheet } from './RailSheet'
import { RigName } from './RigName'
import { useDesign, useTemplates, type Design } from './useDesign'
import { useUnfinished, type Unfinished } from './useUnfinished'
import { within } from '../../shared/format'
import { Faults } from '../../shared/Faults'

/** The rig, described: every part a line that opens into its fields. */
export function Describe({ findings }: { findings: { device: string; say: string }[] }) {
  const { query, save, rename, busy } = useDesign()
  const templates = useTemplates()
  const { rig } = useRig()
  const [open, setOpen] = useState<Unfinished | null>(null)
  const unfinished = useUnfinished(rig.id)
  const latest = useRef<{
    open: Unfinished | null
    keep: (u: Unfinished) => Promise<boolean>
    changed: (u: Unfinished) => boolean
    busy: boolean
    design: Design
  }>(null)
  const settled = async () => {
    for (let i = 0; latest.current?.busy && i < 200; i++) await new Promise((done) => setTimeout(done, 50))
  }
  /** Keeps it on the newest design: while that is being written or asked for, it waits. */
  const keep = async (u: Unfinished) => {
    await settled()
    return (await latest.current?.keep(u)) ?? false
  }
  // What exists is kept as it is typed; what is new once its fields are left, for it is seldom whole before.
  useEffect(() => {
    if (!open || open.index === null || busy) return
    const timer = setTimeout(() => {
      const now = latest.current
      // A name is kept when it is left: half of it is another name.
      const typing = document.activeElement?.getAttribute('aria-label') === 'Name'
      if (now?.open && !typing && now.changed(now.open)) void now.keep(now.open)
    }, 700)
    return () => clearTimeout(timer)
  }, [open, busy])
  useEffect(
    () => () => {
      const now = latest.current
      if (now?.open && now.changed(now.open)) void now.keep(now.open)
    },
    [],
  )
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
  const items = (list: List) => (design[list] ?? []) as unknown as Draft[]
  const text = (list: List, draft: Draft) => JSON.stringify(tidy(list, draft))
  const held = (list: List, index: number | null) => {
    const item = index === null ? undefined : items(list)[index]
    return item && loosen(list, item)
  }
  const opened = (list: List, index: number): Unfinished => {
    const draft = held(list, index)!
    return { id: `${list} ${index}`, list, index, draft, why: [], sent: text(list, draft), base: text(list, draft) }
  }
  // Against what was kept last, and not against what the server made of it: that may be written in another way.
  const changed = (u: Unfinished) => u.index === null || text(u.list, u.draft) !== u.sent
  /** Keeps what is in the fields; what is refused stays in them, with the reason. */
  const keepNow = async (u: Unfinished): Promise<boolean> => {
    if (!changed(u)) {
      unfinished.drop(u.id)
      return true
    }
    const all = [...items(u.list)]
    const index = u.index ?? all.length
    const draft = tidy(u.list, u.draft)
    const before = all[index]
    const renamed = before && u.list !== 'starts' && u.list !== 'controllers' && before.name !== draft.name
    all[index] = renamed ? { ...draft, name: before.name } : draft
    try {
      let { revision } = { revision: 0 }
      const kept = renamed ? { ...draft, name: before.name } : draft
      if (!before || JSON.stringify(kept) !== JSON.stringify(tidy(u.list, loosen(u.list, before))))
        revision = (await save.mutateAsync({ ...design, [u.list]: all } as Design)).revision
      // A new name goes into the wiring, the readings and the program too.
      if (renamed)
        await rename.mutateAsync({
          what: u.list === 'mechanisms' ? 'mechanism' : 'device',
          of: null,
          from: String(before.name),
          to: String(draft.name),
          baseRevision: revision || query.data.revision,
        })
      unfinished.drop(u.id)
      setOpen((o) => (o?.id === u.id ? { ...o, index, why: [], sent: text(u.list, u.draft) } : o))
      return true
    } catch (e) {
      unfinished.put({ ...u, why: sentencesOf(e) })
      setOpen((o) => (o?.id === u.id ? { ...o, why: sentencesOf(e) } : o))
      return false
    }
  }
  latest.current = { open, keep: keepNow, changed, busy, design }
  // What was undone, or edited in another window, is followed by fields that hold nothing of their own.
  const now = open && held(open.list, open.index)
  const nowText = open && now ? text(open.list, now) : ''
  if (open && now && !busy && nowText !== open.base)
    setOpen(changed(open) ? { ...open, base: nowText } : { ...open, draft: now, sent: nowText, base: nowText })
  const edit = (draft: Draft) => {
    if (!open) return
    const next = { ...open, draft }
    setOpen(next)
    unfinished.put(next)
  }
  /** Closes the fields; what was changed is kept, and what cannot be kept yet stays as it was typed. */
  const close = async () => {
    const was = open
    setOpen(null)
    if (was && changed(was)) await keep(was)
  }
  const show = async (u: Unfinished) => {
    await close()
    setOpen(u)
  }
  const remove = async (list: List, index: number) => {
    const left = [...items(list)]
    const gone = left.splice(index, 1)[0]
    const next = { ...design, [list]: left } as Design
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
      if (was) unfinished.drop(was.id)
    } catch (e) {
      if (was) setOpen({ ...was, why: sentencesOf(e) })
    }
  }
  // What is new is filled from the rig as it is once what was open before is kept.
  const begin = async (list: List, make: (design: Design) => Draft) => {
    await close()
    await settled()
    const made: Unfinished = {
      id: `new ${list} ${Date.now()}`,
      list,
      index: null,
      draft: make(latest.current?.design ?? design),
      why: [],
      sent: '',
      base: '',
    }
    unfinished.put(made)
    setOpen(made)
  }
  const fieldsOf = (list: List): Field[] =>
    list === 'sensors'
      ? sensorFields(design, kinds.sensors)
      : list === 'actuators'
        ? actuatorFields(kinds.actuators)
        : list === 'mechanisms'
          ? mechanismFields(design, kinds.mechanisms)
          : startFields
  const editor = (of: Unfinished) => {
    const { list, index } = of
    return (
      <form
        className="item-editor"
        aria-label={`Fields of ${String(of.draft.name ?? of.draft.what ?? 'it')}`}
        onSubmit={(e) => {
          e.preventDefault()
          ;(document.activeElement as HTMLElement | null)?.blur()
          setTimeout(() => (document.getElementById('keep-item') as HTMLButtonElement | null)?.click())
        }}
        onKeyDown={(e) => {
          if (e.key === 'Escape') void close()
        }}
      >
        {list !== 'starts' && (
          <div className="field-row">
            <span className="fine">Name</span>
            <input
              className="figure"
              aria-label="Name"
              autoFocus
              value={String(of.draft.name ?? '')}
              onChange={(e) => edit({ ...of.draft, name: e.target.value })}
              onBlur={() => setOpen((o) => o && { ...o })}
              style={{ width: 240 }}
            />
          </div>
        )}
        {list === 'controllers' ? (
          <Ports draft={of.draft} onDraft={edit} />
        ) : (
          <Fields fields={fieldsOf(list)} draft={of.draft} onDraft={edit} />
        )}
        {of.why.length > 0 && <Faults sentences={of.why} />}
        <div className="row">
          <Button
            id="keep-item"
            type="button"
            variant="contained"
            disabled={busy}
            onClick={() =>
              void keep(of).then((done) => {
                if (done) setOpen((o) => (o?.id === of.id ? null : o))
              })
            }
          >
            Keep
          </Button>
          {index === null && (
            <Button
              type="button"
              onClick={() => {
                unfinished.drop(of.id)
                setOpen(null)
              }}
            >
              Leave it out
            </Button>
          )}
          {index !== null && (
            <Button type="button" variant="text" className="push" disabled={busy} onClick={() => void remove(list, index)}>
              Take it out
            </Button>
          )}
        </div>
      </form>
    )
  }
  const why = (u: Unfinished | undefined) =>
    u &&
    u.id !== open?.id && (
      <span className="risky" style={{ display: 'block' }}>
        Not kept yet{u.why.length > 0 ? `: ${u.why.join(' ')}` : '.'}
      </span>
    )
  const item = (list: List, index: number, name: string, about: ReactNode) => {
    const mine = open?.list === list && open.index === index
    const draft = unfinished.all.find((u) => u.list === list && u.index === index)
    return (
      <li key={index}>
        <button className="item" aria-expanded={mine} onClick={() => void (mine ? close() : show(draft ?? opened(list, index)))}>
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
            {!mine && why(draft)}
          </span>
        </button>
        {mine && editor(open)}
      </li>
    )
  }
  const section = (list: List, title: string, empty: string, children: ReactNode, adders: ReactNode) => (
    <section aria-label={title} style={{ marginBottom: 20 }}>
      <h2 className="small-head">{title}</h2>
      {items(list).length === 0 && <p className="fine muted">{empty}</p>}
      <ul className="items">
        {children}
        {unfinished.all
          .filter((u) => u.list === list && u.index === null)
          .map((u) => (
            <li key={u.id}>
              {open?.id === u.id ? (
                editor(open)
              ) : (
                <button className="item" aria-expanded={false} onClick={() => void show(u)}>
                  <b>{String(u.draft.name ?? u.draft.what ?? '')}</b>
                  <span>{why(u)}</span>
                </button>
              )}
            </li>
          ))}
      </ul>
      <div className="row" style={{ marginTop: 8 }}>
        {adders}
      </div>
    </section>
  )
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
              const from = e.target.value
              const template = kinds.controllers.find((c) => c.template === from)
              if (from) void begin('controllers', (d) => newController(d, template))
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
              if (k) void begin('sensors', (d) => newSensor(d, k))
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
              const kind = e.target.value
              if (kind) void begin('actuators', (d) => newActuator(d, kind))
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
              const k = kinds.mechanisms.find((x) => x.kind === e.target.value)
              if (k) void begin('mechanisms', (d) => newMechanism(d, k))
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
        <Button onClick={() => void begin('starts', newStart)}>Add a placement</Button>,
      )}
      <RailSheet key={JSON.stringify(design.rail)} design={design} onSave={(d) => save.mutateAsync(d)} />
      {save.isError && !open && unfinished.all.length === 0 && (
        <p className="fault" role="alert">
          {sentencesOf(save.error).join(' ')}
        </p>
      )}
      {rename.isError && !open && unfinished.all.length === 0 && (
        <p className="fault" role="alert">
          {sentencesOf(rename.error).join(' ')}
        </p>
      )}
      <p className="fine muted">Everything is kept as it is typed and can be undone. Revision {rig.revision}.</p>
    </div>
  )
}
