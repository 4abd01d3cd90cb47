import { useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap, type Schemas } from '../../app/api'
import { useRefresh, useRig } from '../../app/rig'
import { within } from '../../shared/format'
import { Marked, number } from './fields'
import type { Design } from './useDesign'

/** Positions found by hand: move the part, read its angle, give it its name. */
export function Positions({ design, positions }: { design: Design; positions: Schemas['PositionView'][] }) {
  const { rig, say } = useRig()
  const real = rig.kind === 'real'
  const refresh = useRefresh()
  const [hand, setHand] = useState<Record<string, number>>({})
  const [angle, setAngle] = useState<Record<string, string>>({})
  const [read, setRead] = useState<Record<string, string>>({})
  const find = useMutation({
    mutationFn: (p: { mechanism: string; position: string | null; servo: boolean }) =>
      unwrap(
        client.POST('/api/rigs/{id}/positions', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            mechanism: p.mechanism,
            position: p.position,
            handPercent: p.servo ? null : (hand[p.mechanism] ?? 50),
            angleDeg: p.servo ? number(angle[p.mechanism] ?? (real ? '' : '90')) : null,
            who: '',
            by: tabId,
          },
        }),
      ),
    onSuccess: async (got, p) => {
      setRead({ ...read, [p.mechanism]: `${got.angle} ${got.unit}` })
      if (p.position) {
        say(
          `${p.position} of ${p.mechanism} was found at ${got.angle} ${got.unit} on copy ${rig.copy}. Find it three times: the spread counts too.`,
        )
        await refresh()
      }
    },
  })
  const named = (design.mechanisms ?? []).filter((m) => (m.positions ?? []).length > 0)
  if (named.length === 0) return null
  return (
    <section aria-label="Positions" style={{ marginBottom: 20 }}>
      <h2 className="small-head">Positions, found by hand on copy {rig.copy}</h2>
      {named.map((m) => {
        const servo = design.actuators.find((a) => a.name === m.motors[0])?.kind === 'servo'
        const typed = servo || real
        return (
          <div key={m.name} style={{ marginBottom: 10 }}>
            <div className="row">
              <b>{m.name}</b>
              {typed ? (
                <label className="fine">
                  {servo ? 'Set the servo to' : 'Move it by hand and type the angle that its motor tells:'}{' '}
                  <input
                    className="mono figure"
                    style={{ width: 60 }}
                    inputMode="decimal"
                    aria-label={`Angle of ${m.name}`}
                    value={angle[m.name] ?? (servo ? '90' : '')}
                    onChange={(e) => setAngle({ ...angle, [m.name]: e.target.value })}
                  />{' '}
                  {servo ? 'deg and fit its horn there' : 'motor deg'}
                </label>
              ) : (
                <label className="fine row" style={{ gap: 6 }}>
                  Move it by hand{' '}
                  <input
                    type="range"
                    min={0}
                    max={100}
                    step={1}
                    aria-label={`Hand on ${m.name}, percent of its travel`}
                    value={hand[m.name] ?? 50}
                    onChange={(e) => setHand({ ...hand, [m.name]: Number(e.target.value) })}
                    onPointerUp={() => find.mutate({ mechanism: m.name, position: null, servo: typed })}
                    onKeyUp={() => find.mutate({ mechanism: m.name, position: null, servo: typed })}
                  />{' '}
                  <span className="mono">{read[m.name] ?? ''}</span>
                </label>
              )}
            </div>
            <div className="row" style={{ marginTop: 4 }}>
              {positions
                .filter((p) => p.mechanism === m.name)
                .map((p) => (
                  <span key={p.position} className="row" style={{ gap: 6 }}>
                    <Button
                      onClick={() => find.mutate({ mechanism: m.name, position: p.position, servo: typed })}
                      disabled={find.isPending}
                    >
                      This is {p.position}
                    </Button>
                    <span className="fine">
                      {p.angle ? (
                        <>
                          <Marked q={p.angle} /> {p.count > 1 ? `± ${within(p.angle.moveSd ?? 0)}` : 'once'}
                        </>
                      ) : (
                        <span className="muted">not found yet</span>
                      )}
                    </span>
                  </span>
                ))}
            </div>
          </div>
        )
      })}
      {find.isError && (
        <p className="fault" role="alert">
          {sentencesOf(find.error).join(' ')}
        </p>
      )}
    </section>
  )
}
