import { useEdit } from '../../app/edit'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Sense } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { show } from '../../shared/format'

type Other = { version: number; withCopy: number; withVersion: number | null; title: string }

export const when = (utc: string) =>
  new Date(utc.endsWith('Z') ? utc : utc + 'Z').toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })

/** Earlier calibrations and other copies: what moved, which zones still hold, and back to an earlier one. */
export function History({ sense }: { sense: Sense }) {
  const { rig } = useRig()
  const [other, setOther] = useState<Other | null>(null)
  const [open, setOpen] = useState(false)
  const history = useQuery({
    queryKey: [...partKey(rig.id, 'sense-history', rig.copy), sense.sensor],
    enabled: open,
    queryFn: () =>
      unwrap(
        client.GET('/api/rigs/{id}/sense/history', { params: { path: { id: rig.id }, query: { copy: rig.copy, sensor: sense.sensor } } }),
      ),
  })
  const compared = useQuery({
    queryKey: [...partKey(rig.id, 'sense-compare', rig.copy), other],
    enabled: other !== null,
    queryFn: () =>
      unwrap(
        client.GET('/api/rigs/{id}/sense/compare', {
          params: {
            path: { id: rig.id },
            query: {
              copy: rig.copy,
              sensor: sense.sensor,
              version: other!.version,
              withCopy: other!.withCopy,
              ...(other!.withVersion === null ? {} : { withVersion: other!.withVersion }),
            },
          },
        }),
      ),
  })
  const restore = useEdit({
    call: (version: number) =>
      unwrap(
        client.POST('/api/rigs/{id}/sense/restore', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, sensor: sense.sensor, baseVersion: sense.version, version, by: tabId },
        }),
      ),
    said: (_, version) => `The calibration is that of version ${version} again.`,
    done: () => setOther(null),
    aloud: true,
  })
  return (
    <details style={{ marginTop: 10 }} onToggle={(e) => setOpen((e.currentTarget as HTMLDetailsElement).open)}>
      <summary>Earlier calibrations and other copies</summary>
      <div className="row" style={{ margin: '8px 0' }}>
        {rig.copies
          .filter((c) => c.number !== rig.copy)
          .map((c) => (
            <Button
              key={c.number}
              onClick={() =>
                setOther({ version: sense.version, withCopy: c.number, withVersion: null, title: `These thresholds on copy ${c.number}` })
              }
            >
              Compare with copy {c.number}
            </Button>
          ))}
      </div>
      {compared.isError && (
        <p className="fault" role="alert">
          {sentencesOf(compared.error).join(' ')}
        </p>
      )}
      {other && compared.data && (
        <section className="note lead-note" data-testid="comparison">
          <small>{other.title}</small>
          <h3>{compared.data.say}</h3>
          <table className="ruled" style={{ fontSize: 14, maxWidth: 860 }}>
            <thead>
              <tr>
                <th>Zone</th>
                <th>{other.withCopy === rig.copy ? `Version ${other.version}` : `Copy ${rig.copy}`}</th>
                <th>{other.withCopy === rig.copy ? 'Current' : `Copy ${other.withCopy}`}</th>
                <th>What that means</th>
              </tr>
            </thead>
            <tbody>
              {compared.data.zones.map((z) => (
                <tr key={z.zone}>
                  <td>
                    <b>{z.zone}</b>
                  </td>
                  <td className="mono">{show(z.meanBefore)}</td>
                  <td className="mono">{show(z.meanAfter)}</td>
                  <td className={z.holds ? '' : 'risky'}>{z.say}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {compared.data.onlyBefore.length > 0 && <p>Only in the first: {compared.data.onlyBefore.join(', ')}.</p>}
          {compared.data.onlyAfter.length > 0 && <p>Only in the second: {compared.data.onlyAfter.join(', ')}.</p>}
        </section>
      )}
      {history.data && (
        <div className="wide" tabIndex={0} role="group" aria-label="Versions">
          <table className="ruled" style={{ fontSize: 14, maxWidth: 860 }}>
            <thead>
              <tr>
                <th>Version</th>
                <th>When</th>
                <th>What</th>
                <th>
                  <span className="hidden-text">What to do</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {history.data.versions.map((v) => (
                <tr key={v.version}>
                  <td className="mono">{v.version}</td>
                  <td>{when(v.timeUtc)}</td>
                  <td>{v.what}</td>
                  <td>
                    {v.version === sense.version ? (
                      <span className="holds">current</span>
                    ) : (
                      <span className="row">
                        <Button
                          onClick={() =>
                            setOther({
                              version: v.version,
                              withCopy: rig.copy,
                              withVersion: sense.version,
                              title: `Version ${v.version} against version ${sense.version}`,
                            })
                          }
                        >
                          Compare {v.version}
                        </Button>
                        <Button variant="text" onClick={() => restore.mutate(v.version)}>
                          Restore {v.version}
                        </Button>
                      </span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </details>
  )
}
