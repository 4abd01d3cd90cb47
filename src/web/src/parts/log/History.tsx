import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, unwrap } from '../../app/api'
import { partKey, useRig } from '../../app/rig'

/** All that happened to a copy, the latest first: sent, tried, read, proved, run. */
export function History() {
  const { rig } = useRig()
  const [open, setOpen] = useState(false)
  const history = useQuery({
    queryKey: [...partKey(rig.id, 'log', rig.copy), 'history'],
    enabled: open,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/log/history', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  return (
    <section className="no-print" aria-label="History of this copy">
      <Button variant="text" onClick={() => setOpen(!open)} aria-expanded={open}>
        History of this copy
      </Button>
      {open && history.isError && <p className="fault">It could not be fetched. Close it and open it again.</p>}
      {open && history.data && (
        <table className="ruled log-history">
          <tbody>
            {history.data.map((h, i) => (
              <tr key={i}>
                <td className="mono">{new Date(h.timeUtc).toLocaleString()}</td>
                <td>{h.say}</td>
              </tr>
            ))}
            {history.data.length === 0 && (
              <tr>
                <td>Nothing has happened to it yet.</td>
              </tr>
            )}
          </tbody>
        </table>
      )}
    </section>
  )
}
