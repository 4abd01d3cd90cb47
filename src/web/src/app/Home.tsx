import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { client, sentencesOf, unwrap } from './api'

/** All rigs. */
export function Home() {
  const rigs = useQuery({ queryKey: ['rigs'], queryFn: () => unwrap(client.GET('/api/rigs')), staleTime: 0, refetchInterval: q => (q.state.data?.some(r => r.copies.some(c => c.rate.state === 'counting')) ? 1000 : false) })
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
              <thead><tr><th>Rig</th><th>Whose</th><th>Copy</th><th>How often it works</th></tr></thead>
              <tbody>
                {rigs.data.map(rig => rig.copies.map((copy, i) => (
                  <tr key={`${rig.id}-${copy.number}`}>
                    <td>{i === 0 && <Link to={`/rigs/${rig.id}/program`} style={{ fontSize: 17 }}><b>{rig.name}</b></Link>}</td>
                    <td>{i === 0 && rig.place}</td>
                    <td><Link to={`/rigs/${rig.id}/program?copy=${copy.number}`}>copy {copy.number}</Link>{copy.team && <span className="muted">, {copy.team}</span>}</td>
                    <td>{copy.rate.say}{copy.rate.likely && <span className="fine muted">, {copy.rate.likely}</span>}</td>
                  </tr>
                )))}
              </tbody>
            </table>
          )}
        </main>
      </div>
    </div>
  )
}
