import { useEdit } from '../../app/edit'
import { useState } from 'react'
import { useQuery } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, sentencesOf, tabId, unwrap } from '../../app/api'
import { useRig } from '../../app/rig'
import { Views } from './Views'

const words: Record<string, [string, string]> = {
  added: ['New', 'holds'],
  takenOut: ['Gone', 'stops'],
  changed: ['Changed', 'risky'],
  moved: ['Moved', 'advice'],
}

/** The revisions of the rig, two of them held against each other, and an earlier program brought back. */
export default function HistoryPage() {
  const { rig } = useRig()
  const list = useQuery({
    queryKey: ['part', rig.id, 'revisions', rig.revision],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/revisions', { params: { path: { id: rig.id } } })),
  })
  const [pair, setPair] = useState<[number, number] | null>(null)
  const revisions = list.data ?? []
  const newest = revisions[0]?.number ?? 0
  const [before, after] = pair ?? [Math.max(1, newest - 1), newest]
  const difference = useQuery({
    queryKey: ['part', rig.id, 'difference', before, after],
    enabled: newest > 0 && before !== after,
    retry: false,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/program/difference', { params: { path: { id: rig.id }, query: { before, after } } })),
  })
  const restore = useEdit({
    call: (revision: number) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/restore', {
          params: { path: { id: rig.id } },
          body: { baseRevision: rig.revision, revision, copy: rig.copy, by: tabId },
        }),
      ),
    done: () => setPair(null),
    aloud: true,
  })
  return (
    <main>
      <div className="page">
        <Views at="history" />
        {list.isError && (
          <p className="fault" role="alert">
            {sentencesOf(list.error).join(' ')}
          </p>
        )}
        <div className="two-columns">
          <section aria-label="Revisions">
            <h2 className="small-head">Revisions, the newest first</h2>
            <table className="ruled">
              <thead>
                <tr>
                  <th>Before</th>
                  <th>After</th>
                  <th>Revision</th>
                  <th>What changed</th>
                </tr>
              </thead>
              <tbody>
                {revisions.map((r) => (
                  <tr key={r.number}>
                    <td>
                      <input
                        type="radio"
                        name="before"
                        aria-label={`Before: revision ${r.number}`}
                        checked={before === r.number}
                        onChange={() => setPair([r.number, after])}
                      />
                    </td>
                    <td>
                      <input
                        type="radio"
                        name="after"
                        aria-label={`After: revision ${r.number}`}
                        checked={after === r.number}
                        onChange={() => setPair([before, r.number])}
                      />
                    </td>
                    <td className="mono">
                      {r.number}
                      {rig.controllerRevision === r.number ? <span className="fine muted"> on the controller</span> : null}
                    </td>
                    <td className="fine">
                      {r.what}
                      <br />
                      <span className="muted">{new Date(r.timeUtc).toLocaleString()}</span>
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
          <section aria-label="Difference">
            <h2 className="small-head">
              From revision {before} to revision {after}
            </h2>
            {before === after && <p>Choose two different revisions.</p>}
            {difference.isError && (
              <p className="fault" role="alert">
                {sentencesOf(difference.error).join(' ')}
              </p>
            )}
            {difference.data && before !== after && (
              <>
                {difference.data.changes.length === 0 && (
                  <p>The program is the same{difference.data.other ? '; the rig itself was changed' : ''}.</p>
                )}
                {difference.data.changes.length > 0 && difference.data.other && (
                  <p className="fine muted">The rig itself was changed as well.</p>
                )}
                <ol data-testid="changes" style={{ listStyle: 'none', padding: 0, margin: 0 }}>
                  {difference.data.changes.map((c, i) => (
                    <li key={i} className="note">
                      <small className={words[c.kind]![1]}>
                        {words[c.kind]![0]}, {c.where}
                      </small>
                      {!c.before && !c.after && <p style={{ margin: '2px 0' }}>{c.say}</p>}
                      {c.before && c.kind !== 'moved' && (
                        <p style={{ margin: '2px 0', textDecoration: 'line-through', textDecorationColor: 'var(--red)' }}>{c.before}</p>
                      )}
                      {(c.after ?? (c.kind === 'moved' ? c.before : null)) && <p style={{ margin: '2px 0' }}>{c.after ?? c.before}</p>}
                    </li>
                  ))}
                </ol>
                {Math.min(before, after) !== newest && (
                  <Button
                    disabled={restore.isPending}
                    onClick={() => restore.mutate(Math.min(before, after))}
                  >{`Bring back the programs of revision ${Math.min(before, after)}`}</Button>
                )}
              </>
            )}
          </section>
        </div>
      </div>
    </main>
  )
}
