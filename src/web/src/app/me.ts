import { useEffect } from 'react'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { client, unwrap } from './api'
import { connect } from './live'

export const meKey = ['me']

/** Who this page is: the desk, or somebody in the room; asked anew whenever something of the room changes. */
export function useMe() {
  return useQuery({
    queryKey: meKey,
    queryFn: () => unwrap(client.GET('/api/me')),
    staleTime: 0,
    // A fallback for when the word got lost with the connection.
    refetchInterval: 20_000,
  })
}

/** Hears of the room. What is asked for anew begins with one of these keys. */
export function useFollowRoom(joined: boolean, part?: string) {
  const queries = useQueryClient()
  useEffect(() => {
    if (!joined) return
    let hub: Awaited<ReturnType<typeof connect>> | undefined
    let gone = false
    const changed = () => {
      void queries.invalidateQueries({ queryKey: meKey })
      void queries.invalidateQueries({ queryKey: ['room'] })
      void queries.invalidateQueries({ queryKey: ['rigs'] })
    }
    const follow = () => {
      void hub?.invoke('FollowRoom').catch(() => undefined)
      changed()
    }
    void connect().then((h) => {
      if (gone) return
      hub = h
      h.on('Room', changed)
      h.onreconnected(follow)
      follow()
    })
    return () => {
      gone = true
      hub?.off('Room', changed)
    }
  }, [joined, queries])
  useEffect(() => {
    if (joined && part) void connect().then((h) => h.invoke('At', part).catch(() => undefined))
  }, [joined, part])
}

/** True for a team in the room: what only the desk does is not offered to it. */
export const useIsTeam = () => useMe().data?.who === 'team'
