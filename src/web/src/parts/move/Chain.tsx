import { Term } from '../../shared/Term'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, unwrap } from '../../app/api'
import { useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import type { Figures } from '../sums/figures'
import { PathPicture } from '../sums/pictures'
import { typed, type Mechanism } from './move'

type Row = { kind: 'straight' | 'turn'; amount: string; byHand: boolean }
type Kept = { moves: Row[]; radius: string; x: string; y: string }
const usual: Kept = {
  moves: [
    { kind: 'straight', amount: '800', byHand: false },
    { kind: 'turn', amount: '90', byHand: false },
    { kind: 'straight', amount: '500', byHand: false },
  ],
  radius: '40',
  x: '',
  y: '',
}

/** A chain of moves, where it ends, and which number would make it better. */
export function Chain({ of, onTry }: { of: Mechanism; onTry: (kind: string) => void }) {
  const { rig } = useRig()
  const store = `chiton-chain-${rig.id}-${of.name}`
  const [kept, setKept] = useState<Kept>(() => {
    try {
      return { ...usual, ...(JSON.parse(localStorage.getItem(store) ?? '{}') as Partial<Kept>) }
    } catch {
      return usual
    }
  })
  const put = (next: Kept) => {
    setKept(next)
    localStorage.setItem(store, JSON.stringify(next))
  }
  const row = (i: number, change: Partial<Row>) => put({ ...kept, moves: kept.moves.map((m, k) => (k === i ? { ...m, ...change } : m)) })
  const answer = useQuery({
    queryKey: ['chain', rig.id, rig.copy, of.name, kept, of.path],
    queryFn: () =>
      unwrap(
        client.POST('/api/rigs/{id}/move/path', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            mechanism: of.name,
            moves: kept.moves.map((m) => ({ kind: m.kind, amount: typed(m.amount), byHand: m.byHand })),
            target: { xMm: typed(kept.x), yMm: typed(kept.y), radiusMm: typed(kept.radius) },
            speedMmPerS: null,
            turnRateDegPerS: null,
            reactionSdS: null,
          },
        }),
      ),
    placeholderData: (p) => p,
    retry: false,
  })
  const a = answer.isError ? undefined : answer.data
  return (
    <div className="row" style={{ alignItems: 'flex-start', gap: '14px 34px' }}>
      <section style={{ flex: '1 1 330px', minWidth: 0 }} aria-label="Moves">
        <p className="fine muted">
          A move ends where its numbers say, or <Term word="a hand ends it" />.
        </p>
        <ol className="chain" style={{ margin: 0, paddingLeft: 24 }}>
          {kept.moves.map((m, i) => (
            <li key={i} style={{ marginBottom: 6 }}>
              <span className="row" style={{ gap: '4px 10px' }}>
                <select
                  className="figure"
                  aria-label={`Move ${i + 1}`}
                  value={m.kind}
                  onChange={(e) => row(i, { kind: e.target.value as Row['kind'], amount: e.target.value === 'turn' ? '90' : '400' })}
                >
                  <option value="straight">drive</option>
                  <option value="turn">turn</option>
                </select>
                <input
                  className="mono figure"
                  style={{ width: 74 }}
                  inputMode="decimal"
                  aria-label={`Move ${i + 1}, in ${m.kind === 'turn' ? 'robot degrees, right positive' : 'mm, back negative'}`}
                  value={m.amount}
                  onChange={(e) => row(i, { amount: e.target.value })}
                />
                <span>{m.kind === 'turn' ? 'robot deg' : 'mm'}</span>
                <label className="fine">
                  <input type="checkbox" checked={m.byHand} onChange={(e) => row(i, { byHand: e.target.checked })} /> a hand ends it
                </label>
                {a?.worstMove === i && <b className="risky fine">harms most</b>}
                <Button
                  variant="text"
                  disabled={kept.moves.length === 1}
                  onClick={() => put({ ...kept, moves: kept.moves.filter((_, k) => k !== i) })}
                  aria-label={`Take out move ${i + 1}`}
                >
                  Take out
                </Button>
              </span>
            </li>
          ))}
        </ol>
        <Button
          onClick={() =>
            put({
              ...kept,
              moves: [
                ...kept.moves,
                kept.moves.at(-1)?.kind === 'straight'
                  ? { kind: 'turn', amount: '90', byHand: false }
                  : { kind: 'straight', amount: '400', byHand: false },
              ],
            })
          }
        >
          Add a move
        </Button>
        <p style={{ marginTop: 12 }} className="row">
          <label>
            Target within{' '}
            <input
              className="mono figure"
              style={{ width: 64 }}
              inputMode="decimal"
              aria-label="Radius of the target, in mm"
              value={kept.radius}
              onChange={(e) => put({ ...kept, radius: e.target.value })}
            />{' '}
            mm
          </label>
          <label>
            of{' '}
            <input
              className="mono figure"
              style={{ width: 74 }}
              inputMode="decimal"
              placeholder="its end"
              aria-label="Target forward, in mm"
              value={kept.x}
              onChange={(e) => put({ ...kept, x: e.target.value })}
            />{' '}
            forward,
          </label>
          <label>
            <input
              className="mono figure"
              style={{ width: 74 }}
              inputMode="decimal"
              placeholder="its end"
              aria-label="Target to the right, in mm"
              value={kept.y}
              onChange={(e) => put({ ...kept, y: e.target.value })}
            />{' '}
            mm right
          </label>
        </p>
        {answer.isError && <Faults sentences={sentencesOf(answer.error)} />}
        {a && (
          <>
            <p style={{ margin: '10px 0' }} role="status">
              <b className={a.verdict.grade}>{a.verdict.say}</b>
            </p>
            {a.gains.map((g) => (
              <section key={g.number} className="note">
                <small className="advice">Worth measuring</small>
                <h3>{g.number}</h3>
                <p>{g.say}</p>
                <Button onClick={() => onTry(g.trial)}>{`Find the ${g.number}`}</Button>
              </section>
            ))}
            <details>
              <summary>What adds to the error at the end</summary>
              <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
                <tbody>
                  {a.sources
                    .filter((s) => s.sdMm >= 0.05)
                    .map((s, i) => (
                      <tr key={i}>
                        <td>
                          {s.name}
                          {s.move !== null ? `, move ${s.move + 1}` : ', in every move alike'}
                        </td>
                        <td className="mono" style={{ textAlign: 'right' }}>
                          {show(s.sdMm, 2)} mm
                        </td>
                      </tr>
                    ))}
                  <tr>
                    <td>All together, forward and to the right (SD)</td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {show(a.sdXMm)}, {show(a.sdYMm)} mm
                    </td>
                  </tr>
                  <tr>
                    <td>Heading (SD)</td>
                    <td className="mono" style={{ textAlign: 'right' }}>
                      {show(a.sdHeadingDeg, 2)}°
                    </td>
                  </tr>
                </tbody>
              </table>
              <p className="fine muted">
                Errors that vary from move to move add up as the root of their squares. A wrong number is wrong in every move alike: it adds
                up with its sign.
              </p>
            </details>
          </>
        )}
      </section>
      <section style={{ flex: '0 1 340px', minWidth: 0 }} aria-label="Path">
        {a && (
          <PathPicture
            result={{ ...a.path, sdXMm: a.sdXMm, sdYMm: a.sdYMm, covarianceMm2: a.covarianceMm2 } as unknown as Figures}
            target={{ x: a.targetXMm, y: a.targetYMm, radius: a.radiusMm }}
          />
        )}
      </section>
    </div>
  )
}
