import { settings } from './settings'
import { useEffect, useMemo, useRef, useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { Link, NavLink, Outlet, useLocation, useNavigate, useParams, useSearchParams } from 'react-router'
import { kindWord } from '../shared/CopyKind'
import Button from '@mui/material/Button'
import { client, Problem, unwrap, type Rig } from './api'
import { useConnected, useFollow } from './live'
import { parts } from './parts'
import { RigContext, rigKey, useRigActions } from './rig'
import { FindDialog, KeysDialog } from './dialogs'
import { RoomStrip } from './RoomStrip'
import { SumsKey } from './SumsKey'
import { Moment } from '../shared/Moment'

/** The spine with the eight plates, the header, and the open part. */
export function Shell() {
  const { id = '' } = useParams()
  const [search] = useSearchParams()
  const copy = Number(search.get('copy')) || 1
  const [said, setSaid] = useState('')
  const query = useQuery({
    queryKey: rigKey(id, copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}', { params: { path: { id }, query: { copy } } })),
    // A fallback for when the word that the rate is known got lost with the connection, and until a fault is over.
    refetchInterval: (q) => (q.state.data?.rate.state === 'counting' ? 1500 : q.state.data && q.state.error ? 3000 : false),
  })
  useFollow(id, (what) => setSaid(`Changed in another window: ${what}.`))
  useEffect(() => {
    if (!said) return
    const timer = setTimeout(() => setSaid(''), 8000)
    return () => clearTimeout(timer)
  }, [said])
  // Where the plates stand in a row, the open one is in sight.
  const { pathname } = useLocation()
  useEffect(() => {
    document.querySelector('.plate[aria-current="page"]')?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [pathname])
  const context = useMemo(() => (query.data ? { rig: query.data, say: setSaid } : null), [query.data])

  // A fault of the server's own takes nothing away of what stands on the page.
  const broken = query.error instanceof Problem && query.error.status >= 500 && query.data ? query.error : null
  if (query.error instanceof Problem && !broken) {
    return (
      <main className="page">
        <h1 className="page-title">{query.error.message}</h1>
        <p>
          <Link to="/">Go to the rigs</Link>
        </p>
      </main>
    )
  }
  return (
    <RigContext.Provider value={context}>
      <div className="app">
        <nav className="spine" aria-label="Parts">
          <Link to="/" className="wordmark">
            chiton
          </Link>
          <ul className="plates">
            {parts.map((p, i) => {
              const plate = query.data?.plates.find((x) => x.part === p.part)
              return (
                <li key={p.part}>
                  <NavLink to={{ pathname: `/rigs/${id}/${p.part}`, search: search.toString() }} className="plate" title={plate?.why}>
                    <b>{p.name}</b>
                    <span>
                      {plate?.attention && (
                        <>
                          <span className="warn" aria-hidden="true">
                            !{' '}
                          </span>
                          <span className="hidden-text">needs attention: </span>
                        </>
                      )}
                      {plate?.line ?? ' '}
                    </span>
                    <i aria-hidden="true">{i + 1}</i>
                  </NavLink>
                </li>
              )
            })}
          </ul>
        </nav>
        <div className="desk">
          <RoomStrip />
          {query.data && <Top rig={query.data} />}
          <div className="foot">
            <Connection />
            {broken && (
              <div className="lost-bar" role="alert">
                <b>{broken.message}</b> What is shown here may be old; it is asked for again.
              </div>
            )}
            <div aria-live="polite" className={said ? 'say-bar' : 'hidden-text'}>
              {said}
            </div>
          </div>
          {context && <Outlet />}
          {!context && <Moment />}
        </div>
      </div>
    </RigContext.Provider>
  )
}

function Connection() {
  const connected = useConnected()
  if (connected) return null
  return (
    <div className="lost-bar" role="alert">
      <b>No connection to the bench.</b> What you typed stays here and is kept as soon as it answers again.
    </div>
  )
}

function Top({ rig }: { rig: Rig }) {
  const navigate = useNavigate()
  const location = useLocation()
  const { undo, redo, send } = useRigActions()
  const [finding, setFinding] = useState(false)
  const [keys, setKeys] = useState(false)
  const held = rig.controllerRevision
  const go = useRef(navigate)
  go.current = navigate

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement
      const typing = target.closest('input, textarea, select, [contenteditable="true"], [role="dialog"]') !== null
      const command = e.ctrlKey || e.metaKey
      if (command && e.key.toLowerCase() === 'k') {
        e.preventDefault()
        setFinding(true)
      } else if (command && !typing && e.key.toLowerCase() === 'z') {
        e.preventDefault()
        if (e.shiftKey) redo.mutate()
        else undo.mutate()
      } else if (!typing && !command && !e.altKey && settings().keys && /^[1-8]$/.test(e.key)) {
        const part = parts[Number(e.key) - 1]
        if (part) void go.current({ pathname: `/rigs/${rig.id}/${part.part}`, search: location.search })
      } else if (!typing && settings().keys && e.key === '?') setKeys(true)
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [rig.id, location.search, undo, redo])

  const against = rig.rate.against
  return (
    <header className="top">
      <div>
        <div className="crumb">
          {rig.place && <span className="place">{rig.place}, </span>}
          <label>
            <span className="hidden-text">Copy</span>
            <select
              value={rig.copy}
              onChange={(e) => void navigate({ pathname: location.pathname, search: `?copy=${e.target.value}` })}
              style={{ font: 'inherit', color: 'inherit', background: 'none', border: 0, minHeight: 24 }}
            >
              {rig.copies.map((c) => (
                <option key={c.number} value={c.number}>
                  copy {c.number} of {rig.copies.length}, {kindWord(c)}
                  {c.team ? `, ${c.team}` : ''}
                </option>
              ))}
            </select>
          </label>
        </div>
        <h1>{rig.name}</h1>
      </div>
      <div
        className="rate"
        data-testid="rate"
        data-state={rig.rate.state}
        title={[`${rig.rate.say}. ${rig.rate.likely}.`, against && `${sinceWhat(against)} ${against.rates.say}`].filter(Boolean).join(' ')}
      >
        <RateWords say={rig.rate.say} />
        <small>
          <Likely say={rig.rate.likely.replace(/\.$/, '')} rests={rig.rate.rests} />
          {against && `, ${verdicts[against.rates.verdict]}`}
        </small>
      </div>
      <Button onClick={() => undo.mutate()} disabled={!rig.undo} title={rig.undo ? `Undo: ${rig.undo} (Ctrl+Z)` : 'Nothing to undo'}>
        Undo
      </Button>
      <Button onClick={() => redo.mutate()} disabled={!rig.redo} title={rig.redo ? `Redo: ${rig.redo} (Ctrl+Shift+Z)` : 'Nothing to redo'}>
        Redo
      </Button>
      <Button
        onClick={() => send.mutate()}
        disabled={rig.holdsThis}
        sx={{ minWidth: 84 }}
        title={
          rig.holdsThis
            ? held === rig.revision
              ? 'The controller of this copy holds this revision'
              : `The controller holds revision ${held}; nothing that goes there has changed since`
            : `${rig.kind === 'real' ? 'Say that the controller on the table was given' : 'Put'} revision ${rig.revision} ${rig.kind === 'real' ? '' : 'on the controller of this copy'}. It holds ${held === null ? 'none' : `revision ${held}`}`
        }
      >
        {rig.holdsThis ? 'Sent' : `Send ${rig.revision}`}
      </Button>
      <SumsKey rig={rig.id} copy={rig.copy} />
      <Button onClick={() => setFinding(true)}>
        Find<kbd>Ctrl K</kbd>
      </Button>
      <Button
        onClick={() => setKeys(true)}
        aria-label="Help, keys and settings"
        title="Help, keys and settings (?)"
        sx={{ minWidth: 34, padding: 0 }}
      >
        ?
      </Button>
      {finding && (
        <FindDialog
          rig={rig}
          acts={{ undo: undo.mutate, redo: redo.mutate, send: send.mutate, print: () => window.print(), settings: () => setKeys(true) }}
          onClose={() => setFinding(false)}
        />
      )}
      {keys && <KeysDialog onClose={() => setKeys(false)} />}
    </header>
  )
}

/** "Revision 9: 83 of 100 runs pass" with the count set off. */
/** The ends of the range carry the mark of what they rest on. */
function Likely({ say, rests }: { say: string; rests: string | null | undefined }) {
  const match = rests ? /^(this copy: )(\d+)( to )(\d+)(.*)$/.exec(say) : null
  if (!match) return <>{say}</>
  const end = (n: string) => (
    <span className={`end ${rests}`} title={`${n} in 100, resting on what is ${rests}`}>
      {n}
    </span>
  )
  return (
    <>
      {match[1]}
      {end(match[2]!)}
      {match[3]}
      {end(match[4]!)}
      {match[5]}
    </>
  )
}

const verdicts = { better: 'better', worse: 'worse', same: 'no difference', open: 'not settled' } as const

const sinceWhat = (against: { revision: number; sameRevision: boolean }) =>
  `Against ${against.sameRevision ? 'what was known before' : `revision ${against.revision}`}, on the same luck:`

function RateWords({ say }: { say: string }) {
  const match = /^(.*: )(\d+)( of \d+)(.*)$/.exec(say)
  return match ? (
    <span title={say}>
      <span className="rate-more">{match[1]}</span>
      <b>{match[2]}</b>
      {match[3]}
      <span className="rate-more">{match[4]}</span>
    </span>
  ) : (
    <span>{say}</span>
  )
}
