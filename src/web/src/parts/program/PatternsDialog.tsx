import { useEffect, useState } from 'react'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import { client, Problem, sentencesOf, unwrap, type Program, type Schemas } from '../../app/api'
import { useIsTeam } from '../../app/me'
import { partKey, useProgramIndex, useRig } from '../../app/rig'
import { blocksOf } from './sheet'
import { Faults } from '../../shared/Faults'

type Pattern = Schemas['PatternView']

/** The library of patterns: one is chosen, its holes are filled from the rig, and its sentences are read before they go in. */
export function PatternsDialog({
  program,
  onClose,
  onInsert,
}: {
  program: Program
  onClose: () => void
  onInsert: (script: string, what: string) => void
}) {
  const { rig } = useRig()
  const team = useIsTeam()
  const which = useProgramIndex()
  const list = useQuery({
    queryKey: [...partKey(rig.id, 'patterns', rig.copy), which ?? null],
    queryFn: () =>
      unwrap(client.GET('/api/rigs/{id}/patterns', { params: { path: { id: rig.id }, query: { copy: rig.copy, program: which } } })),
  })
  const [find, setFind] = useState('')
  const [id, setId] = useState<string | null>(null)
  const pattern = list.data?.find((p) => p.id === id)
  const wanted = find.trim().toLowerCase()
  const forget = useMutation({
    mutationFn: (name: string) => unwrap(client.DELETE('/api/routines/{name}', { params: { path: { name } } })),
    onSettled: () => list.refetch(),
  })
  const [leaving, setLeaving] = useState<string | null>(null)
  const shown = (list.data ?? []).filter((p) => wanted === '' || `${p.number} ${p.name} ${p.when}`.toLowerCase().includes(wanted))
  return (
    <Dialog open onClose={onClose} aria-labelledby="patterns-title" fullWidth maxWidth="md">
      <DialogTitle id="patterns-title" sx={{ fontSize: 17, pb: 1 }}>
        {pattern ? pattern.name : 'Put in a pattern'}
      </DialogTitle>
      {pattern ? (
        <Fill
          key={pattern.id}
          pattern={pattern}
          program={program}
          which={which}
          onBack={() => setId(null)}
          onClose={onClose}
          onInsert={onInsert}
        />
      ) : (
        <>
          <DialogContent>
            <label>
              Find{' '}
              <input
                className="figure"
                autoFocus
                value={find}
                onChange={(e) => setFind(e.target.value)}
                aria-label="Find a pattern"
                placeholder="what it should do"
              />
            </label>
            {list.isError && <Faults sentences={sentencesOf(list.error)} />}
            <ul className="items" style={{ marginTop: 8 }} data-testid="patterns">
              {shown.map((p, i) => (
                <li key={p.id}>
                  {(i === 0 || shown[i - 1]!.routine !== p.routine) && (p.routine || shown.some((x) => x.routine)) && (
                    <h3 className="small-head" style={{ margin: '10px 0 2px' }}>
                      {p.routine ? 'Routines of this workshop' : 'Patterns'}
                    </h3>
                  )}
                  <button type="button" className="item" onClick={() => setId(p.id)}>
                    <b style={{ fontSize: 15 }}>{p.routine ? p.name : `${p.number}. ${p.name}`}</b>
                    <span>
                      {p.when}
                      {p.holes.some((h) => h.missing && !h.only) && (
                        <span className="muted"> {p.holes.find((h) => h.missing && !h.only)!.missing}</span>
                      )}
                    </span>
                  </button>
                  {p.routine &&
                    !team &&
                    (leaving === p.id ? (
                      <span className="row">
                        <Button
                          onClick={() => {
                            setLeaving(null)
                            forget.mutate(p.name)
                          }}
                        >{`Take ${p.name} out of the library`}</Button>
                        <Button variant="text" onClick={() => setLeaving(null)}>
                          Keep it
                        </Button>
                      </span>
                    ) : (
                      <Button variant="text" aria-label={`Take ${p.name} out`} onClick={() => setLeaving(p.id)}>
                        Take out
                      </Button>
                    ))}
                </li>
              ))}
            </ul>
            {list.data && shown.length === 0 && <p className="muted">No pattern does that. Try another word.</p>}
          </DialogContent>
          <DialogActions>
            <Button onClick={onClose}>Close</Button>
          </DialogActions>
        </>
      )}
    </Dialog>
  )
}

