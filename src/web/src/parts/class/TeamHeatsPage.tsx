import { useState } from 'react'
import { useMe } from '../../app/me'
import { ClassFrame } from './ClassFrame'
import { Choose } from './Choose'
import { HeatRounds } from './HeatRounds'
import { ChanceTable, HeatTable } from './HeatTable'
import { useHeats, useHeatsOf } from './heats'

/** Heats as a team sees them: the table as it stands, its own heats marked, the rules. */
export default function TeamHeatsPage() {
  const me = useMe()
  const [chosen, setChosen] = useState<number | null>(null)
  const all = useHeatsOf(null, me.data?.who === 'team')
  const id = chosen ?? all.data?.[0]?.id ?? null
  const heats = useHeats(id)
  const mine = me.data?.team?.name
  const next = heats.data?.next
  const name = (team: number) => heats.data!.teams[team]!.name
  return (
    <ClassFrame>
      <main className="page heats">
        <h1 className="page-title">{heats.data?.name ?? 'Heats'}</h1>
        {me.data && me.data.who !== 'team' && <p className="lead">Heats stand with their class.</p>}
        {all.data?.length === 0 && <p className="lead">No heats have begun yet. The table stands here as soon as they have.</p>}
        {(all.data?.length ?? 0) > 1 && (
          <Choose
            label="Heats"
            value={String(id)}
            onChange={(v) => setChosen(Number(v))}
            all={all.data!.map((h): [string, string] => [String(h.id), h.name])}
          />
        )}
        {heats.data && (
          <>
            <p className="lead">{heats.data.task}</p>
            <p role="status">
              {next ? `Next: ${name(next.first)} in lane 1 against ${name(next.second)} in lane 2.` : 'All heats are held.'}
            </p>
            <HeatTable heats={heats.data} mine={mine} />
            <ChanceTable heats={heats.data} />
            <h2 className="small-head">Heats</h2>
            <HeatRounds heats={heats.data} mine={mine} />
            <h2 className="small-head">Rules</h2>
            <ol className="challenge-rules">
              {heats.data.rules.map((r) => (
                <li key={r}>{r}</li>
              ))}
            </ol>
          </>
        )}
      </main>
    </ClassFrame>
  )
}
