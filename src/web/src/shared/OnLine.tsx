import { useQuery } from '@tanstack/react-query'
import { Link, useLocation } from 'react-router'
import { client, unwrap, type Schemas } from '../app/api'
import { partKey, useRig } from '../app/rig'
import { show } from './format'

export type OutsideLine = Schemas['OutsideLine']

// How long ago something was called out stands there, and must not grow old.
const AGAIN_MS = 20_000

/** The line of the copy; looked at anew when it is told that something changed there, and more often where a page shows what comes. */
export function useLine(everyMs = AGAIN_MS) {
  const { rig } = useRig()
  return useQuery({
    queryKey: partKey(rig.id, 'line', rig.copy),
    enabled: rig.kind === 'real',
    refetchInterval: everyMs,
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/line', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  }).data
}

/** How often something was called out, and when last. */
export function howOften({ times, agoS }: OutsideLine['complaints'][number]) {
  const last = agoS < 60 ? 'just now' : agoS < 3600 ? `${Math.floor(agoS / 60)} min ago` : `${Math.floor(agoS / 3600)} h ago`
  return times > 1 ? `${show(times)} times, last ${last}.` : `${last[0]!.toUpperCase()}${last.slice(1)}.`
}

/** Whether the real thing answers, in one sentence; nothing for copies that are on no line. */
export function OnLine({ line }: { line: OutsideLine | undefined }) {
  const { rig } = useRig()
  const { search } = useLocation()
  if (!line || line.standing === 'none') return null
  const latest = [...line.complaints].sort((a, b) => a.agoS - b.agoS)[0]
  return (
    <p className="fine" role="status" data-testid="on-line">
      <span className={line.standing === 'joined' ? 'solid' : 'stops'}>
        {line.standing === 'joined' ? 'On the line.' : 'The line is out.'}
      </span>{' '}
      {line.say}{' '}
      {latest && (
        <>
          <span className="risky">{latest.say}</span> {howOften(latest)}{' '}
        </>
      )}
      <Link to={{ pathname: `/rigs/${rig.id}/rig/line`, search }}>Look at the line</Link>
    </p>
  )
}
