import { useEffect, useState } from 'react'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { type Schemas } from '../../app/api'
import { tell, type Line } from './waiting'

/** What is told of a run that was just pressed: why it failed, what was measured, a note. It is kept already, and each letter with it. */
export function Told({
  line,
  passed,
  number,
  causes,
  onDone,
}: {
  line: string
  passed: boolean
  number: number
  causes: Schemas['ExpectedCause'][]
  onDone: (told?: Partial<Line>) => void
}) {
  const [cause, setCause] = useState('')
  const [note, setNote] = useState('')
  const [what, setWhat] = useState('')
  const [value, setValue] = useState('')
  const [unit, setUnit] = useState('mm')
  const [bad, setBad] = useState('')
  const v = Number(value.trim().replace(',', '.'))
  const usable = value.trim() !== '' && what.trim() !== '' && Number.isFinite(v)
  const told = {
    cause: passed ? null : cause.trim() || null,
    // What cannot be kept as a number yet is kept in words: the next press may come before it is mended.
    note:
      [note.trim(), usable || value.trim() === '' ? '' : `${what.trim()} ${value.trim()} ${unit.trim()}`.trim()]
        .filter(Boolean)
        .join('; ') || null,
    measured:
      value.trim() === '' || what.trim() === '' || !Number.isFinite(v)
        ? null
        : [{ what: what.trim(), value: v, unit: unit.trim() || null }],
  }
  const known = JSON.stringify(told)
  useEffect(() => tell(line, JSON.parse(known) as Partial<Line>), [line, known])
  const finish = (chosen?: Schemas['ExpectedCause']) => {
    if (value.trim() !== '' && !Number.isFinite(v)) return setBad('Give a number, as 812.5.')
    if (value.trim() !== '' && what.trim() === '') return setBad('Say what was measured.')
    onDone({ ...told, ...(chosen && !passed ? { cause: chosen.say, causeExpected: true, goal: chosen.goal } : {}) })
  }
  return (
    <section className="log-told" aria-label={`Run ${number}`}>
      <h2 className="small-head">
        Run {number} {passed ? 'passed' : 'failed: why?'}
      </h2>
      {!passed && causes.length > 0 && (
        <div className="row" role="group" aria-label="Failures that the bench expects">
          {causes.map((c) => (
            <Button key={c.say} onClick={() => finish(c)}>
              {c.say}
            </Button>
          ))}
        </div>
      )}
      <form
        className="row"
        onSubmit={(e) => {
          e.preventDefault()
          finish()
        }}
      >
        {!passed && (
          <TextField
            size="small"
            label={causes.length > 0 ? 'Something else' : 'Why it failed'}
            value={cause}
            onChange={(e) => setCause(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 500 } }}
            style={{ minWidth: 240 }}
          />
        )}
        <TextField
          size="small"
          label="What was measured"
          value={what}
          onChange={(e) => setWhat(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 60 } }}
          style={{ width: 170 }}
        />
        <TextField
          size="small"
          label="It was"
          value={value}
          error={bad !== ''}
          helperText={bad}
          onChange={(e) => {
            setValue(e.target.value)
            setBad('')
          }}
          style={{ width: 100 }}
          slotProps={{ htmlInput: { inputMode: 'decimal', maxLength: 40 } }}
        />
        <TextField
          size="small"
          label="Unit"
          value={unit}
          onChange={(e) => setUnit(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 20 } }}
          style={{ width: 80 }}
        />
        <TextField
          size="small"
          label="Note"
          value={note}
          onChange={(e) => setNote(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 800 } }}
          style={{ minWidth: 200 }}
        />
        <Button type="submit">Done</Button>
      </form>
    </section>
  )
}
