import { useState } from 'react'
import Button from '@mui/material/Button'
import type { Schemas } from '../../app/api'
import type { Design } from './useDesign'

/** The line a rail vehicle runs on: its length, what lies between markers, and the markers. */
export function RailSheet({ design, onSave }: { design: Design; onSave: (d: Design) => Promise<unknown> }) {
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
