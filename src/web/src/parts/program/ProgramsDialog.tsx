import { useEdit } from '../../app/edit'
import { useRef, useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { client, sentencesOf, tabId, unwrap, type Program, type Schemas } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'

/** The programs of the rig: where each is, which run, and how long their messages take. */
export function ProgramsDialog({ program, onClose, onOpen }: { program: Program; onClose: () => void; onOpen: (index: number) => void }) {
  const { rig } = useRig()
  const [name, setName] = useState('')
  const [delay, setDelay] = useState(program.messageDelay ? String(program.messageDelay.value) : '')
  const [leaving, setLeaving] = useState<number | null>(null)
  const base = { baseRevision: rig.revision, copy: rig.copy, by: tabId }
  const edit = useEdit({
    call: (call: () => Promise<Schemas['Edited']>) => call(),
    done: () => setLeaving(null),
  })
  const place = (p: Program['programs'][number], runsOn: string | null, onHost: boolean, runs: boolean) =>
    edit.mutate(() =>
      unwrap(
        client.PUT('/api/rigs/{id}/programs/{index}', {
          params: { path: { id: rig.id, index: p.index } },
          body: { ...base, runsOn, onHost, runs },
        }),
      ),
    )
  const typed = delay.trim().replace(',', '.')
  const ms = typed === '' ? null : Number(typed)
  return (
    <Dialog open onClose={onClose} aria-labelledby="programs-title" fullWidth maxWidth="md">
      <DialogTitle id="programs-title" sx={{ fontSize: 17, pb: 1 }}>
        Programs of this rig
      </DialogTitle>
      <DialogContent>
        <p className="fine muted">
          A controller may store several programs and runs one of them. A host commands the controllers over the link; while its program
          runs, theirs are stored.
        </p>
        {program.problems.map((p, i) => (
          <p key={i} className="risky fine">
            {p}
          </p>
        ))}
        {edit.isError && <Faults sentences={sentencesOf(edit.error)} />}
        <div className="wide">
          <table className="ruled" data-testid="programs">
            <thead>
              <tr>
                <th>Program</th>
                <th>On</th>
                <th>Runs</th>
                <th>
                  <span className="hidden-text">More</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {program.programs.map((p) => (
                <tr key={p.index}>
                  <td>
                    <button
                      type="button"
                      className="link"
                      onClick={() => {
                        onOpen(p.index)
                        onClose()
                      }}
                    >
                      {p.name}
                    </button>
                    {p.faults > 0 && (
                      <span className="fine stops">
                        {' '}
                        {p.faults} {p.faults === 1 ? 'fault' : 'faults'}
                      </span>
                    )}
                  </td>
                  <td>
                    <select
                      className="figure"
                      aria-label={`Where ${p.name} is`}
                      value={p.onHost ? '~host' : (p.place ?? '')}
                      onChange={(e) =>
                        place(p, e.target.value === '~host' ? null : e.target.value || null, e.target.value === '~host', p.runs)
                      }
                    >
                      {program.places.length === 0 && <option value="">the controller</option>}
                      {program.places.map((c) => (
                        <option key={c}>{c}</option>
                      ))}
                      <option value="~host">a host</option>
                    </select>
                  </td>
                  <td>
                    <label className="fine">
                      <input
                        type="checkbox"
                        checked={p.runs}
                        aria-label={`${p.name} runs`}
                        onChange={(e) => place(p, p.onHost ? null : p.place, p.onHost, e.target.checked)}
                      />{' '}
                      {p.runs ? 'runs' : 'stored'}
                    </label>
                  </td>
                  <td>
                    {leaving === p.index ? (
                      <span className="row">
                        <Button
                          onClick={() =>
                            edit.mutate(() =>
                              unwrap(
                                client.DELETE('/api/rigs/{id}/programs/{index}', {
                                  params: { path: { id: rig.id, index: p.index }, query: base },
                                }),
                              ),
                            )
                          }
                        >{`Take out ${p.name}`}</Button>
                        <Button variant="text" onClick={() => setLeaving(null)}>
                          Keep it
                        </Button>
                      </span>
                    ) : (
                      program.programs.length > 1 && (
                        <Button variant="text" aria-label={`Take out ${p.name}`} onClick={() => setLeaving(p.index)}>
                          Take out
                        </Button>
                      )
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <form
          className="row"
          style={{ marginTop: 12 }}
          onSubmit={(e) => {
            e.preventDefault()
            if (name.trim())
              edit.mutate(
                () =>
                  unwrap(
                    client.POST('/api/rigs/{id}/programs', {
                      params: { path: { id: rig.id } },
                      body: { ...base, name: name.trim(), script: null, runsOn: null, onHost: false },
                    }),
                  ),
                { onSuccess: () => setName('') },
              )
          }}
        >
          <label>
            Another program, named{' '}
            <input className="figure" value={name} onChange={(e) => setName(e.target.value)} aria-label="Name of the new program" />
          </label>
          <Button type="submit" disabled={name.trim() === '' || edit.isPending}>
            Add it
          </Button>
        </form>
        <form
          className="row"
          style={{ marginTop: 8 }}
          onSubmit={(e) => {
            e.preventDefault()
            edit.mutate(() =>
              unwrap(
                client.PUT('/api/rigs/{id}/programs/delay', { params: { path: { id: rig.id } }, body: { ...base, ms, kind: 'guessed' } }),
              ),
            )
          }}
        >
          <label>
            A message takes{' '}
            <input
              className="figure mono"
              style={{ width: 80 }}
              value={delay}
              onChange={(e) => setDelay(e.target.value)}
              aria-label="How long a message takes, ms"
              aria-invalid={ms !== null && !(ms >= 0 && ms <= 60000)}
            />{' '}
            ms
          </label>
          <Button type="submit" disabled={edit.isPending || (ms !== null && !(ms >= 0 && ms <= 60000))}>
            Keep it
          </Button>
          <span className="fine muted">
            {program.messageDelay ? `${program.messageDelay.kind}, ${program.messageDelay.source}` : 'not said: messages arrive at once'}
          </span>
        </form>
        <BringIn
          base={base}
          onDone={(index) => {
            onOpen(index)
            onClose()
          }}
          next={program.programs.length}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Done</Button>
      </DialogActions>
    </Dialog>
  )
}

/** Reads an SCXML document, shows what it comes to and what would be left out, and adds it once that is agreed to. */
function BringIn({
  base,
  onDone,
  next,
}: {
  base: { baseRevision: number; copy: number; by: string }
  onDone: (index: number) => void
  next: number
}) {
  const { rig } = useRig()
  const [source, setSource] = useState('')
  const [agreed, setAgreed] = useState(false)
  const file = useRef<HTMLInputElement>(null)
  const read = useMutation({
    mutationFn: (text: string) =>
      unwrap(client.POST('/api/rigs/{id}/programs/scxml/read', { params: { path: { id: rig.id } }, body: { source: text } })),
  })
  const add = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/programs/scxml', { params: { path: { id: rig.id } }, body: { ...base, source, leaveOut: agreed } }),
      ),
    done: () => onDone(next),
  })
  const look = async (file: File | undefined) => {
    if (!file) return
    const text = await file.text()
    setSource(text)
    setAgreed(false)
    add.reset()
    read.mutate(text)
  }
  const found = read.data
  return (
    <section style={{ marginTop: 14 }}>
      <p className="row" style={{ margin: 0 }}>
        <Button onClick={() => file.current?.click()}>Bring in an SCXML file</Button>
        <span className="fine muted">You see its sentences, and what has none here, before anything is added.</span>
      </p>
      <input
        ref={file}
        hidden
        type="file"
        accept=".scxml,.xml,application/scxml+xml,text/xml"
        aria-label="SCXML file"
        onChange={(e) => {
          void look(e.target.files?.[0])
          e.target.value = ''
        }}
      />
      {read.isPending && <p className="muted fine">Reading it…</p>}
      {read.isError && <Faults sentences={sentencesOf(read.error)} />}
      {found && !read.isPending && (
        <>
          {found.left.length > 0 && (
            <div data-testid="left-out">
              <p className="risky">
                {found.left.length === 1
                  ? 'One thing in the file has no sentence here'
                  : `${found.left.length} things in the file have no sentence here`}
                . {found.left.length === 1 ? 'It' : 'They'} would be left out:
              </p>
              <ul
                className="fine"
                style={{ margin: '4px 0', paddingLeft: 18, maxHeight: 150, overflow: 'auto' }}
                tabIndex={0}
                aria-label="What would be left out"
              >
                {found.left.map((f, i) => (
                  <li key={i}>
                    Line {f.line}: {f.say}
                  </li>
                ))}
              </ul>
            </div>
          )}
          {found.faults.length > 0 && (
            <p className="fine risky">
              {found.faults.length === 1 ? 'One line does' : `${found.faults.length} lines do`} not fit this rig yet, such as line{' '}
              {found.faults[0]!.line}: {found.faults[0]!.message} You can mend {found.faults.length === 1 ? 'it' : 'them'} in the sheet.
            </p>
          )}
          <pre
            tabIndex={0}
            aria-label="The program it becomes"
            data-testid="becomes"
            style={{
              font: '13px/1.5 var(--mono)',
              whiteSpace: 'pre-wrap',
              margin: '6px 0',
              padding: '8px 10px',
              border: '1px solid var(--line)',
              borderRadius: 6,
              maxHeight: 240,
              overflow: 'auto',
            }}
          >
            {found.script}
          </pre>
          {found.left.length > 0 && (
            <label style={{ display: 'block' }}>
              <input type="checkbox" checked={agreed} onChange={(e) => setAgreed(e.target.checked)} /> Leave{' '}
              {found.left.length === 1 ? 'it' : 'them'} out
            </label>
          )}
          {add.isError && <Faults sentences={sentencesOf(add.error)} />}
          <Button disabled={add.isPending || (found.left.length > 0 && !agreed)} onClick={() => add.mutate()}>{`Add ${found.name}`}</Button>
        </>
      )}
    </section>
  )
}
