import { lazy, Suspense } from 'react'
import { useLocation } from 'react-router'
import { useFollowRoom, useMe } from './me'
import { parts } from './parts'

// Fetched where a room is open: most pages are opened without one.
const RoomStrips = lazy(() => import('./RoomStrips'))

/** One line over every page while the room is open. */
export function RoomStrip() {
  const me = useMe().data
  const { pathname } = useLocation()
  const part = /^\/rigs\/[^/]+\/([a-z]+)/.exec(pathname)?.[1]
  useFollowRoom(me?.open === true && me.who !== 'stranger', me?.who === 'team' && parts.some((p) => p.part === part) ? part : undefined)
  if (!me?.open || me.who === 'stranger') return null
  return (
    <Suspense fallback={null}>
      <RoomStrips me={me} />
    </Suspense>
  )
}
