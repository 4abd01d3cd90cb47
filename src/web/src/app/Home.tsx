import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { client, sentencesOf, unwrap } from './api'

/** All rigs. */
export function Home() {
  const rigs = useQuery({ queryKey: ['rigs'], queryFn: () => unwrap(client.GET('/api/rigs')) })
  return (
    <div className="app">
      <header className="spine"><Link to="/" className="wordmark">chiton</Link></header>
      <div className="desk">
        <main className="page">
          <h1 className="page-title">Rigs</h1>
          <p className="lead">Open a rig to see how often its machine works, why it fails, and which number to mend.</p>
          {rigs.isError && <p className="fault" role="alert">{sentencesOf(rigs.error).join(' ')}</p>}
          {rigs.data?.length === 0 && <p className="lead">There is no rig here yet. Start with the demo: stop the program and type <span className="mono">./dev demo</span>.</p>}
          {rigs.data && rigs.data.length > 0 && (
            <table className="ruled">
              <thead><tr><th>Rig</th><th>Whose</th><th>Copies</th><th>Revision</th></tr></thead>
              <tbody>
                {rigs.data.map(rig => (
                  <tr key={rig.id}>
                    <td><Link to={`/rigs/${rig.id}/program`}><b>{rig.name}</b></Link></td>
                    <td>{rig.place}</td>
                    <td>
                      {rig.copies.map((copy, i) => (
                        <span key={copy.number}>{i > 0 && ', '}<Link to={`/rigs/${rig.id}/program?copy=${copy.number}`}>copy {copy.number}</Link>{copy.team && <span className="muted"> {copy.team}</span>}</span>
                      ))}
                    </td>
                    <td className="mono">{rig.revision}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </main>
      </div>
    </div>
  )
}
