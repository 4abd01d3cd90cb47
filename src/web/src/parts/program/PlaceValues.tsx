import { useState } from 'react'
import type { Program, Schemas } from '../../app/api'

type Item = Program['programs'][number]

/** The values that a place gives to its text, one field each; kept when the field is left, or with Enter. */
export function PlaceValues({ program, onKeep }: { program: Item; onKeep: (values: Schemas['PlaceValue'][]) => void }) {
  return program.values.map((v) => (
    <PlaceValue
      key={v.name}
      of={program.name}
      name={v.name}
      value={v.value}
      onKeep={(typed) => onKeep(program.values.map((w) => (w.name === v.name ? { ...w, value: typed } : w)))}
    />
  ))
}

function PlaceValue({ of, name, value, onKeep }: { of: string; name: string; value: string; onKeep: (typed: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null)
  const keep = () => {
    if (typed !== null && typed.trim() !== value) onKeep(typed.trim())
    setTyped(null)
  }
  return (
    <label className="fine" style={{ display: 'block', marginTop: 4 }}>
      {name} is{' '}
      <input
        className="figure mono"
        style={{ width: 110 }}
        aria-label={`${name} of ${of}`}
        placeholder="not given yet"
        maxLength={200}
        value={typed ?? value}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={keep}
        onKeyDown={(e) => {
          if (e.key === 'Enter') {
            e.preventDefault()
            keep()
          }
          if (e.key === 'Escape' && typed !== null) {
            e.stopPropagation()
            setTyped(null)
          }
        }}
      />
    </label>
  )
}

/** One text serves like stations: puts it on one more controller. */
export function AlsoOn({ program, all, onPlace }: { program: Item; all: Program; onPlace: (controller: string) => void }) {
  const [open, setOpen] = useState(false)
  if (program.onHost) return null
  const free = all.places.filter((c) => !all.programs.some((p) => p.text === program.text && p.place === c))
  if (free.length === 0) return null
  return open ? (
    <label className="fine" style={{ display: 'block', marginTop: 4 }}>
      also on{' '}
      <select
        className="figure"
        autoFocus
        aria-label={`One more place for ${program.name}`}
        value=""
        onChange={(e) => {
          setOpen(false)
          onPlace(e.target.value)
        }}
        onBlur={() => setOpen(false)}
      >
        <option value="" disabled>
          which?
        </option>
        {free.map((c) => (
          <option key={c}>{c}</option>
        ))}
      </select>
    </label>
  ) : (
    <button
      type="button"
      className="link fine"
      style={{ display: 'block', marginTop: 4 }}
      aria-label={`Place ${program.name} on another controller too`}
      onClick={() => setOpen(true)}
    >
      place it on another too
    </button>
  )
}
