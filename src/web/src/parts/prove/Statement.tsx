import type { Proof } from '../../app/api'
import { useRig } from '../../app/rig'
import { useSceneProofs } from './SceneRows'

const percent = (p: number) => Math.round(100 * p)

/** One page for a colleague: what was proved, of what, and what it rests on. Only printed. */
export function Statement({ proof }: { proof: Proof }) {
  const { rig } = useRig()
  const scenes = (useSceneProofs().data ?? []).filter((s) => s.proof !== null)
  const guessed = proof.doubts.filter((d) => d.kind === 'guessed').map((d) => d.name)
  return (
    <section className="only-print statement">
      <h1>{rig.name}: how often it works</h1>
      <p>
        {rig.place}. Copy {proof.onCopy}
        {rig.team ? `, ${rig.team}` : ''}, revision {proof.revision}, scene “{proof.scene}”. Proved{' '}
        {new Date(proof.timeUtc).toLocaleDateString()}
        {proof.current ? '.' : '; the machine has changed since.'}
      </p>
      <p>
        <b>{proof.say}</b>
      </p>
      <table className="ruled">
        <tbody>
          <tr>
            <th scope="row">Runs in the simulated bench</th>
            <td>
              {proof.passes} of {proof.runs} pass{proof.copies > 0 ? `, on ${proof.copies} made-up copies` : ''} (seed {proof.seed})
            </td>
          </tr>
          {proof.copy && (
            <tr>
              <th scope="row">This copy may lie at</th>
              <td>
                {percent(proof.copy.low)} to {percent(proof.copy.high)} in 100 (9 times in 10)
              </td>
            </tr>
          )}
          {proof.chance && (
            <tr>
              <th scope="row">By luck alone, had all numbers their best values</th>
              <td>
                {percent(proof.chance.low)} to {percent(proof.chance.high)} in 100
              </td>
            </tr>
          )}
          {proof.next.map((n) => (
            <tr key={n.runs}>
              <th scope="row">Of the next {n.runs} runs</th>
              <td>
                {n.low} to {n.high} will pass
              </td>
            </tr>
          ))}
          {proof.against && (
            <tr>
              <th scope="row">Against {proof.against.sameRevision ? 'what was known before' : `revision ${proof.against.revision}`}</th>
              <td>{proof.against.rates.say}</td>
            </tr>
          )}
        </tbody>
      </table>
      {scenes.length > 1 && (
        <>
          <h2>Scene by scene, as it is now</h2>
          <ul>
            {scenes.map((s) => (
              <li key={s.name}>
                {s.name}: {s.proof!.passes} of {s.proof!.runs} pass, this copy {percent(s.proof!.low)} to {percent(s.proof!.high)} in 100
                {s.counts ? '; it counts' : ''}
              </li>
            ))}
          </ul>
        </>
      )}
      <h2>What it rests on</h2>
      <ul>
        {proof.doubts.map((d) => (
          <li key={d.name}>
            {d.name}: {d.kind}, {d.source}. {d.say}
          </li>
        ))}
        {proof.doubts.length === 0 && (
          <li>{proof.copies > 0 ? 'Many numbers that are not known exactly, none of which stands out.' : 'Nothing that is in doubt.'}</li>
        )}
        {guessed.length > 0 && <li>A guess may be wrong by more than anybody thinks: measure it before you promise anything.</li>}
        {proof.lucks.length > 0 && <li>Luck that no measuring removes: {proof.lucks.join(', ')}.</li>}
        <li>The simulated bench leaves things out: no bending, no sliding sideways, no wear. Real runs decide.</li>
      </ul>
      {proof.failures.length > 0 && (
        <>
          <h2>How it failed</h2>
          <ul>
            {proof.failures.slice(0, 8).map((f, i) => (
              <li key={i}>
                {f.count} of {proof.runs}: {f.ended || f.goal}
                {f.common ? `; ${f.common}` : ''}
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  )
}
