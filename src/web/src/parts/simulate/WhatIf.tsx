import { useState } from 'react'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import type { Run } from '../../app/api'
import { show } from '../../shared/format'

/** The numbers drawn for a run; any can be held at a value, and the run repeated on the same luck. */
export function WhatIf({ run, busy, onRun }: { run: Run; busy: boolean; onRun: (held: { name: string; value: number }[]) => void }) {
  const [open, setOpen] = useState<string | null>(null)
  const [value, setValue] = useState('')
  const [problem, setProblem] = useState('')
  const held = run.held.map((h) => ({ name: h.name ?? '', value: h.value ?? 0 }))
  const draws = run.report.draws.filter((d) => d.kind !== 'chosen' || d.value !== d.usual || held.some((h) => h.name === d.name))
  const ask = (name: string) => {
    const number = Number(value.replace(',', '.'))
    if (value.trim() === '' || !Number.isFinite(number)) {
      setProblem('Give a number.')
      return
    }
    setProblem('')
    setOpen(null)
    onRun([...held.filter((h) => h.name !== name), { name, value: number }])
  }
  return (
    <>
      <h3 className="small-head" style={{ marginTop: 14 }}>
        Drawn for this run
      </h3>
      {held.length > 0 && (
        <Button size="small" disabled={busy} onClick={() => onRun([])} sx={{ mb: 1 }}>
          Run again as it was drawn
        </Button>
      )}
      <table className="ruled" style={{ fontSize: 13 }}>
        <tbody>
          {draws.slice(0, 80).map((d) => (
            <tr key={d.name}>
              <td>{d.name}</td>
              <td style={{ textAlign: 'right' }}>
                <span className={`num ${d.kind}`} title={`${d.kind}, usually ${show(d.usual)}`}>
                  {show(d.value)}
                </span>{' '}
                {d.unit}
              </td>
              <td>
                {open === d.name ? (
                  <form
                    className="row"
                    onSubmit={(e) => {
                      e.preventDefault()
                      ask(d.name)
                    }}
                  >
                    <TextField
                      size="small"
                      autoFocus
                      label={`Hold ${d.name} at`}
                      value={value}
                      error={problem !== ''}
                      helperText={problem}
                      onChange={(e) => setValue(e.target.value)}
                      onKeyDown={(e) => e.key === 'Escape' && setOpen(null)}
                      sx={{ width: 120 }}
                      slotProps={{ htmlInput: { inputMode: 'decimal', className: 'mono' } }}
                    />
                    <Button type="submit" size="small" disabled={busy}>
                      Run
                    </Button>
                  </form>
                ) : (
                  <Button
                    size="small"
                    aria-label={`What if ${d.name} were something else?`}
                    onClick={() => {
                      setOpen(d.name)
                      setValue(String(Number(d.usual.toPrecision(4))))
                    }}
                  >
                    What if
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}
