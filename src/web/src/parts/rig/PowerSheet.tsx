import { useEdit } from '../../app/edit'
import { useEffect, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, Problem, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'

type Input = Schemas['PowerBudgetInput']
type Field = { key: keyof Input; label: string; unit: string }
type Column = { key: 'count' | 'minV' | 'maxV' | 'idleMA' | 'activeMA' | 'stallMA' | 'duty'; label: string; unit: string }

const fields: Field[] = [
  { key: 'cells', label: 'Cells', unit: '' },
  { key: 'voltsPerCell', label: 'Volts per cell', unit: 'V' },
  { key: 'capacityMAh', label: 'Charge', unit: 'mAh' },
  { key: 'packMaxMA', label: 'Pack gives at most', unit: 'mA' },
  { key: 'controllerOwnMA', label: 'Controller itself', unit: 'mA' },
  { key: 'controllerOutputMaxMA', label: 'It supplies at most', unit: 'mA' },
  { key: 'controllerOutputV', label: 'It supplies', unit: 'V' },
]
const columns: Column[] = [
  { key: 'count', label: 'How many', unit: '' },
  { key: 'minV', label: 'From', unit: 'V' },
  { key: 'maxV', label: 'To', unit: 'V' },
  { key: 'idleMA', label: 'Idle', unit: 'mA' },
  { key: 'activeMA', label: 'Working', unit: 'mA' },
  { key: 'stallMA', label: 'Stalled', unit: 'mA' },
  { key: 'duty', label: 'Share of time', unit: '' },
]

const parse = (text: string) => (text.trim() === '' ? null : Number(text.trim().replace(',', '.')))

/** What feeds the rig: typed where it is read, kept when a field is left. */
export function PowerSheet() {
  const { rig } = useRig()
  const power = useQuery({
    queryKey: partKey(rig.id, 'power', rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/power', { params: { path: { id: rig.id } } })),
  })
  const [input, setInput] = useState<Input | null>(null)
  useEffect(() => {
    if (power.data) setInput(power.data.input)
  }, [power.data])
  const save = useEdit({
    call: (next: Input) =>
      unwrap(
        client.PUT('/api/rigs/{id}/power', {
          params: { path: { id: rig.id } },
          body: { baseRevision: power.data!.revision, input: next, copy: rig.copy, by: tabId },
        }),
      ),
    said: null,
  })
  if (power.isError)
    return (
      <p className="fault" role="alert">
        {sentencesOf(power.error).join(' ')}
      </p>
    )
  if (!power.data || !input) return null
  const change = (next: Input) => {
    setInput(next)
    save.mutate(next)
  }
  const changeDevice = (i: number, part: Partial<NonNullable<Input['devices']>[number]>) =>
    change({ ...input, devices: input.devices!.map((d, k) => (k === i ? { ...d, ...part } : d)) })
  const sum = power.data.sum
  const faulty = save.error instanceof Problem ? save.error.fields : {}
  const cell = (path: string, value: number | null | undefined, label: string, onValue: (v: number | null) => void) => (
    <input
      aria-label={label}
      aria-invalid={path in faulty}
      inputMode="decimal"
      className="mono figure"
      style={{ width: 72 }}
      defaultValue={value ?? ''}
      key={`${path}-${value}`}
      onBlur={(e) => {
        const v = parse(e.target.value)
        if (v !== (value ?? null)) onValue(v)
      }}
      onKeyDown={(e) => {
        if (e.key === 'Enter') e.currentTarget.blur()
      }}
    />
  )
  return (
    <section aria-labelledby="power-title" style={{ marginTop: 22 }}>
      <h2 id="power-title" className="page-title">
        Power
      </h2>
      <div className="row" style={{ gap: '6px 18px', marginBottom: 10 }}>
        {fields.map((f) => (
          <label key={f.key} className="fine">
            {f.label} {cell(f.key, input[f.key] as number | null, f.label, (v) => change({ ...input, [f.key]: v }))} {f.unit}
          </label>
        ))}
      </div>
      <div className="wide" tabIndex={0} role="group" aria-label="What devices draw">
        <table className="ruled" style={{ width: 'auto' }}>
          <thead>
            <tr>
              <th>Device</th>
              <th>Fed by</th>
              {columns.map((c) => (
                <th key={c.key}>
                  {c.label}
                  {c.unit && <span className="muted"> {c.unit}</span>}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {input.devices!.map((d, i) => (
              <tr key={d.name}>
                <th scope="row" style={{ color: 'var(--ink)', fontSize: 15 }}>
                  {d.name}
                </th>
                <td>
                  <select
                    aria-label={`${d.name} is fed by`}
                    value={d.suppliedBy ?? 'controller'}
                    className="figure"
                    onChange={(e) => changeDevice(i, { suppliedBy: e.target.value })}
                  >
                    <option value="controller">controller</option>
                    <option value="pack">pack</option>
                  </select>
                </td>
                {columns.map((c) => (
                  <td key={c.key}>
                    {cell(`devices[${i}].${c.key}`, d[c.key], `${d.name}, ${c.label.toLowerCase()}${c.unit ? ` in ${c.unit}` : ''}`, (v) =>
                      changeDevice(i, { [c.key]: v }),
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {save.isError && !(save.error instanceof Problem && save.error.status === 409) && (
        <div className="row">
          <Faults sentences={Object.values(faulty).flat()} />
          <Button
            onClick={() => {
              save.reset()
              setInput(power.data.input)
            }}
          >
            Put back what was kept
          </Button>
        </div>
      )}
      {sum && (
        <>
          <p style={{ margin: '10px 0 4px' }}>
            <b className={sum.verdict!.grade}>{sum.verdict!.say}</b>
          </p>
          <div className="wide" tabIndex={0} role="group" aria-label="Arithmetic of power">
            <table className="ruled" style={{ width: 'auto' }}>
              <tbody>
                {sum.steps.map((s, i) => (
                  <tr key={i}>
                    <td>{s.say}</td>
                    <td className="mono">{s.arithmetic}</td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {s.value === null ? '' : show(s.value, 4)} {s.unit}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {sum.cautions.map((c, i) => (
            <p key={i} className="fine muted">
              {c}
            </p>
          ))}
          <p className="fine muted">Follow the maker's instructions, your school's policy and local rules.</p>
        </>
      )}
      {!sum && <p className="fault">Some numbers are missing: {power.data.missing.slice(0, 4).join(' ')}</p>}
    </section>
  )
}

/** What the power sum found, for the margin. */
export function usePowerIssues() {
  const { rig } = useRig()
  return (
    useQuery({
      queryKey: partKey(rig.id, 'power', rig.copy),
      queryFn: () => unwrap(client.GET('/api/rigs/{id}/power', { params: { path: { id: rig.id } } })),
    }).data?.sum?.result.issues ?? []
  )
}
