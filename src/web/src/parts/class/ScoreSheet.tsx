import type { Schemas } from '../../app/api'

/** What is written of a lane, in two words. */
export const valueWords: Record<Schemas['HeatScore'], string> = {
  points: 'Points',
  time: 'Seconds until it was done',
  distance: 'Millimetres it came',
  stays: 'Seconds until it fell',
}

/** A sheet to score on by hand: a line a lane, two lines a heat. */
export function ScoreSheet({
  unit,
  by,
  touches,
  falls,
  heats,
}: {
  unit: string
  by: Schemas['HeatScore']
  touches: number
  falls: boolean
  /** Names of both teams of each heat; null where they are written by hand. */
  heats: ({ round: number; names: [string, string] } | null)[]
}) {
  return (
    <>
      <p className="paper-line">
        <span>Judge</span>
        <span>Place</span>
        <span>Date</span>
      </p>
      <table className="ruled score-sheet">
        <thead>
          <tr>
            <th scope="col">Heat</th>
            <th scope="col">Lane</th>
            <th scope="col">Team</th>
            <th scope="col">{valueWords[by]}</th>
            {falls && <th scope="col">Falls</th>}
            {touches > 0 && <th scope="col">Touches</th>}
            <th scope="col">Score ({unit})</th>
            <th scope="col">Won</th>
          </tr>
        </thead>
        {heats.map((h, i) => (
          <tbody key={i}>
            {[0, 1].map((lane) => (
              <tr key={lane}>
                {lane === 0 && (
                  <th scope="rowgroup" rowSpan={2}>
                    {i + 1}
                  </th>
                )}
                <td>{lane + 1}</td>
                <td className="score-name">{h?.names[lane]}</td>
                <td className="paper-box" />
                {falls && <td className="paper-box" />}
                {touches > 0 && <td className="paper-box" />}
                <td className="paper-box" />
                <td className="paper-box" />
              </tr>
            ))}
          </tbody>
        ))}
      </table>
    </>
  )
}
