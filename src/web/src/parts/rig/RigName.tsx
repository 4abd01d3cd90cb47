import { useState } from 'react'
import type { Design } from './useDesign'

/** The rig's name and whose it is, kept as they are left. */
export function RigName({ design, onSave }: { design: Design; onSave: (d: Design) => void }) {
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
