import { useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap, type Schemas } from '../../app/api'
import { Faults } from '../../shared/Faults'

const none = '–'

/** What was handed in, held against the rubric: the team's marks and the educator's side by side. */
export function Marks({
  handIn,
  rubric,
  team,
  of,
}: {
  handIn: Schemas['HandInView']
  rubric: Schemas['RubricRow'][]
  /** True for the team itself, false for the educator. */
  team: boolean
  /** Whose it is, for labels. */
  of: string
}) {
  const queries = useQueryClient()
  const begun = team ? handIn.teamMarks : handIn.educatorMarks
  const [own, setOwn] = useState<(number | null)[]>(() => rubric.map((_, i) => begun[i] ?? null))
  const [note, setNote] = useState(handIn.note)
  const mark = useMutation({
    mutationFn: () =>
      unwrap(
        client.PUT('/api/hand-ins/{handIn}/marks', {
          params: { path: { handIn: handIn.id } },
          body: { levels: own, note: team ? null : note },
        }),
      ),
    onSuccess: () =>
      Promise.all([queries.invalidateQueries({ queryKey: ['room'] }), queries.invalidateQueries({ queryKey: ['class-lessons'] })]),
  })
  if (rubric.length === 0) return <p className="muted fine">This lesson has no rubric.</p>
  const said = (levels: (number | null)[], i: number) => {
    const level = levels[i]
    return level === null || level === undefined ? none : `${level + 1}: ${rubric[i]!.levels[level]}`
  }
  const same = JSON.stringify(own) === JSON.stringify(rubric.map((_, i) => begun[i] ?? null)) && (team || note === handIn.note)
  return (
    <div className="marks">
      <table className="ruled" aria-label={`Marks of ${of}`}>
        <thead>
          <tr>
            <th scope="col">What is looked at</th>
            <th scope="col">{team ? 'You' : 'The team'}</th>
            <th scope="col">{team ? 'The educator' : 'You'}</th>
          </tr>
        </thead>
        <tbody>
          {rubric.map((row, i) => {
            const choose = (
              <select
                className="figure level"
                aria-label={`${row.what}, ${of}`}
                value={own[i] ?? ''}
                onChange={(e) => setOwn(own.map((l, k) => (k === i ? (e.target.value === '' ? null : Number(e.target.value)) : l)))}
              >
                <option value="">not marked</option>
                {row.levels.map((l, n) => (
                  <option key={n} value={n}>
                    {n + 1}: {l}
                  </option>
                ))}
              </select>
            )
            return (
              <tr key={row.what}>
                <th scope="row">{row.what}</th>
                <td>{team ? choose : said(handIn.teamMarks, i)}</td>
                <td>{team ? said(handIn.educatorMarks, i) : choose}</td>
              </tr>
            )
          })}
        </tbody>
      </table>
      {team && handIn.waits && <p className="fine">The educator has marked this. You see it once you have marked it yourselves.</p>}
      {team ? (
        handIn.note && <p className="room-said">{handIn.note}</p>
      ) : (
        <TextField
          size="small"
          label={`What you say to ${of}`}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          multiline
          fullWidth
          slotProps={{ htmlInput: { maxLength: 500 } }}
          style={{ margin: '10px 0', maxWidth: 640 }}
        />
      )}
      <div className="row no-print">
        <Button disabled={mark.isPending || same} onClick={() => mark.mutate()} aria-label={`Keep the marks of ${of}`}>
          Keep the marks
        </Button>
        {mark.isSuccess && same && <span role="status">Kept.</span>}
      </div>
      {mark.isError && <Faults sentences={sentencesOf(mark.error)} />}
    </div>
  )
}

/** What was known of it when it was handed in, in a few lines. */
export function Known({ handIn }: { handIn: Schemas['HandInView'] }) {
  const k = handIn.known
  return (
    <ul className="plain-list fine">
      <li>
        {k.rig}, revision {handIn.revision}, copy {handIn.copy} ({k.kind})
        {k.calibrations.length > 0 && `; calibrations: ${k.calibrations.join(', ')}`}
      </li>
      <li>
        {k.runs > 0
          ? `In the bench ${k.passes} of ${k.runs} runs passed in ${k.scene}; this copy passes between ${Math.round(k.low * 100)} and ${Math.round(k.high * 100)} of 100.`
          : 'Nothing was counted in the bench.'}
      </li>
      <li>
        {k.tableRuns > 0
          ? `On the table ${k.tablePasses} of ${k.tableRuns} runs passed; the last: ${k.lastLine}.`
          : 'No run was logged on the table.'}
      </li>
      <li>
        {k.hints === 0 ? 'No hint was opened' : k.hints === 1 ? '1 hint was open' : `${k.hints} hints were open`};{' '}
        {k.different === 1 ? '1 sentence differs' : `${k.different} sentences differ`} from what was handed out.
      </li>
    </ul>
  )
}
