import { share, type Heats } from './heats'

/** The table of heats. */
export function HeatTable({ heats, mine }: { heats: Heats; mine?: string | undefined }) {
  const held = heats.table.some((l) => l.played > 0)
  return (
    <>
      <div className="wide" tabIndex={0} role="region" aria-label="Table">
        <table className="ruled heat-table">
          <thead>
            <tr>
              <th scope="col">Place</th>
              <th scope="col">Team</th>
              <th scope="col">Heats</th>
              <th scope="col">Won</th>
              <th scope="col">Drawn</th>
              <th scope="col">Table points</th>
              <th scope="col">Best ({heats.unit})</th>
              <th scope="col">In all ({heats.unit})</th>
            </tr>
          </thead>
          <tbody>
            {heats.table.map((l) => (
              <tr key={l.team} className={heats.teams[l.team]!.name === mine ? 'own-line' : undefined}>
                <td className="mono">{held ? l.place : ''}</td>
                <th scope="row">
                  {heats.teams[l.team]!.name}
                  {heats.teams[l.team]!.name === mine && <span className="fine muted"> (you)</span>}
                </th>
                <td className="mono">{l.played}</td>
                <td className="mono">{l.won}</td>
                <td className="mono">{l.drawn}</td>
                <td className="mono">{l.points}</td>
                <td className="mono">{l.best === null || l.best === undefined ? '' : +l.best.toFixed(2)}</td>
                <td className="mono">{+l.total.toFixed(2)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {heats.teams.some((t) => t.withdrawn) && (
        <p className="fine muted">
          Withdrawn, and counted as if they had never been there:{' '}
          {heats.teams
            .filter((t) => t.withdrawn)
            .map((t) => t.name)
            .join(', ')}
          .
        </p>
      )}
    </>
  )
}

/** How likely each place is for each team, by the bench: now, and before the first heat. */
export function ChanceTable({ heats }: { heats: Heats }) {
  if (!heats.simulatedUtc || heats.table.length === 0 || heats.table[0]!.now.length === 0) return null
  const held = heats.table.some((l) => l.played > 0)
  const over = held && !heats.next
  const places = heats.table[0]!.now.slice(0, heats.teams.length)
  return (
    <div className="wide" tabIndex={0} role="region" aria-label="The chance of each place">
      <table className="ruled chance-table">
        <caption>
          Of 100 tournaments run in the bench, so many end in this place
          {held && !over ? ': now, and before the first heat' : ' before the first heat'}.{held && ' Where a team stands is framed.'}
        </caption>
        <thead>
          <tr>
            <th scope="col">Team</th>
            {places.map((_, i) => (
              <th key={i} scope="col">
                {i + 1}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {heats.table.map((l) => (
            <tr key={l.team}>
              <th scope="row">{heats.teams[l.team]!.name}</th>
              {places.map((_, i) => (
                <td key={i} className={held && l.place === i + 1 ? 'mono stands-here' : 'mono'}>
                  {held && !over ? share(l.now[i] ?? 0) : share(l.before[i] ?? 0)}
                  {held && !over && <span className="fine muted"> {share(l.before[i] ?? 0)}</span>}
                  {held && l.place === i + 1 && <span className="hidden-text">, stands here</span>}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
