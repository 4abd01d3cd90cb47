import { useQuery } from '@tanstack/react-query'
import { client, unwrap } from '../../app/api'
import { partKey, useRig } from '../../app/rig'

/** The scenes of the open rig with the best proof of each, the worst first. */
export function useSceneProofs() {
  const { rig } = useRig()
  return useQuery({
    queryKey: [...partKey(rig.id, 'proof', rig.copy), 'scenes'],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/proofs/scenes', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
}

/** A row a scene, the worst first: what passes there, a stroke for each run. */
export function SceneRows({ chosen, onChoose }: { chosen: string; onChoose: (scene: string) => void }) {
  const scenes = useSceneProofs()
  if (!scenes.data) return null
  return (
    <section className="proof-section">
      <h3 className="small-title">Scene by scene</h3>
      <ul className="scene-rows">
        {scenes.data.map((s) => (
          <li key={s.name}>
            <button type="button" className="scene-name" aria-pressed={s.name === chosen} onClick={() => onChoose(s.name)}>
              <b>{s.name}</b>
              {s.counts && <span className="muted fine"> counts</span>}
            </button>
            {s.proof ? (
              <>
                <span className="mono">
                  {s.proof.passes} of {s.proof.runs}
                </span>
                <SceneStrokes passed={s.passed} />
              </>
            ) : (
              <span className="muted fine not-proved">not proved as it is now</span>
            )}
          </li>
        ))}
      </ul>
    </section>
  )
}

function SceneStrokes({ passed }: { passed: string }) {
  const most = 70
  const share = Math.min(1, most / passed.length)
  const passes = passed.split('').filter((p) => p === '1').length
  const up = Math.round(passes * share)
  const down = Math.round((passed.length - passes) * share)
  return (
    <svg
      className="scene-strokes"
      viewBox="0 0 426 34"
      preserveAspectRatio="xMinYMid meet"
      role="img"
      aria-label={`${passes} passed, ${passed.length - passes} failed.`}
    >
      <line x1={0} x2={426} y1={17} y2={17} stroke="var(--line)" />
      {Array.from({ length: up + down }, (_, i) => (
        <line
          key={i}
          x1={3 + 6 * i}
          x2={3 + 6 * i}
          y1={i < up ? 4 : 17}
          y2={i < up ? 17 : 30}
          stroke={i < up ? 'var(--weed)' : 'var(--kelp)'}
          strokeWidth={2}
        />
      ))}
    </svg>
  )
}
