import { useState } from 'react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { show } from '../../shared/format'
import { spans } from '../../shared/spans'
import type { Figures } from './figures'

type Mechanism = NonNullable<Schemas['RigDesign']['mechanisms']>[number]
type Target = {
  word: string
  kinds?: string[]
  put: (m: Mechanism, q: Schemas['Quantity']) => Mechanism
  unit: string
  span: number
  needsTravel?: boolean
}

const wheel: Target = { word: 'wheel diameter', unit: 'mm', span: spans.wheelMm, put: (m, q) => ({ ...m, wheelDiameterMm: q }) }
const track: Target = {
  word: 'track width',
  unit: 'mm',
  span: spans.trackMm,
  kinds: ['twoWheelDrive'],
  put: (m, q) => ({ ...m, trackWidthMm: q }),
}
const gears: Target = { word: 'motor turns for one turn', unit: '', span: spans.turns, put: (m, q) => ({ ...m, motorTurnsPerTurn: q }) }
const end: Target = {
  word: 'end of travel',
  unit: 'motor deg',
  span: spans.travelMotorDeg,
  needsTravel: true,
  put: (m, q) => ({ ...m, travel: { ...m.travel!, to: { ...q, value: m.travel!.from.value + q.value } } }),
}

// Which number of a rig a sum answers: from its result, or from what was tried in its blanks.
const targets: Record<string, { of: 'result' | 'input'; key: string; to: Target }[]> = {
  'gear-train': [{ of: 'result', key: 'ratio', to: gears }],
  'axis-travel': [
    { of: 'result', key: 'motorDeg', to: end },
    { of: 'input', key: 'gearRatio', to: gears },
  ],
  'wheel-travel': [
    { of: 'input', key: 'wheelDiameterMm', to: wheel },
    { of: 'input', key: 'motorTurnsPerWheelTurn', to: gears },
  ],
  turn: [
    { of: 'input', key: 'trackWidthMm', to: track },
    { of: 'input', key: 'wheelDiameterMm', to: wheel },
  ],
  'click-encoder': [
    { of: 'input', key: 'trackWidthMm', to: track },
    { of: 'input', key: 'wheelDiameterMm', to: wheel },
  ],
}

/** Sends a number to the rig's number it answers. A result is calculated; what was only typed here is a guess. */
export function SendTo({
  rig,
  copy,
  sum,
  title,
  input,
  result,
  onSaid,
}: {
  rig: string
  copy: number
  sum: string
  title: string
  input: Record<string, unknown>
  result: Figures
  onSaid: (t: string) => void
}) {
  const queries = useQueryClient()
  const [open, setOpen] = useState(false)
  const [busy, setBusy] = useState(false)
  const query = useQuery({
    queryKey: ['part', rig, 'design', copy],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/design', { params: { path: { id: rig }, query: { copy } } })),
    enabled: open,
  })
  const choices = (targets[sum] ?? []).flatMap((t) => {
    const value = (t.of === 'result' ? result : input)[t.key]
    if (typeof value !== 'number' || value <= 0) return []
    return (query.data?.design.mechanisms ?? [])
      .filter((m) => (!t.to.kinds || t.to.kinds.includes(m.kind)) && (!t.to.needsTravel || m.travel))
      .map((m) => ({ ...t, m, value }))
  })
  if (!targets[sum]) return null
  const send = async (c: (typeof choices)[number]) => {
    setBusy(true)
    try {
      const { revision, design } = query.data!
      const calculated = c.of === 'result'
      const q: Schemas['Quantity'] = {
        value: c.value,
        unit: c.to.unit,
        kind: calculated ? 'calculated' : 'guessed',
        source: `${calculated ? '' : 'tried in '}Bench sums: ${title.toLowerCase()}`,
        meanSd: 0,
        moveSd: 0,
        span: calculated ? 0 : c.to.span,
        min: 0,
        max: Number.MAX_VALUE,
      }
      const done = await unwrap(
        client.PUT('/api/rigs/{id}/design', {
          params: { path: { id: rig } },
          body: {
            baseRevision: revision,
            design: { ...design, mechanisms: (design.mechanisms ?? []).map((m) => (m.name === c.m.name ? c.to.put(m, q) : m)) },
            copy,
            by: tabId,
          },
        }),
      )
      onSaid(`Sent: ${c.to.word} of ${c.m.name} is ${show(c.value, 4)} ${c.to.unit} now, kept as revision ${done.revision}.`)
      setOpen(false)
      await queries.invalidateQueries()
    } catch (e) {
      onSaid(sentencesOf(e).join(' '))
    } finally {
      setBusy(false)
    }
  }
  if (!open) return <Button onClick={() => setOpen(true)}>Send to this rig</Button>
  return (
    <span className="row" role="group" aria-label="Send to this rig">
      {query.data && choices.length === 0 && <span className="fine">This rig has no number that this answers.</span>}
      {choices.map((c) => (
        <Button
          key={`${c.key} ${c.m.name}`}
          disabled={busy}
          onClick={() => void send(c)}
        >{`${show(c.value, 4)} ${c.to.unit} as ${c.to.word} of ${c.m.name}`}</Button>
      ))}
      <Button variant="text" onClick={() => setOpen(false)}>
        Leave it
      </Button>
    </span>
  )
}
