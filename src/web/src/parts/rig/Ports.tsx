import Button from '@mui/material/Button'
import { number, type Draft } from './fields'

const uses: [string, string][] = [
  ['motorOut', 'motor'],
  ['smartIn', 'smart in'],
  ['smartOut', 'smart out'],
  ['digitalIn', 'high or low in'],
  ['digitalOut', 'high or low out'],
  ['analogueIn', 'voltage in'],
  ['pwmOut', 'pulses out'],
  ['supply', 'supply'],
  ['ground', 'ground'],
]
const ends: [string, string][] = [
  ['cable', 'device cable'],
  ['plug', 'plug'],
  ['socket', 'socket'],
  ['clip', 'clip'],
  ['bare', 'bare wire'],
]

/** The sockets and pins of a controller: name, what each can do, its voltages, how many leads it holds. */
export function Ports({ draft, onDraft }: { draft: Draft; onDraft: (next: Draft) => void }) {
  const ports = (draft.ports ?? []) as Draft[]
  const put = (i: number, part: Draft) => onDraft({ ...draft, ports: ports.map((p, k) => (k === i ? { ...p, ...part } : p)) })
  const volts = (i: number, at: string, label: string) => (
    <input
      className="mono figure"
      style={{ width: 52 }}
      inputMode="decimal"
      aria-label={`${label} of ${String(ports[i]!.name)}`}
      defaultValue={(ports[i]![at] as number | null) ?? ''}
      key={String(ports[i]![at])}
      onBlur={(e) => put(i, { [at]: number(e.target.value) })}
    />
  )
  return (
    <div className="wide" tabIndex={0} role="group" aria-label="Sockets and pins">
      <label className="fine">
        It is a{' '}
        <select
          className="figure"
          aria-label="Role"
          value={String(draft.role ?? 'controller')}
          onChange={(e) => onDraft({ ...draft, role: e.target.value })}
        >
          <option value="controller">controller</option>
          <option value="strip">strip</option>
          <option value="pack">pack</option>
        </select>
      </label>
      <table className="ruled ports-edit" style={{ width: 'auto' }}>
        <thead>
          <tr>
            <th>Socket or pin</th>
            <th>Can</th>
            <th>Stands V</th>
            <th>High from V</th>
            <th>Gives V</th>
            <th>Holds</th>
            <th>Takes</th>
            <th>Kept free, because</th>
            <th>
              <span className="hidden-text">Take out</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {ports.map((p, i) => (
            <tr key={i}>
              <td>
                <input
                  className="figure"
                  style={{ width: 100 }}
                  aria-label={`Name of port ${i + 1}`}
                  value={String(p.name ?? '')}
                  onChange={(e) => put(i, { name: e.target.value })}
                />
              </td>
              <td style={{ maxWidth: 330 }}>
                {uses.map(([u, name]) => (
                  <label key={u} className="fine" style={{ marginRight: 8, whiteSpace: 'nowrap' }}>
                    <input
                      type="checkbox"
                      checked={((p.can ?? []) as string[]).includes(u)}
                      onChange={(e) =>
                        put(i, {
                          can: e.target.checked ? [...((p.can ?? []) as string[]), u] : ((p.can ?? []) as string[]).filter((c) => c !== u),
                        })
                      }
                    />{' '}
                    {name}
                  </label>
                ))}
              </td>
              <td>{volts(i, 'maxInputV', 'Volts it stands')}</td>
              <td>{volts(i, 'inputHighMinV', 'Volts for high')}</td>
              <td>{volts(i, 'outputHighV', 'Volts it gives')}</td>
              <td>
                <input
                  className="mono figure"
                  style={{ width: 44 }}
                  inputMode="numeric"
                  aria-label={`Leads held by ${String(p.name)}`}
                  defaultValue={Number(p.holds ?? 1)}
                  key={String(p.holds)}
                  onBlur={(e) => put(i, { holds: number(e.target.value) ?? 1 })}
                />
              </td>
              <td>
                <select
                  className="figure"
                  aria-label={`Lead end taken by ${String(p.name)}`}
                  value={String(p.takes ?? 'cable')}
                  onChange={(e) => put(i, { takes: e.target.value })}
                >
                  {ends.map(([k, n]) => (
                    <option key={k} value={k}>
                      {n}
                    </option>
                  ))}
                </select>
              </td>
              <td>
                <input
                  className="figure"
                  style={{ width: 130 }}
                  aria-label={`Why ${String(p.name)} is kept free`}
                  maxLength={80}
                  value={String(p.keptFree ?? '')}
                  onChange={(e) => put(i, { keptFree: e.target.value === '' ? null : e.target.value })}
                />
              </td>
              <td>
                <Button
                  variant="text"
                  aria-label={`Take out ${String(p.name)}`}
                  onClick={() => onDraft({ ...draft, ports: ports.filter((_, k) => k !== i) })}
                >
                  ×
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Button
        onClick={() =>
          onDraft({
            ...draft,
            ports: [
              ...ports,
              { ...(ports.at(-1) ?? { can: ['digitalIn', 'digitalOut'], holds: 1, takes: 'cable' }), name: `port ${ports.length + 1}` },
            ],
          })
        }
      >
        Add a port
      </Button>
    </div>
  )
}
