import { useQuery } from '@tanstack/react-query'
import { Link, useParams, useSearchParams } from 'react-router'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { ClassFrame } from './ClassFrame'

const words: Record<string, string> = { added: 'only here', takenOut: 'only there', changed: 'different', moved: 'in another place' }

/** Two teams' programs held against each other, or one against what was handed out. */
export default function ComparePage() {
  const { id = '' } = useParams()
  const key = Number(id)
  const [search, setSearch] = useSearchParams()
  const view = useQuery({
    queryKey: ['room', 'class', key],
    queryFn: () => unwrap(client.GET('/api/classes/{id}', { params: { path: { id: key } } })),
    staleTime: 0,
    enabled: Number.isInteger(key),
  })
  const rigs = (view.data?.teams ?? []).flatMap((t) => t.rigs.map((r) => ({ id: r.id, name: `${t.name}: ${r.name}`, origin: r.origin })))
  const one = search.get('one') ?? rigs[0]?.id ?? ''
  const two = search.get('two') ?? (search.has('one') ? '' : (rigs[1]?.id ?? ''))
  const compared = useQuery({
    queryKey: ['room', 'compare', key, one, two],
    queryFn: () => unwrap(client.GET('/api/classes/{id}/compare', { params: { path: { id: key }, query: { one, two } } })),
    enabled: one !== '' && one !== two,
    retry: false,
  })
  const pick = (name: 'one' | 'two', value: string) => setSearch({ one, two, [name]: value })
  const choice = (name: 'one' | 'two', label: string, value: string) => (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(e) => pick(name, e.target.value)}
      slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
      style={{ minWidth: 260 }}
    >
      {name === 'two' && <option value="">what was handed out</option>}
      {rigs.map((r) => (
        <option key={r.id} value={r.id}>
          {r.name}
        </option>
      ))}
    </TextField>
  )
  return (
    <ClassFrame>
      <main className="page">
        <p className="fine no-print">
          <Link to={`/class/${key}`}>{view.data?.name ?? 'Class'}</Link>
        </p>
        <h1 className="page-title">Two programs side by side</h1>
        {view.isError && <Faults sentences={sentencesOf(view.error)} />}
        {view.data && rigs.length === 0 && <p className="lead">Nothing has been handed out yet, so there is nothing to compare.</p>}
        {rigs.length > 0 && (
          <div className="row" style={{ marginBottom: 14 }}>
            {choice('one', 'Here', one)}
            {choice('two', 'There', two)}
          </div>
        )}
        {one !== '' && one === two && <p className="lead">Both are the same rig. Choose another one.</p>}
        {compared.isError && <Faults sentences={sentencesOf(compared.error)} />}
        {compared.data?.changes.length === 0 && <p className="lead">No sentence differs.</p>}
        {(compared.data?.changes.length ?? 0) > 0 && (
          <div className="wide" tabIndex={0} role="region" aria-label="What differs">
            <table className="ruled">
              <thead>
                <tr>
                  <th scope="col">Where</th>
                  <th scope="col">Here</th>
                  <th scope="col">There</th>
                  <th scope="col">In a word</th>
                </tr>
              </thead>
              <tbody>
                {compared.data?.changes.map((c, i) => (
                  <tr key={i}>
                    <th scope="row">{c.where}</th>
                    <td>{c.after ?? <span className="muted">nothing</span>}</td>
                    <td>{c.before ?? <span className="muted">nothing</span>}</td>
                    <td>{words[c.kind] ?? c.kind}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        )}
      </main>
    </ClassFrame>
  )
}
