import { type Schemas } from '../../app/api'
import { useRig } from '../../app/rig'

/** The log of a copy on paper: what was promised, what came of it, and each run. Only printed. */
export function ResultsSheet({ view }: { view: Schemas['LogView'] }) {
  const { rig } = useRig()
  const series = new Map(view.series.map((s) => [s.key, [s.light, s.pack, s.floor, s.who].filter(Boolean).join(', ')]))
  return (
    <section className="only-print statement" data-testid="results-sheet">
      <h1>{rig.name}: results on the table</h1>
      <p>
        {rig.place}. Copy {view.copy}
        {rig.team ? `, ${rig.team}` : ''}. Printed {new Date().toLocaleDateString()}.
      </p>
      {view.spreads.length === 0 && <p>No run was logged on this copy.</p>}
      {view.spreads.map((s) => (
        <div key={`${s.revision} ${s.scene}`}>
          <h2>
            Revision {s.revision}: {s.passes} of {s.lines.length} passed
          </h2>
          <p>
            {s.promise
              ? `${s.promise.afterwards ? 'Worked out since' : 'Promised'}: ${s.promise.low} to ${s.promise.high} of ${s.promise.runs}, in the scene “${s.promise.scene}”. `
              : 'Nothing was promised. '}
            {s.say} {s.settled}
          </p>
          {s.changed.length > 0 && <p>Changed since the revision below: {s.changed.join(' ')}</p>}
          <table className="ruled">
            <thead>
              <tr>
                <th scope="col">Run</th>
                <th scope="col">When</th>
                <th scope="col">It</th>
                <th scope="col">Took</th>
                <th scope="col">Why, what was measured, note</th>
                <th scope="col">Conditions</th>
              </tr>
            </thead>
            <tbody>
              {s.lines.map((l, i) => (
                <tr key={l.key}>
                  <td>{i + 1}</td>
                  <td>{new Date(l.timeUtc).toLocaleString()}</td>
                  <td>{l.passed ? 'passed' : 'failed'}</td>
                  <td>{l.timeS === null || l.timeS === undefined ? '' : `${l.timeS} s`}</td>
                  <td>{[l.cause, ...l.measured.map((m) => `${m.what} ${m.value} ${m.unit}`.trim()), l.note].filter(Boolean).join('; ')}</td>
                  <td>{series.get(l.series) ?? ''}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ))}
    </section>
  )
}
