import { useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'

type Mapping = Schemas['LogMapping']
type Field = Schemas['MappedColumn']['field']

const fields: [Field, string][] = [
  ['none', 'not kept'],
  ['passed', 'whether it passed'],
  ['time', 'when it ended'],
  ['seconds', 'how long it took, s'],
  ['measured', 'something measured'],
  ['cause', 'why it failed'],
  ['goal', 'the goal that was missed'],
  ['expected', 'whether the bench shows it'],
  ['note', 'a note'],
  ['revision', 'the revision'],
  ['copy', 'the copy'],
  ['series', 'the series'],
  ['light', 'the light'],
  ['pack', 'the pack'],
  ['floor', 'the floor'],
  ['who', 'who started it'],
  ['key', 'a key of Chiton'],
]

const days: [Mapping['days'], string][] = [
  ['yearFirst', '2026-11-29'],
  ['dayFirst', '29.11.2026'],
  ['monthFirst', '11/29/2026'],
]

/** Takes in a log that was kept elsewhere: a table, and what its columns are. What was said of the same columns is remembered. */
export function TakeTable({ revision, onDone }: { revision: number; onDone: () => void }) {
  const { rig, say } = useRig()
  const queries = useQueryClient()
  const [text, setText] = useState('')
  const [mapping, setMapping] = useState<Mapping | null>(null)
  const [ran, setRan] = useState(String(revision))
  const look = useMutation({
    mutationFn: (text: string) =>
      unwrap(client.POST('/api/rigs/{id}/log/import/look', { params: { path: { id: rig.id } }, body: { copy: rig.copy, text } })),
    onSuccess: (found) => {
      setMapping(found.mapping)
      tried.mutate({ mapping: found.mapping, ran, dry: true })
    },
  })
  const tried = useMutation({
    mutationFn: ({ mapping, ran, dry }: { mapping: Mapping; ran: string; dry: boolean }) =>
      unwrap(
        client.POST('/api/rigs/{id}/log/import', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            text,
            mapping,
            revision: ran.trim() === '' ? null : Number(ran),
            minutesEast: -new Date().getTimezoneOffset(),
            dry,
            by: tabId,
          },
        }),
      ),
    onSuccess: (found, { dry }) => {
      if (dry) return
      void queries.invalidateQueries({ queryKey: partKey(rig.id, 'log', rig.copy) })
      say(
        `${found.added} ${found.added === 1 ? 'run was' : 'runs were'} taken in${found.known > 0 ? `, ${found.known} were there already` : ''}.`,
      )
      onDone()
    },
  })
  const change = (next: Mapping) => {
    setMapping(next)
    tried.mutate({ mapping: next, ran, dry: true })
  }
  const columns = look.data?.columns ?? []
  const verdict = columns.find((c) => mapping?.columns.some((m) => m.column === c.name && m.field === 'passed'))
  const found = tried.data
  const known = (list: string[], v: string) => list.some((x) => x.toLowerCase() === v.toLowerCase())
  return (
    <section className="log-table no-print" aria-label="Take in a table">
      <h2 className="small-head">Take in a table</h2>
      {!mapping && (
        <form
          onSubmit={(e) => {
            e.preventDefault()
            look.mutate(text)
          }}
        >
          <p>A log that was kept elsewhere, as CSV or pasted from a spreadsheet: a run a row, with headings.</p>
          <div className="row" style={{ marginBottom: 12 }}>
            <Button component="label">
              Open a file
              <input
                type="file"
                accept=".csv,.tsv,.txt,text/csv"
                hidden
                aria-label="A file with runs"
                onChange={(e) => {
                  const file = e.target.files?.[0]
                  if (file)
                    void file.text().then((t) => {
                      setText(t)
                      look.mutate(t)
                    })
                }}
              />
            </Button>
          </div>
          <TextField
            multiline
            fullWidth
            minRows={4}
            maxRows={10}
            label="Or paste it here"
            value={text}
            onChange={(e) => setText(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 4_000_000 } }}
          />
          <div className="row" style={{ marginTop: 12 }}>
            <Button type="submit" variant="contained" disabled={look.isPending}>
              Read it
            </Button>
            <Button variant="text" onClick={onDone}>
              Not now
            </Button>
          </div>
          {look.isError && <Faults sentences={sentencesOf(look.error)} />}
        </form>
      )}
      {mapping && look.data && (
        <>
          <p>
            {look.data.rows} {look.data.rows === 1 ? 'row' : 'rows'}.{' '}
            {look.data.remembered
              ? 'Its columns are read as last time.'
              : 'Say what its columns are; it is remembered for the next table like it.'}
          </p>
          <div className="log-columns">
            {columns.map((c, i) => {
              const is = mapping.columns.find((m) => m.column === c.name) ?? { column: c.name, field: 'none' as Field, unit: '' }
              const of = (o: { name: string }) =>
                mapping.columns.find((m) => m.column === o.name) ?? { column: o.name, field: 'none' as Field, unit: '' }
              const put = (next: Partial<typeof is>) =>
                change({
                  ...mapping,
                  columns: columns.map((o, k) => (k === i ? { ...is, ...next } : of(o))),
                  days: next.field === 'time' ? c.days : mapping.days,
                })
              return (
                <div key={c.name} className="row">
                  <span className="log-column">
                    <b>{c.name}</b>
                    <small className="muted">{c.values.slice(0, 4).join(' · ').slice(0, 80)}</small>
                  </span>
                  <TextField
                    select
                    size="small"
                    label={`“${c.name}” is`}
                    value={is.field}
                    onChange={(e) => put({ field: e.target.value as Field })}
                    slotProps={{ select: { native: true } }}
                  >
                    {fields.map(([f, words]) => (
                      <option key={f} value={f}>
                        {words}
                      </option>
                    ))}
                  </TextField>
                  {is.field === 'measured' && (
                    <TextField
                      size="small"
                      label="Unit"
                      value={is.unit}
                      onChange={(e) => put({ unit: e.target.value })}
                      style={{ width: 90 }}
                      slotProps={{ htmlInput: { maxLength: 20 } }}
                    />
                  )}
                  {is.field === 'time' && (
                    <TextField
                      select
                      size="small"
                      label="Days are written"
                      value={mapping.days}
                      onChange={(e) => change({ ...mapping, days: e.target.value as Mapping['days'] })}
                      slotProps={{ select: { native: true } }}
                    >
                      {days.map(([d, words]) => (
                        <option key={d} value={d}>
                          {words}
                        </option>
                      ))}
                    </TextField>
                  )}
                </div>
              )
            })}
          </div>
          {verdict && (
            <div className="row" role="group" aria-label="What stands for a run that passed">
              {verdict.values.map((v) => (
                <TextField
                  key={v}
                  select
                  size="small"
                  label={`“${v.slice(0, 30)}” means`}
                  value={known(mapping.passes, v) ? 'pass' : known(mapping.fails, v) ? 'fail' : ''}
                  onChange={(e) => {
                    const off = (list: string[]) => list.filter((x) => x.toLowerCase() !== v.toLowerCase())
                    change({
                      ...mapping,
                      passes: e.target.value === 'pass' ? [...off(mapping.passes), v] : off(mapping.passes),
                      fails: e.target.value === 'fail' ? [...off(mapping.fails), v] : off(mapping.fails),
                    })
                  }}
                  slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
                  style={{ minWidth: 120 }}
                >
                  <option value="">say which</option>
                  <option value="pass">passed</option>
                  <option value="fail">failed</option>
                </TextField>
              ))}
            </div>
          )}
          {!mapping.columns.some((m) => m.field === 'revision') && (
            <div className="row" style={{ marginTop: 14 }}>
              <TextField
                size="small"
                label="They ran revision"
                value={ran}
                onChange={(e) => {
                  setRan(e.target.value)
                  tried.mutate({ mapping, ran: e.target.value, dry: true })
                }}
                slotProps={{ htmlInput: { inputMode: 'numeric' } }}
                style={{ width: 150 }}
              />
            </div>
          )}
          {tried.isError && <Faults sentences={sentencesOf(tried.error)} />}
          {found && !tried.isError && (
            <p data-testid="table-say" aria-live="polite">
              {found.added + found.known} {found.added + found.known === 1 ? 'run' : 'runs'}, {found.passes} passed
              {found.known > 0 && `; ${found.known} are in the log already`}
              {found.bad.length > 0 && `; ${found.bad.length} ${found.bad.length === 1 ? 'row cannot' : 'rows cannot'} be read`}.
            </p>
          )}
          {found && found.bad.length > 0 && (
            <ul className="fine">
              {found.bad.slice(0, 8).map((b) => (
                <li key={b.line}>
                  Line {b.line}: {b.say}
                </li>
              ))}
              {found.bad.length > 8 && <li>and {found.bad.length - 8} more.</li>}
            </ul>
          )}
          <div className="row">
            <Button
              variant="contained"
              disabled={!found || tried.isPending || tried.isError || found.added === 0}
              onClick={() => tried.mutate({ mapping, ran, dry: false })}
            >
              Take in {found?.added ?? 0} {found?.added === 1 ? 'run' : 'runs'}
            </Button>
            <Button variant="text" onClick={() => setMapping(null)}>
              Another table
            </Button>
            <Button variant="text" onClick={onDone}>
              Not now
            </Button>
          </div>
        </>
      )}
    </section>
  )
}
