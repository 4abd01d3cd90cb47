import { Term } from '../shared/Term'
import { useRef, useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Schemas } from './api'
import { useMe } from './me'
import { RoomStrip } from './RoomStrip'
import { SumsKey } from './SumsKey'
import { Faults } from '../shared/Faults'

type Asked = { kind: 'new'; template: string } | { kind: 'copy'; rig: Schemas['RigItem'] } | null

/** All rigs, with the state of their eight parts. */
/** A name that another rig has. */
class Taken extends Error {
  constructor(
    name: string,
    readonly instead: string,
  ) {
    super(`There already is a rig “${name}”. Give this one another name, such as “${instead}”.`)
  }
}

export default function Home() {
  const team = useMe().data?.team
  const queries = useQueryClient()
  const navigate = useNavigate()
  const file = useRef<HTMLInputElement>(null)
  const [asked, setAsked] = useState<Asked>(null)
  const [name, setName] = useState('')
  const [place, setPlace] = useState('')
  const [away, setAway] = useState(false)
  const [said, setSaid] = useState('')
  const [taken, setTaken] = useState<{ file: object; name: string; was: string } | null>(null)
  const rigs = useQuery({
    queryKey: ['rigs'],
    queryFn: () => unwrap(client.GET('/api/rigs')),
    staleTime: 0,
    refetchInterval: (q) => (q.state.data?.some((r) => r.copies.some((c) => c.rate.state === 'counting')) ? 1000 : false),
  })
  const templates = useQuery({
    queryKey: ['templates'],
    staleTime: Infinity,
    enabled: asked?.kind === 'new',
    queryFn: () => unwrap(client.GET('/api/rigs/templates')),
  })
  const blank = { format: null, version: null, design: null, copies: null, template: null, name: null, place: null }
  // Two rigs of one name cannot be told apart by people: the second one asks for another.
  const ask = async (called: string) => {
    const answer = await unwrap(client.GET('/api/rigs/name', { params: { query: { name: called } } }))
    if (!answer.free) throw new Taken(answer.name, answer.instead)
  }
  const make = useMutation({
    mutationFn: async () => {
      if (name.trim() !== '') await ask(name)
      return asked?.kind === 'copy'
        ? unwrap(client.POST('/api/rigs/{id}/duplicate', { params: { path: { id: asked.rig.id } }, body: { name } }))
        : unwrap(client.POST('/api/rigs', { body: { ...blank, template: asked?.kind === 'new' ? asked.template : null, name, place } }))
    },
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['rigs'] })
      void navigate(`/rigs/${made.id}/rig/describe`)
    },
  })
  const take = useMutation({
    mutationFn: async (from: File | { file: object; name: string }) => {
      if (!(from instanceof File)) {
        await ask(from.name)
        return unwrap(client.POST('/api/rigs', { body: { ...blank, ...from.file, name: from.name } }))
      }
      const f = from
      if (f.size > 4 * 1024 * 1024) throw new Error(`“${f.name}” is larger than 4 MB.`)
      let parsed: unknown
      try {
        parsed = JSON.parse(await f.text())
      } catch {
        throw new Error(`“${f.name}” is not JSON. A rig's file is what “Export” gives.`)
      }
      const called = (parsed as { design?: { name?: unknown } } | null)?.design?.name
      if (typeof called === 'string' && called.trim() !== '' && called.trim().length <= 60)
        await ask(called).catch((e: unknown) => {
          if (e instanceof Taken) setTaken({ file: parsed as object, name: e.instead, was: called.trim() })
          throw e
        })
      return unwrap(client.POST('/api/rigs', { body: { ...blank, ...(parsed as object) } }))
    },
    onSuccess: async (made) => {
      setTaken(null)
      await queries.invalidateQueries({ queryKey: ['rigs'] })
      setSaid(`${made.name} was taken in.`)
    },
  })
  const archive = useMutation({
    mutationFn: ({ id, archived }: { id: string; archived: boolean }) =>
      unwrap(client.PUT('/api/rigs/{id}/archived', { params: { path: { id } }, body: { archived } })),
    onSuccess: async () => queries.invalidateQueries({ queryKey: ['rigs'] }),
  })
  const shown = (rigs.data ?? []).filter((r) => r.archived === away)
  const put = (rigs.data ?? []).filter((r) => r.archived).length
  const takeError =
    take.error && !(take.error instanceof Taken && taken === null)
      ? take.error instanceof Taken || (take.error instanceof Error && take.error.constructor === Error)
        ? [take.error.message]
        : sentencesOf(take.error)
      : []
  return (
    <div className="app">
      <header className="spine">
        <Link to="/" className="wordmark">
          chiton
        </Link>
      </header>
      <div className="desk">
        <RoomStrip />
        <main className="page">
          <h1 className="page-title">{team ? `Rigs of ${team.name}` : 'Rigs'}</h1>
          <p className="lead">
            Open a rig to see how often its machine works, why it fails, and which number to mend. A rig may have several{' '}
            <Term word="copy">copies</Term>; its eight <Term word="plate">plates</Term> say how each part of the work stands.
          </p>
          <div className="row" style={{ marginBottom: 10 }}>
            <Button
              variant={team ? 'outlined' : 'contained'}
              onClick={() => {
                make.reset()
                setName('')
                setAsked({ kind: 'new', template: 'two-wheel drive' })
              }}
            >
              New rig
            </Button>
            {!team && (
              <>
                <Button onClick={() => file.current?.click()}>Take in a file</Button>
                <Button component={Link} to="/class">
                  Class
                </Button>
              </>
            )}
            <input
              ref={file}
              type="file"
              accept=".json,application/json"
              hidden
              aria-label="Rig file"
              onChange={(e) => {
                const f = e.target.files?.[0]
                if (f) take.mutate(f)
                e.target.value = ''
              }}
            />
            {(put > 0 || away) && (
              <Button variant="text" aria-pressed={away} onClick={() => setAway(!away)}>
                {away ? 'Back to the rigs in use' : `${put} put away`}
              </Button>
            )}
            <span aria-live="polite" className="fine">
              {said}
            </span>
            <span className="push" />
            <SumsKey rig={null} copy={1} />
          </div>
          {takeError.length > 0 && <Faults sentences={takeError.slice(0, 12)} />}
          {taken && (
            <form
              className="row"
              style={{ marginBottom: 10 }}
              onSubmit={(e) => {
                e.preventDefault()
                take.mutate({ file: taken.file, name: taken.name })
              }}
            >
              <label>
                Call this one{' '}
                <input
                  className="figure"
                  autoFocus
                  style={{ width: 260 }}
                  maxLength={60}
                  value={taken.name}
                  aria-label={`Name of the rig instead of ${taken.was}`}
                  onChange={(e) => setTaken({ ...taken, name: e.target.value })}
                />
              </label>
              <Button type="submit" disabled={taken.name.trim() === '' || take.isPending}>
                Take it in
              </Button>
              <Button
                variant="text"
                onClick={() => {
                  setTaken(null)
                  take.reset()
                }}
              >
                Leave it
              </Button>
            </form>
          )}
          {rigs.isError && (
            <p className="fault" role="alert">
              {sentencesOf(rigs.error).join(' ')}
            </p>
          )}
          {rigs.data?.length === 0 && (
            <p className="lead">
              {team
                ? 'Nothing has been handed out to you yet. It stands here as soon as it is.'
                : 'There is no rig here yet. Make one, take one in from a file, or start with the demo: stop the program and type '}
              {!team && (
                <>
                  <span className="mono">./dev demo</span>.
                </>
              )}
            </p>
          )}
          {rigs.data && rigs.data.length > 0 && shown.length === 0 && (
            <p className="lead">{away ? 'Nothing is put away.' : 'Every rig is put away.'}</p>
          )}
          {shown.map((rig) => (
            <section key={rig.id} className="rig-row" aria-label={rig.name}>
              <div>
                <Link to={`/rigs/${rig.id}/${rig.plates[3]!.line === 'nothing written yet' ? 'rig' : 'program'}`} style={{ fontSize: 17 }}>
                  <b>{rig.name}</b>
                </Link>
                <span className="fine muted" style={{ display: 'block' }}>
                  {rig.place}
                </span>
              </div>
              <div>
                <ul className="mini-plates">
                  {rig.plates.map((p) => (
                    <li key={p.part}>
                      <Link to={`/rigs/${rig.id}/${p.part}`}>
                        <b className={p.attention ? 'risky' : ''}>
                          {p.attention && <span aria-hidden="true">! </span>}
                          {p.part.charAt(0).toUpperCase() + p.part.slice(1)}
                        </b>{' '}
                        <span className="muted">{p.line}</span>
                      </Link>
                    </li>
                  ))}
                </ul>
                {rig.copies.every((c) => c.rate.state === 'none') ? (
                  <p className="fine muted">
                    {rig.copies.map((c) => (
                      <span key={c.number} style={{ marginRight: 12 }}>
                        <Link to={`/rigs/${rig.id}/rig?copy=${c.number}`}>copy {c.number}</Link>
                        {c.team && `, ${c.team}`}
                      </span>
                    ))}
                  </p>
                ) : (
                  rig.copies.map((copy) => (
                    <p key={copy.number} className="fine">
                      <Link to={`/rigs/${rig.id}/program?copy=${copy.number}`}>copy {copy.number}</Link>
                      {copy.team && <span className="muted">, {copy.team}</span>}: {copy.rate.say}
                      {copy.rate.likely && <span className="muted">, {copy.rate.likely}</span>}
                    </p>
                  ))
                )}
              </div>
              <div className="row" style={{ gap: 2 }}>
                {!team && (
                  <Button
                    variant="text"
                    onClick={() => {
                      make.reset()
                      setName(`${rig.name} copy`)
                      setAsked({ kind: 'copy', rig })
                    }}
                    aria-label={`Copy ${rig.name}`}
                  >
                    Copy
                  </Button>
                )}
                <Button variant="text" component="a" href={`/api/rigs/${rig.id}/export`} aria-label={`Export ${rig.name}`}>
                  Export
                </Button>
                {!team && (
                  <Button
                    variant="text"
                    onClick={() => archive.mutate({ id: rig.id, archived: !rig.archived })}
                    aria-label={`${rig.archived ? 'Take out' : 'Put away'} ${rig.name}`}
                  >
                    {rig.archived ? 'Take out' : 'Put away'}
                  </Button>
                )}
              </div>
            </section>
          ))}
        </main>
      </div>
      {asked && (
        <Dialog open onClose={() => setAsked(null)} aria-labelledby="new-title" fullWidth maxWidth="sm">
          <form
            onSubmit={(e) => {
              e.preventDefault()
              make.mutate()
            }}
          >
            <DialogTitle id="new-title" sx={{ fontSize: 17 }}>
              {asked.kind === 'copy' ? `A copy of ${asked.rig.name}` : 'A new rig'}
            </DialogTitle>
            <DialogContent>
              {asked.kind === 'copy' && (
                <p className="fine muted" style={{ marginBottom: 12 }}>
                  Design, copies and readings go along; what is changed there changes nothing here.
                </p>
              )}
              <TextField
                autoFocus
                fullWidth
                size="small"
                label="Name"
                value={name}
                onChange={(e) => setName(e.target.value)}
                sx={{ mt: 1, mb: 2 }}
                slotProps={{ htmlInput: { maxLength: 60 } }}
              />
              {asked.kind === 'new' && (
                <>
                  <TextField
                    fullWidth
                    size="small"
                    label="Whose"
                    value={place}
                    onChange={(e) => setPlace(e.target.value)}
                    sx={{ mb: 2 }}
                    slotProps={{ htmlInput: { maxLength: 80 } }}
                  />
                  <fieldset style={{ border: 0, padding: 0, margin: 0 }}>
                    <legend className="small-head">Start from</legend>
                    {(templates.data?.rigs ?? []).map((t) => (
                      <label key={t.template} className="row" style={{ minHeight: 30, flexWrap: 'nowrap', alignItems: 'baseline' }}>
                        <input
                          type="radio"
                          name="template"
                          value={t.template}
                          checked={asked.template === t.template}
                          onChange={() => setAsked({ kind: 'new', template: t.template })}
                        />
                        <span>
                          <b>{t.template}</b> <span className="fine muted">{t.about}</span>
                        </span>
                      </label>
                    ))}
                  </fieldset>
                </>
              )}
              {make.isError && <Faults sentences={make.error instanceof Taken ? [make.error.message] : sentencesOf(make.error)} />}
            </DialogContent>
            <DialogActions>
              <Button onClick={() => setAsked(null)}>Leave</Button>
              <Button type="submit" variant="contained" disabled={make.isPending}>
                {asked.kind === 'copy' ? 'Copy it' : 'Make it'}
              </Button>
            </DialogActions>
          </form>
        </Dialog>
      )}
    </div>
  )
}
