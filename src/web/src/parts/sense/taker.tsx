import { useState } from 'react'
import TextField from '@mui/material/TextField'

const read = (key: string) => localStorage.getItem(`chiton-${key}`) ?? ''

/** Who takes readings, and where and in which light, as said last. */
export const taker = () => ({ who: read('who'), conditions: read('conditions') })

/** The supply voltage said last, for sensors whose readings hang on it; null when none was said. */
export const supply = () => {
  const v = Number(read('supply').replace(',', '.'))
  return read('supply') !== '' && Number.isFinite(v) ? v : null
}

/** Says who takes readings and in which conditions; kept with every reading taken. */
export function Taker({ fed }: { fed: boolean }) {
  const [volts, setVolts] = useState(read('supply'))
  const [who, setWho] = useState(read('who'))
  const [conditions, setConditions] = useState(read('conditions'))
  return (
    <details style={{ margin: '4px 0 10px' }}>
      <summary>Kept with the readings: {[who, conditions].filter(Boolean).join(', ') || 'nobody and nowhere yet'}</summary>
      <div className="row" style={{ marginTop: 10 }}>
        <TextField
          size="small"
          label="Taken by"
          value={who}
          onChange={(e) => {
            setWho(e.target.value)
            localStorage.setItem('chiton-who', e.target.value)
          }}
          slotProps={{ htmlInput: { maxLength: 80 } }}
        />
        <TextField
          size="small"
          label="Place and light"
          value={conditions}
          onChange={(e) => {
            setConditions(e.target.value)
            localStorage.setItem('chiton-conditions', e.target.value)
          }}
          sx={{ minWidth: 'min(340px, 100%)' }}
          slotProps={{ htmlInput: { maxLength: 200 } }}
        />
        {fed && (
          <TextField
            size="small"
            label="Supply voltage"
            value={volts}
            onChange={(e) => {
              setVolts(e.target.value)
              localStorage.setItem('chiton-supply', e.target.value)
            }}
            sx={{ width: 140 }}
            slotProps={{ htmlInput: { inputMode: 'decimal' } }}
          />
        )}
      </div>
    </details>
  )
}
