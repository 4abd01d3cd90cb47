import { useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, unwrap, type Schemas } from '../../app/api'
import { useRig } from '../../app/rig'

const words: Record<Schemas['FindingsCell']['severity'], string> = {
  stops: 'cannot work',
  risky: 'risky',
  advice: 'good to know',
  holds: '',
}

/** Which rigs and copies have what: a table by code, for the bench's wall. */
export default function OthersPage() {
  const { rig } = useRig()
  const [params, setParams] = useSearchParams()
  const only = params.get('only') === 'this'
  const table = useQuery({
    queryKey: ['part', rig.id, 'check-table', only],
    queryFn: () => unwrap(client.GET('/api/findings/table', { params: { query: only ? { rigs: rig.id } : {} } })),
  })
  const choose = (this_: boolean) => {
    const next = new URLSearchParams(params)
    if (this_) next.set('only', 'this')
    else next.delete('only')
    setParams(next, { replace: true })
  }
  if (table.isError)
    return (
      <main className="page">
        <p className="fault" role="alert">
          What was found could not be fetched. Is the bench still running? Load the page again to try once more.
        </p>
      </main>
    )
  if (!table.data) return <p className="page muted">Every rig is looked at…</p>
  const { columns, rows } = table.data
  return (
    <main className="page">
      <h2 className="page-title">{only ? `Which copy of ${rig.name} has what` : 'Which rig has what'}</h2>
      <p className="row no-print">
        <Button component={Link} to={`/rigs/${rig.id}/check?copy=${rig.copy}`} variant="text">
          Back to what was found here
        </Button>
        <Button onClick={() => choose(!only)}>{only ? 'All rigs' : 'This rig only'}</Button>
        <Button variant="text" onClick={() => window.print()}>
          Print
        </Button>
      </p>
      {rows.length === 0 ? (
        <p>Nothing was found on any of them.</p>
      ) : (
        <div className="wide" tabIndex={0} role="region" aria-label="Findings by code">
          <table className="ruled">
            <thead>
              <tr>
                <th scope="col">What was found</th>
                {columns.map((c) => (
                  <th key={`${c.rig} ${c.copy}`} scope="col">
                    <Link to={`/rigs/${c.rig}/check?copy=${c.copy}`}>
                      {c.name}, copy {c.copy}
                    </Link>
                    {c.unlooked && <small className="muted"> {c.unlooked}</small>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.code}>
                  <th scope="row">{r.title}</th>
                  {r.cells.map((cell, i) => (
                    <td key={i} className={cell.count > 0 ? `cell-${cell.severity}` : undefined} title={cell.headline || undefined}>
                      {cell.count > 0 && (
                        <>
                          {words[cell.severity]}
                          {cell.count > 1 && <span className="mono"> {cell.count}</span>}
                        </>
                      )}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </main>
  )
}
