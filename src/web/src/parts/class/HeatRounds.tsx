import Button from '@mui/material/Button'
import { sentencesOf } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { score, share, useJudging, type Heat, type Heats } from './heats'

/** All heats, round by round. Who judges chooses what is scored, takes back, and gives re-runs. */
export function HeatRounds({
  heats,
  chosen,
  onChoose,
  mine,
}: {
  heats: Heats
  chosen?: Heat | null
  /** Chooses the heat that is scored; left out where nobody judges. */
  onChoose?: (heat: Heat) => void
  mine?: string | undefined
}) {
  const { rerun, undo } = useJudging(heats.id)
  const name = (team: number) => heats.teams[team]!.name
  const busy = rerun.isPending || undo.isPending
  const wrong = rerun.isError ? rerun.error : undo.isError ? undo.error : null
  const said = (h: Heat) =>
    h.off
      ? 'not held: one of them withdrew'
      : !h.held
        ? h.firstWins === null || h.firstWins === undefined
          ? ''
          : `the bench: ${name(h.first)} wins ${share(h.firstWins)} of 100${(h.draws ?? 0) > 0 ? `, ${share(h.draws ?? 0)} draws` : ''}`
        : `${score(h.firstScore, heats.unit)} to ${score(h.secondScore, heats.unit)}; ${
            h.winner === 0 ? 'nobody wins' : `${name(h.winner > 0 ? h.first : h.second)} wins`
          }`
  return (
    <>
      {wrong && <Faults sentences={sentencesOf(wrong)} />}
      {heats.rounds.map((r) => (
        <section key={r.number} aria-label={`Round ${r.number}`}>
          <h3 className="heat-round">
            Round {r.number}
            {r.bye !== null && r.bye !== undefined && <span className="fine muted"> · {name(r.bye)} has a bye</span>}
          </h3>
          <ul className="plain-list heat-list">
            {r.heats.map((h) => {
              const pair = `${name(h.first)} against ${name(h.second)}`
              const own = mine !== undefined && (name(h.first) === mine || name(h.second) === mine)
              return (
                <li key={pair} className={own ? 'own-line' : undefined}>
                  <span>
                    <b>{pair}</b> <span className={h.held ? undefined : 'muted'}>{said(h)}</span>
                  </span>
                  {onChoose && !h.off && (
                    <span className="row no-print" style={{ gap: 4 }}>
                      {!h.held && (
                        <Button
                          variant={chosen && chosen.first === h.first && chosen.second === h.second ? 'contained' : 'outlined'}
                          aria-pressed={chosen?.first === h.first && chosen.second === h.second}
                          aria-label={`Score ${pair}`}
                          onClick={() => onChoose(h)}
                        >
                          Score it
                        </Button>
                      )}
                      {h.held && (
                        <>
                          <Button
                            variant="text"
                            disabled={busy}
                            aria-label={`Take back ${pair}`}
                            onClick={() => {
                              rerun.reset()
                              undo.mutate(h.by)
                            }}
                          >
                            Take back
                          </Button>
                          {[h.first, h.second]
                            .filter((t) => heats.teams[t]!.reruns < heats.reruns)
                            .map((t) => (
                              <Button
                                key={t}
                                variant="text"
                                disabled={busy}
                                aria-label={`Run ${pair} again for ${name(t)}`}
                                onClick={() => {
                                  undo.reset()
                                  rerun.mutate({ first: h.first, second: h.second, team: t })
                                }}
                              >
                                Again for {name(t)}
                              </Button>
                            ))}
                        </>
                      )}
                    </span>
                  )}
                </li>
              )
            })}
          </ul>
        </section>
      ))}
    </>
  )
}

/** What was written down, the latest first; what was taken back stands there struck through. */
export function HeatTrace({ heats, judging }: { heats: Heats; judging: boolean }) {
  const { undo } = useJudging(heats.id)
  if (heats.trace.length === 0) return null
  return (
    <section aria-label="What was written down">
      <h2 className="small-head">What was written down</h2>
      {undo.isError && <Faults sentences={sentencesOf(undo.error)} />}
      <ol className="heat-trace" reversed>
        {heats.trace.map((t) => (
          <li key={t.id}>
            <span className={t.undone ? 'taken-back' : undefined}>{t.say}</span>{' '}
            <span className="fine muted">
              {t.who}, {new Date(t.timeUtc).toLocaleTimeString()}
              {t.undone && ', taken back'}
            </span>
            {judging && !t.undone && t.kind !== 'undone' && t.kind !== 'scored' && (
              <Button
                variant="text"
                className="no-print"
                disabled={undo.isPending}
                aria-label={`Take back: ${t.say}`}
                onClick={() => undo.mutate(t.id)}
              >
                Take back
              </Button>
            )}
          </li>
        ))}
      </ol>
    </section>
  )
}
