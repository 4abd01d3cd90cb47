import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import { Link, useLocation, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { partKey, useProgram, useProgramIndex, useRig } from '../../app/rig'
import { Views } from './Views'
import { Moment } from '../../shared/Moment'

type File = Schemas['BoardFileView']

const languages = [
  ['cpp', 'C++17'],
  ['python', 'Python 3'],
] as const

const size = (bytes: number) => (bytes < 10_000 ? `${bytes} bytes` : `${Math.round(bytes / 1000)} kB`)

/** The programs as code for real boards: what it is made of, what it rests on, and what no board can know. */
export default function OutsidePage() {
  const { rig } = useRig()
  const { search } = useLocation()
  const [params, setParams] = useSearchParams()
  const program = useProgram().data
  const which = useProgramIndex()
  const [open, setOpen] = useState<string | null>(null)
  const language = params.get('language') === 'python' ? 'python' : 'cpp'
  const running = program?.programs.filter((p) => p.runs).length ?? 0
  const all = running > 1 && params.get('all') === 'yes'
  const query = { copy: rig.copy, program: which, all, language }
  const code = useQuery({
    queryKey: [...partKey(rig.id, 'board', rig.copy), rig.revision, which ?? null, all, language],
    enabled: program !== undefined,
    retry: false,
    placeholderData: (before) => before,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/program/board', { params: { path: { id: rig.id }, query } })),
  })
  const set = (name: string, value: string | null) => {
    const next = new URLSearchParams(params)
    if (value === null) next.delete(name)
    else next.set(name, value)
    setParams(next, { replace: true })
    setOpen(null)
  }
  if (!program) return <Moment />
  const taken = code.isError ? undefined : code.data
  const address = new URLSearchParams({ copy: String(rig.copy), language, all: String(all) })
  if (which !== undefined) address.set('program', String(which))
  return (
    <main>
      <div className="page taken">
        <Views at="outside" />
        <h1 className="small-head">Take it out</h1>
        <p style={{ marginTop: 0 }}>
          Code for any board, with what is known of copy {rig.copy} baked in. Given the same readings it does the same at the same moment as
          here. Five functions are left to you: read a sensor, act, tell the time, send, receive.
        </p>
        <div className="row" style={{ flexWrap: 'wrap', gap: 16, alignItems: 'center', margin: '14px 0 20px' }}>
          <label className="fine">
            Language{' '}
            <select className="figure" value={language} onChange={(e) => set('language', e.target.value === 'cpp' ? null : e.target.value)}>
              {languages.map(([id, word]) => (
                <option key={id} value={id}>
                  {word}
                </option>
              ))}
            </select>
          </label>
          {running > 1 && (
            <label className="fine">
              What goes on the board{' '}
              <select className="figure" value={all ? 'yes' : 'no'} onChange={(e) => set('all', e.target.value === 'yes' ? 'yes' : null)}>
                <option value="no">this program alone</option>
                <option value="yes">all {running} programs that run</option>
              </select>
            </label>
          )}
          {taken && (
            <Button variant="contained" component="a" href={`/api/rigs/${rig.id}/program/board.zip?${address}`} download>
              Download all files
            </Button>
          )}
        </div>
        {taken?.sizes && (
          <p data-testid="sizes">
            On a board of 32 bits, counted: <span className="num calculated">{taken.sizes.tableBytes} bytes</span> of tables that never
            change, <span className="num calculated">{taken.sizes.stateBytes} bytes</span> of state, at most{' '}
            <span className="num calculated">{taken.sizes.stackBytes} bytes</span> of stack; and some 6 to 12 kB of code for a program, by
            what it uses.
          </p>
        )}
        {code.isError && (
          <p className="fault" role="alert">
            {sentencesOf(code.error).join(' ')} <Link to={{ pathname: `/rigs/${rig.id}/program/script`, search }}>Open the script.</Link>
          </p>
        )}
        {!taken && !code.isError && <p className="muted">One moment…</p>}
        {taken && (
          <>
            <section aria-labelledby="cannot">
              <h2 className="small-head" id="cannot">
                What a board cannot know or do by itself
              </h2>
              {taken.cannot.length === 0 ? (
                <p className="muted">Nothing is missing: readings and the time are enough.</p>
              ) : (
                <ul style={{ marginTop: 0 }}>
                  {taken.cannot.map((c) => (
                    <li key={c}>{c}</li>
                  ))}
                </ul>
              )}
            </section>
            <section aria-labelledby="baked">
              <h2 className="small-head" id="baked">
                Numbers that are baked in
              </h2>
              {taken.numbers.length === 0 ? (
                <p className="muted">None: no number of this copy is used.</p>
              ) : (
                <div className="wide" tabIndex={0} role="region" aria-label="Numbers with where they come from">
                  <table className="ruled">
                    <thead>
                      <tr>
                        <th>Of</th>
                        <th>Number</th>
                        <th>Where it comes from</th>
                      </tr>
                    </thead>
                    <tbody>
                      {taken.numbers.map((n) => (
                        <tr key={`${n.of} ${n.value} ${n.source}`}>
                          <td>{n.of}</td>
                          <td>
                            <span className={`num ${n.came}`}>{n.value}</span>
                          </td>
                          <td>
                            {n.came}: {n.source}
                          </td>
                        </tr>
                      ))}
                    </tbody>
                  </table>
                </div>
              )}
            </section>
            <section aria-labelledby="names">
              <h2 className="small-head" id="names">
                Names in the code
              </h2>
              <div className="wide" tabIndex={0} role="region" aria-label="Names with what they are">
                <table className="ruled">
                  <thead>
                    <tr>
                      <th>In the code</th>
                      <th>Number</th>
                      <th>Here</th>
                      <th>What it is</th>
                    </tr>
                  </thead>
                  <tbody>
                    {taken.names.map((n) => (
                      <tr key={n.code}>
                        <td>
                          <code>{n.code}</code>
                        </td>
                        <td>{n.number}</td>
                        <td>{n.name}</td>
                        <td>{n.is}</td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            </section>
            <section aria-labelledby="files">
              <h2 className="small-head" id="files">
                Files
              </h2>
              <p style={{ marginTop: 0 }}>
                The download has a trace of one bench run besides, and what the programs do with it: the same must come out where you build
                it.
              </p>
              {taken.files.map((f) => (
                <OneFile key={f.name} file={f} open={open === f.name} onOpen={() => setOpen(open === f.name ? null : f.name)} />
              ))}
            </section>
          </>
        )}
      </div>
    </main>
  )
}

function OneFile({ file, open, onOpen }: { file: File; open: boolean; onOpen: () => void }) {
  return (
    <div>
      <Button variant="text" onClick={onOpen} aria-expanded={open}>
        {open ? 'Close' : 'Read'} {file.name}
      </Button>{' '}
      <span className="fine muted">{size(file.bytes)}</span>
      {open && (
        <pre className="code-text" tabIndex={0} role="region" aria-label={file.name}>
          {file.text}
        </pre>
      )}
    </div>
  )
}
