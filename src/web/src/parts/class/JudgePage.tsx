import { useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap } from '../../app/api'
import { RoomStrip } from '../../app/RoomStrip'
import { Faults } from '../../shared/Faults'
import { Choose } from './Choose'
import { HeatRounds, HeatTrace } from './HeatRounds'
import { HeatTable } from './HeatTable'
import { useHeats, useHeatsOf, type Heat } from './heats'
import { ScoreHeat } from './ScoreHeat'

/** What a judge sees: the next heat to be scored, the table, and what was written down. */
export default function JudgePage() {
  const [which, setWhich] = useState<number | null>(null)
  const [chosen, setChosen] = useState<Heat | null>(null)
  const all = useHeatsOf(null)
  const id = which ?? all.data?.[0]?.id ?? null
  const heats = useHeats(id).data
  const open = heats?.rounds
    .flatMap((r) => r.heats)
    .find((h) => chosen && h.first === chosen.first && h.second === chosen.second && !h.held && !h.off)
  const heat = open ?? heats?.next ?? null
  const leave = useMutation({
    mutationFn: () => unwrap(client.POST('/api/me/leave')),
    onSuccess: () => window.location.reload(),
  })
  return (
    <div className="app">
      <header className="spine">
        <span className="wordmark">chiton</span>
      </header>
      <div className="desk">
        <RoomStrip />
        <main className="page heats">
          <h1 className="page-title">{heats ? heats.name : 'You are a judge here'}</h1>
          {all.data?.length === 0 && (
            <p className="lead">Heats that are to be scored stand here once the educator has begun them. None has begun.</p>
          )}
          {all.isError && <Faults sentences={sentencesOf(all.error)} />}
          {(all.data?.length ?? 0) > 1 && (
            <Choose
              label="Heats"
              value={String(id)}
              onChange={(v) => {
                setWhich(Number(v))
                setChosen(null)
              }}
              all={all.data!.map((h): [string, string] => [String(h.id), h.name])}
            />
          )}
          {heats && (
            <>
              {heat ? (
                <ScoreHeat key={`${heats.id} ${heat.first} ${heat.second}`} heats={heats} heat={heat} />
              ) : (
                <p className="lead" role="status">
                  All heats are held.
                </p>
              )}
              <HeatTable heats={heats} />
              <h2 className="small-head">Heats</h2>
              <HeatRounds heats={heats} chosen={heat} onChoose={setChosen} />
              <HeatTrace heats={heats} judging />
              <details>
                <summary>Rules</summary>
                <ol className="challenge-rules">
                  {heats.rules.map((r) => (
                    <li key={r}>{r}</li>
                  ))}
                </ol>
              </details>
            </>
          )}
          <p style={{ marginTop: 22 }}>
            <Button onClick={() => leave.mutate()}>Leave the room</Button>
          </p>
        </main>
      </div>
    </div>
  )
}
