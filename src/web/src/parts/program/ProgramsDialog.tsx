import { useEdit } from '../../app/edit'
import { useState } from 'react'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { client, sentencesOf, tabId, unwrap, type Program, type Schemas } from '../../app/api'
import { useIsTeam } from '../../app/me'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { BringIn } from './BringIn'
import { AlsoOn, PlaceValues } from './PlaceValues'

/** The programs of the rig: where each is, which run, and how long their messages take. */
export function ProgramsDialog({ program, onClose, onOpen }: { program: Program; onClose: () => void; onOpen: (index: number) => void }) {
  const { rig } = useRig()
  const team = useIsTeam()
  const [name, setName] = useState('')
  const [delay, setDelay] = useState(program.messageDelay ? String(program.messageDelay.value) : '')
  const [leaving, setLeaving] = useState<number | null>(null)
  const base = { baseRevision: rig.revision, copy: rig.copy, by: tabId }
  const edit = useEdit({
    call: (call: () => Promise<Schemas['Edited']>) => call(),
    done: () => setLeaving(null),
  })
  const place = (p: Program['programs'][number], runsOn: string | null, onHost: boolean, runs: boolean, values?: Schemas['PlaceValue'][]) =>
    edit.mutate(() =>
      unwrap(
        client.PUT('/api/rigs/{id}/programs/{index}', {
          params: { path: { id: rig.id, index: p.index } },
          body: { ...base, runsOn, onHost, runs, values: values ?? null },
        }),
      ),
    )
  const alsoOn = (p: Program['programs'][number], runsOn: string) =>
    edit.mutate(() =>
      unwrap(
        client.POST('/api/rigs/{id}/programs/{index}/places', {
          params: { path: { id: rig.id, index: p.index } },
          body: { ...base, runsOn, values: [...p.values] },
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
                    {p.alike > 1 && (
                      <span className="fine muted">
                        {' '}
                        the text {p.text}, in {p.alike} places
                      </span>
                    )}
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
                    <PlaceValues program={p} onKeep={(values) => place(p, p.onHost ? null : p.place, p.onHost, p.runs, values)} />
                    <AlsoOn program={p} all={program} onPlace={(c) => alsoOn(p, c)} />
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
        {!team && (
          <BringIn
            base={base}
            onDone={(index) => {
              onOpen(index)
              onClose()
            }}
            next={program.programs.length}
          />
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Done</Button>
      </DialogActions>
    </Dialog>
  )
}