function Fill({
  pattern,
  program,
  which,
  onBack,
  onClose,
  onInsert,
}: {
  pattern: Pattern
  program: Program
  which: number | undefined
  onBack: () => void
  onClose: () => void
  onInsert: (script: string, what: string) => void
}) {
  const { rig } = useRig()
  const [schools, setSchools] = useState<Record<string, string>>(() =>
    Object.fromEntries(pattern.choices.map((c) => [c.id, c.schools[0]!.id])),
  )
  const [values, setValues] = useState<Record<string, string>>(() => Object.fromEntries(pattern.holes.map((h) => [h.id, h.value])))
  const [into, setInto] = useState('')
  const [asked, setAsked] = useState({ schools, values, into })
  useEffect(() => {
    const wait = setTimeout(() => setAsked({ schools, values, into }), 200)
    return () => clearTimeout(wait)
  }, [schools, values, into])
  const regions = blocksOf(program)
    .flatMap((b) => b.regions)
    .filter((l) => l.part === 'region' && l.depth === 0)
    .map((l) => l.name)
  const holes = pattern.holes.filter((h) =>
    (h.only ?? '').split('&').every((o) => o === '' || schools[o.split('=')[0]!] === o.split('=')[1]),
  )
  const filled = useQuery({
    queryKey: ['pattern', rig.id, rig.revision, which ?? null, pattern.id, asked],
    queryFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/patterns/{pattern}', {
          params: { path: { id: rig.id, pattern: pattern.id } },
          body: { program: which ?? null, values: asked.values, schools: asked.schools, into: asked.into || null },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })
  const faults = filled.error instanceof Problem ? filled.error.fields : {}
  const optionsOf = (h: Pattern['holes'][number], all: Record<string, string>) => [
    ...new Set(h.options.filter((o) => h.of === null || o.of === all[h.of]).map((o) => o.value)),
  ]
  const set = (id: string, value: string) => {
    const next = { ...values, [id]: value }
    // What belongs to another sensor or mechanism follows it.
    for (const h of pattern.holes) {
      if (h.of !== id || h.options.length === 0) continue
      const fits = optionsOf(h, next)
      if (!fits.includes(next[h.id] ?? '')) next[h.id] = fits[0] ?? ''
    }
    setValues(next)
  }
  const settled =
    asked.schools === schools && asked.values === values && asked.into === into && !filled.isPlaceholderData && !filled.isFetching
  const sound = settled && filled.data !== undefined && !filled.isError && filled.data.diagnostics.length === 0
  return (
    <>
      <DialogContent>
        <p style={{ marginBottom: 4 }}>{pattern.when}</p>
        <p className="risky fine">
          <b>Its trap:</b> {pattern.trap}
        </p>
        {pattern.choices.map((c) => (
          <fieldset key={c.id} style={{ border: 0, padding: 0, margin: '10px 0' }}>
            <legend className="small-head" style={{ marginBottom: 2 }}>
              {c.question}
            </legend>
            {c.schools.map((s, i) => (
              <label key={s.id} style={{ display: 'block', minHeight: 26 }}>
                <input
                  type="radio"
                  name={c.id}
                  checked={schools[c.id] === s.id}
                  onChange={() => setSchools({ ...schools, [c.id]: s.id })}
                />{' '}
                {s.label}
                <span className="fine muted">
                  {' '}
                  {s.why}
                  {i === 0 ? `. Usual: ${c.why.charAt(0).toLowerCase()}${c.why.slice(1)}` : ''}
                </span>
              </label>
            ))}
          </fieldset>
        ))}
        <div className="two-columns" style={{ marginTop: 10 }}>
          <div className="field-grid">
            {holes.map((h) => {
              const fault = faults[`values.${h.id}`]?.[0]
              const fits = optionsOf(h, values)
              return (
                <div key={h.id}>
                  <label className="field-row" style={{ gridTemplateColumns: '150px minmax(0, 1fr)' }}>
                    <span>{h.label}</span>
                    {h.options.length > 0 ? (
                      <select
                        className="figure"
                        value={values[h.id]}
                        aria-invalid={fault !== undefined}
                        onChange={(e) => set(h.id, e.target.value)}
                      >
                        {fits.map((o) => (
                          <option key={o}>{o}</option>
                        ))}
                      </select>
                    ) : (
                      <span>
                        <input
                          className={`figure${['text', 'numbers'].includes(h.kind) ? '' : ' mono'}`}
                          style={{ width: ['text', 'numbers'].includes(h.kind) ? 180 : 80 }}
                          value={values[h.id]}
                          aria-invalid={fault !== undefined}
                          onChange={(e) => set(h.id, e.target.value)}
                        />{' '}
                        {h.unit}
                        {h.source && h.source !== 'a usual value, chosen' && values[h.id] === h.value && (
                          <span className="fine muted"> {h.source}</span>
                        )}
                      </span>
                    )}
                  </label>
                  {(fault ?? (h.missing && !values[h.id] ? h.missing : null)) && <p className="fault">{fault ?? h.missing}</p>}
                </div>
              )
            })}
            {regions.length > 0 && !pattern.routine && (
              <label className="field-row" style={{ gridTemplateColumns: '150px minmax(0, 1fr)' }}>
                <span>goes in as</span>
                <select className="figure" value={into} onChange={(e) => setInto(e.target.value)}>
                  <option value="">a region of its own</option>
                  {regions.map((r) => (
                    <option key={r} value={r}>
                      states of {r}
                    </option>
                  ))}
                </select>
              </label>
            )}
          </div>
          <div>
            <h3 className="small-head">What goes in</h3>
            <pre
              data-testid="pattern-text"
              tabIndex={0}
              aria-label="Sentences of the pattern"
              style={{
                font: '13px/1.5 var(--mono)',
                whiteSpace: 'pre-wrap',
                margin: 0,
                padding: '8px 10px',
                border: '1px solid var(--line)',
                borderRadius: 6,
                maxHeight: 380,
                overflow: 'auto',
                opacity: settled ? 1 : 0.6,
              }}
            >
              {filled.isError ? 'Fill what is marked, then the sentences stand here.' : (filled.data?.added ?? 'One moment…')}
            </pre>
            {(faults['script'] ?? faults['into'] ?? []).map((f) => (
              <p key={f} className="fault">
                {f}
              </p>
            ))}
            {filled.isError && !(filled.error instanceof Problem) && <Faults sentences={sentencesOf(filled.error)} />}
            {settled &&
              !filled.isError &&
              filled.data?.diagnostics.map((d, i) => (
                <p key={i} className="fault">
                  Line {d.line}: {d.message}
                </p>
              ))}
          </div>
        </div>
      </DialogContent>
      <DialogActions>
        <Button variant="text" onClick={onBack}>
          All patterns
        </Button>
        <Button onClick={onClose}>Leave it</Button>
        <Button
          variant="contained"
          disabled={!sound}
          onClick={() => {
            onInsert(filled.data!.script, pattern.name)
            onClose()
          }}
        >
          Put it in
        </Button>
      </DialogActions>
    </>
  )
}
