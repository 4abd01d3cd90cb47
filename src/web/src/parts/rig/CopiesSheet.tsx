import { useEdit } from '../../app/edit'
import { Term } from '../../shared/Term'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { show } from '../../shared/format'

/** The copies held against each other: which one deviates, and in what. */
export function CopiesSheet() {
  const { rig } = useRig()
  const navigate = useNavigate()
  const location = useLocation()
  const [team, setTeam] = useState('')
  const copies = useQuery({
    queryKey: partKey(rig.id, 'copies', 0),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/copies', { params: { path: { id: rig.id } } })),
    refetchInterval: (q) => (q.state.data?.copies.some((c) => c.rate.state === 'counting') ? 1500 : false),
  })
  const add = useEdit({
    call: () => unwrap(client.POST('/api/rigs/{id}/copies', { params: { path: { id: rig.id } }, body: { team, by: tabId } })),
    once: true,
    said: (copy) => `Copy ${copy.number} is added. Its numbers are guesses until they are tried, and it has no readings yet.`,
    done: () => setTeam(''),
  })
  const name = useEdit({
    call: ({ copy, to }: { copy: number; to: string }) =>
      unwrap(client.PUT('/api/rigs/{id}/copies/{copy}', { params: { path: { id: rig.id, copy } }, body: { team: to, by: tabId } })),
    said: null,
  })
  if (copies.isError)
    return (
      <p className="fault" role="alert">
        {sentencesOf(copies.error).join(' ')}
      </p>
    )
  if (!copies.data) return null
  const failed = add.error ?? name.error
  return (
    <section aria-labelledby="copies-title" style={{ marginTop: 22 }}>
      <h2 id="copies-title" className="page-title">
        Copies
      </h2>
      <p className="fine muted">
        Each robot that is built of this rig is a <Term word="copy">copy</Term>.
      </p>
      <p className="lead">
        {copies.data.say.length === 0 ? 'No copy deviates in a number that was measured on it and on another.' : copies.data.say.join(' ')}
      </p>
      <div className="wide" tabIndex={0} role="group" aria-label="Copies side by side">
        <table className="ruled" style={{ width: 'auto' }}>
          <thead>
            <tr>
              <th>Number</th>
              {copies.data.copies.map((c) => (
                <th key={c.number}>
                  <Button
                    variant="text"
                    onClick={() => void navigate({ pathname: location.pathname, search: `?copy=${c.number}` })}
                    aria-current={c.number === rig.copy}
                  >
                    copy {c.number}
                  </Button>
                  <br />
                  <input
                    className="figure"
                    style={{ width: 110 }}
                    aria-label={`Team of copy ${c.number}`}
                    defaultValue={c.team}
                    key={c.team}
                    maxLength={40}
                    onBlur={(e) => {
                      if (e.target.value.trim() !== c.team) name.mutate({ copy: c.number, to: e.target.value })
                    }}
                    onKeyDown={(e) => {
                      if (e.key === 'Enter') e.currentTarget.blur()
                    }}
                  />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr>
              <th scope="row">how often it works</th>
              {copies.data.copies.map((c) => (
                <td key={c.number} className="fine">
                  {c.rate.say.replace(/^Revision \d+:? /, '')}
                </td>
              ))}
            </tr>
            {copies.data.lines.map((l) => (
              <tr key={l.name}>
                <th scope="row">
                  {l.name} <span className="muted">{l.unit}</span>
                </th>
                {l.cells.map((c) => (
                  <td key={c.copy}>
                    {c.value === null ? (
                      <span className="muted">none yet</span>
                    ) : (
                      <span className={`num ${c.kind}`} title={c.source ?? ''}>
                        {show(c.value, 4)}
                      </span>
                    )}
                    {c.value !== null && <span className="hidden-text"> ({c.source})</span>}
                    {c.deviates && <b className="risky"> deviates</b>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <form
        className="row"
        style={{ marginTop: 10 }}
        onSubmit={(e) => {
          e.preventDefault()
          add.mutate()
        }}
      >
        <label className="fine">
          Team of a new copy <input className="figure" value={team} onChange={(e) => setTeam(e.target.value)} maxLength={40} />
        </label>
        <Button type="submit" disabled={add.isPending}>
          Add a copy
        </Button>
        {failed && (
          <span className="fault" role="alert">
            {sentencesOf(failed).join(' ')}
          </span>
        )}
      </form>
    </section>
  )
}
