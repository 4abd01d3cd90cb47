import { useRef, useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { useEdit } from '../../app/edit'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'

/** Reads an SCXML document, shows what it comes to and what would be left out, and adds it once that is agreed to. */
export function BringIn({
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
  const [link, setLink] = useState(false)
  const file = useRef<HTMLInputElement>(null)
  const read = useMutation({
    mutationFn: ({ text, link }: { text: string; link: boolean }) =>
      unwrap(client.POST('/api/rigs/{id}/programs/scxml/read', { params: { path: { id: rig.id } }, body: { source: text, link } })),
  })
  const add = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/programs/scxml', {
          params: { path: { id: rig.id } },
          body: { ...base, source, leaveOut: agreed, link },
        }),
      ),
    done: () => onDone(next),
  })
  const look = async (file: File | undefined) => {
    if (!file) return
    const text = await file.text()
    setSource(text)
    setAgreed(false)
    setLink(false)
    add.reset()
    read.mutate({ text, link: false })
  }
  // While it is read with another answer, what was found stays.
  const last = useRef<Schemas['ReadScxml']>(undefined)
  if (read.data) last.current = read.data
  else if (read.isError) last.current = undefined
  const found = last.current
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
      {found && (
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
          {found.links.length > 0 && (
            <div data-testid="links">
              <label style={{ display: 'block' }}>
                <input
                  type="checkbox"
                  checked={link}
                  onChange={(e) => {
                    setLink(e.target.checked)
                    read.mutate({ text: source, link: e.target.checked })
                  }}
                />{' '}
                {found.links.length === 1 ? 'One event is' : `${found.links.length} events are`} called like something of this rig. Hear{' '}
                {found.links.length === 1 ? 'it' : 'them'} from there:
              </label>
              <ul className="fine" style={{ margin: '4px 0', paddingLeft: 18 }}>
                {found.links.map((l) => (
                  <li key={l.event}>
                    “{l.event}” is {l.trigger}
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
          <Button
            disabled={add.isPending || read.isPending || (found.left.length > 0 && !agreed)}
            onClick={() => add.mutate()}
          >{`Add ${found.name}`}</Button>
        </>
      )}
    </section>
  )
}
