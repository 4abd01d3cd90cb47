import { useEdit } from '../../app/edit'
import { Term } from '../../shared/Term'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { useLocation, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { CopyKind, kindWord } from '../../shared/CopyKind'
import { partKey, useRig } from '../../app/rig'
import { show } from '../../shared/format'

/** The copies held against each other: which one deviates, and in what. */
export function CopiesSheet() {
  const { rig } = useRig()
  const navigate = useNavigate()
  const location = useLocation()
  const [team, setTeam] = useState('')
  const [kind, setKind] = useState<'real' | 'standIn'>('real')
  const copies = useQuery({
    queryKey: partKey(rig.id, 'copies', 0),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/copies', { params: { path: { id: rig.id } } })),
    refetchInterval: (q) => (q.state.data?.copies.some((c) => c.rate.state === 'counting') ? 1500 : false),
  })
  const add = useEdit({
    call: () => unwrap(client.POST('/api/rigs/{id}/copies', { params: { path: { id: rig.id } }, body: { team, kind, by: tabId } })),
    once: true,
    said: (copy) =>
      `Copy ${copy.number}, ${kindWord(copy)}, is added. Its numbers are guesses until they are tried, and it has no readings yet.`,
    done: () => setTeam(''),
  })
  const name = useEdit({
    call: ({ copy, team: to, unit }: { copy: number; team: string; unit?: string }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/copies/{copy}', {
          params: { path: { id: rig.id, copy } },
          body: { team: to, ...(unit === undefined ? {} : { unit }), by: tabId },
        }),
      ),
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
        Each robot that is built of this rig is a <Term word="copy">copy</Term>: real, on somebody’s table, or a stand-in in the simulated
        controller. Only copies of one kind are judged by each other.
      </p>
      <CopyKind />
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
                  <span className="fine muted">{c.item && kindWord(c.item)}</span>
                  <br />
                  <input
                    className="figure"
                    style={{ width: 110 }}
                    aria-label={`Which one copy ${c.number} is`}
                    placeholder={c.item?.kind === 'real' ? 'table, label' : 'label'}
                    defaultValue={c.item?.unit}
                    key={`unit ${c.item?.unit}`}
                    maxLength={40}
                    onBlur={(e) => {
                      if (e.target.value.trim() !== c.item?.unit) name.mutate({ copy: c.number, team: c.team, unit: e.target.value })
                    }}
                    onKeyDown={(e) => {
                      if (e.key === 'Enter') e.currentTarget.blur()
                    }}
                  />
                  <br />
                  <input
                    className="figure"
                    style={{ width: 110 }}
                    aria-label={`Team of copy ${c.number}`}
                    placeholder="team"
                    defaultValue={c.team}
                    key={c.team}
                    maxLength={40}
                    onBlur={(e) => {
                      if (e.target.value.trim() !== c.team) name.mutate({ copy: c.number, team: e.target.value })
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
        <label className="fine">
          on{' '}
          <select
            className="figure"
            aria-label="What the new copy is"
            value={kind}
            onChange={(e) => setKind(e.target.value as 'real' | 'standIn')}
          >
            <option value="real">a table</option>
            <option value="standIn">the simulated controller</option>
          </select>
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
      <Beside copies={copies.data.copies} />
    </section>
  )
}

/** A real copy beside a stand-in, number by number. */
function Beside({ copies }: { copies: Schemas['CopyState'][] }) {
  const { rig } = useRig()
  const of = (kind: string) => copies.filter((c) => c.item?.kind === kind && !c.item.asksKind).map((c) => c.number)
  const [reals, standIns] = [of('real'), of('standIn')]
  const [real, setReal] = useState<number | null>(null)
  const [standIn, setStandIn] = useState<number | null>(null)
  // The copy that is open is one of the two unless another is picked.
  const open = (all: number[]) => (all.includes(rig.copy) ? rig.copy : all[0])
  const [a, b] = [real ?? open(reals), standIn ?? open(standIns)]
  const beside = useQuery({
    queryKey: [...partKey(rig.id, 'copies', 0), 'beside', a, b],
    queryFn: () =>
      unwrap(client.GET('/api/rigs/{id}/copies/beside', { params: { path: { id: rig.id }, query: { real: a!, standIn: b! } } })),
    enabled: a !== undefined && b !== undefined,
  })
  if (a === undefined || b === undefined) return null
  const pick = (label: string, value: number, all: number[], to: (n: number) => void) => (
    <select className="figure" aria-label={label} value={value} onChange={(e) => to(Number(e.target.value))}>
      {all.map((n) => (
        <option key={n} value={n}>
          copy {n}
        </option>
      ))}
    </select>
  )
  const cell = (q: Schemas['Quantity'] | null | undefined) =>
    q ? (
      <span className="num measured" title={q.source}>
        {show(q.value, 4)}
        <span className="hidden-text"> ({q.source})</span>
        {(q.meanSd ?? 0) > 0 && <span className="muted"> ± {show(2 * (q.meanSd ?? 0), 2)}</span>}
      </span>
    ) : (
      <span className="muted">none yet</span>
    )
  return (
    <section aria-labelledby="beside-title" style={{ marginTop: 18 }}>
      <h3 id="beside-title" className="small-head">
        A real copy beside its stand-in
      </h3>
      <div className="row">
        {pick('Real copy', a, reals, setReal)} beside {pick('Stand-in', b, standIns, setStandIn)}
      </div>
      {beside.data &&
        (beside.data.lines.length === 0 ? (
          <p className="fine muted">Nothing was measured on either yet.</p>
        ) : (
          <div className="wide" tabIndex={0} role="group" aria-label="Real copy and stand-in side by side">
            <table className="ruled" style={{ width: 'auto' }}>
              <thead>
                <tr>
                  <th>Number</th>
                  <th>On the table</th>
                  <th>On the stand-in</th>
                  <th>Difference</th>
                </tr>
              </thead>
              <tbody>
                {beside.data.lines.map((l) => (
                  <tr key={l.name}>
                    <th scope="row">
                      {l.name} <span className="muted">{l.unit}</span>
                    </th>
                    <td>{cell(l.real)}</td>
                    <td>{cell(l.standIn)}</td>
                    <td className={l.differs ? 'risky' : 'fine muted'}>{l.say}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        ))}
    </section>
  )
}
