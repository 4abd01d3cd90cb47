import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import { client, unwrap } from '../app/api'
import { partKey, useRig } from '../app/rig'
import { Note } from './NoteCard'

const words = { stops: 'Cannot work', risky: 'Risky', advice: 'Good to know', holds: 'Holds' } as const
const harm = ['stops', 'risky', 'advice', 'holds']

/** What Check found that belongs to one part, in its margin: the same findings, set aside and shown again in Check. */
export function PartFindings({ part, first, but }: { part: 'rig' | 'sense' | 'move'; first?: string; but?: (code: string) => boolean }) {
  const { rig } = useRig()
  const findings = useQuery({
    queryKey: [...partKey(rig.id, 'check', rig.copy), 'findings'],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/findings', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  const own = (findings.data ?? [])
    .filter((f) => f.part === part && f.severity !== 'holds' && f.silenced === null && f.because === null && !but?.(f.code))
    .sort(
      (a, b) =>
        Number(b.device === first && first !== undefined) - Number(a.device === first && first !== undefined) ||
        harm.indexOf(a.severity) - harm.indexOf(b.severity),
    )
  if (own.length === 0) return null
  return (
    <section aria-label="Found by Check" className="part-findings">
      <h2 className="small-head">Found by Check</h2>
      {own.map((f) => (
        <Note
          key={f.key}
          tone={f.severity}
          word={`${words[f.severity]}${f.state ? `, in ${f.state}` : ''}`}
          title={f.headline}
          action={
            <Button
              component={Link}
              variant="text"
              to={`/rigs/${rig.id}/check?copy=${rig.copy}&finding=${encodeURIComponent(f.key)}`}
              aria-label={`Open in Check: ${f.headline}`}
            >
              Open in Check
            </Button>
          }
        >
          {f.say}
        </Note>
      ))}
    </section>
  )
}
