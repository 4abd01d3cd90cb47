import { useEffect, useRef, useState, useSyncExternalStore } from 'react'
import { useQueryClient } from '@tanstack/react-query'
import type { HubConnection } from '@microsoft/signalr'
import { tabId } from './api'

export type JobProgress = { job: string; done: number; total: number; passed: number; remainingS: number | null; readings: number[] | null }
type Change = { rig: string; revision: number; what: string; by: string | null }
type Live = { reading: number | null; zone: string | null; all: number[] | null; word: string | null }

let connected = true
const watchers = new Set<() => void>()
const setConnected = (value: boolean) => {
  if (connected === value) return
  connected = value
  watchers.forEach((w) => w())
}

/** False while the bench cannot be reached. */
export const useConnected = () =>
  useSyncExternalStore(
    (w) => (watchers.add(w), () => watchers.delete(w)),
    () => connected,
  )

const progressListeners = new Set<(p: JobProgress) => void>()
let connection: Promise<HubConnection> | undefined

/** The hub, connected. */
export function connect(): Promise<HubConnection> {
  // The hub's client is fetched after the page stands, so that the first page stays small.
  connection ??= import('@microsoft/signalr').then(async ({ HubConnectionBuilder, LogLevel }) => {
    const hub = new HubConnectionBuilder()
      .withUrl('/hub')
      .withAutomaticReconnect({ nextRetryDelayInMilliseconds: () => 1000 })
      .configureLogging(LogLevel.None)
      .build()
    hub.on('Progress', (p: JobProgress) => progressListeners.forEach((l) => l(p)))
    hub.onreconnecting(() => setConnected(false))
    for (;;) {
      try {
        await hub.start()
        setConnected(true)
        return hub
      } catch {
        setConnected(false)
        await new Promise((r) => setTimeout(r, 1000))
      }
    }
  })
  return connection
}

/** Hears of changes to a rig made in other tabs and of new rates. */
export function useFollow(rig: string | undefined, onChanged?: (what: string) => void) {
  const queries = useQueryClient()
  const told = useRef(onChanged)
  told.current = onChanged
  useEffect(() => {
    if (!rig) return
    let hub: HubConnection | undefined
    let gone = false
    const changed = (c: Change) => {
      if (c.rig !== rig) return
      void queries.invalidateQueries({ queryKey: ['rig', rig] })
      if (c.by !== tabId) {
        void queries.invalidateQueries({ queryKey: ['part', rig] })
        told.current?.(c.what)
      }
    }
    const rate = (id: string) => {
      if (id !== rig) return
      void queries.invalidateQueries({ queryKey: ['rig', rig] })
      // What was promised of revisions that ran may be known now.
      void queries.invalidateQueries({ queryKey: ['part', rig, 'log'] })
    }
    // What the bench said may change every finding, in every part.
    const tried = (id: string) => {
      if (id !== rig) return
      void queries.invalidateQueries({ queryKey: ['rig', rig] })
      void queries.invalidateQueries({ queryKey: ['part', rig] })
    }
    const line = (id: string) => {
      if (id === rig) void queries.invalidateQueries({ queryKey: ['part', rig, 'line'] })
    }
    const follow = () => {
      setConnected(true)
      // What is not ours says so on the page.
      void hub?.invoke('Follow', rig).catch(() => undefined)
      void queries.invalidateQueries({ queryKey: ['rig', rig] })
      void queries.invalidateQueries({ queryKey: ['part', rig] })
    }
    void connect().then((h) => {
      if (gone) return
      hub = h
      h.on('Changed', changed)
      h.on('Rate', rate)
      h.on('Tried', tried)
      h.on('Line', line)
      h.onreconnected(follow)
      void h.invoke('Follow', rig).catch(() => undefined)
    })
    return () => {
      gone = true
      hub?.off('Changed', changed)
      hub?.off('Rate', rate)
      hub?.off('Tried', tried)
      hub?.off('Line', line)
    }
  }, [rig, queries])
}

/** Progress of one job. */
export function useProgress(job: string | null, onReadings?: (readings: number[]) => void): JobProgress | null {
  const [progress, setProgress] = useState<JobProgress | null>(null)
  const told = useRef(onReadings)
  told.current = onReadings
  useEffect(() => {
    setProgress(null)
    if (!job) return
    const listen = (p: JobProgress) => {
      if (p.job !== job) return
      setProgress(p)
      if (p.readings) told.current?.(p.readings)
    }
    progressListeners.add(listen)
    return () => void progressListeners.delete(listen)
  }, [job])
  return progress
}

/** Live readings of a sensor, until paused. Those over a line end with it, and begin again when somebody answers anew. */
export function useLive(
  rig: string,
  copy: number,
  sensor: string,
  over: string,
  amount: number | null,
  paused: boolean,
  joins: number,
): Live | null {
  const [live, setLive] = useState<Live | null>(null)
  useEffect(() => {
    if (paused || !over) return
    let stop: (() => void) | undefined
    let gone = false
    void connect().then((h) => {
      if (gone) return
      const subscription = h
        .stream<Live>('Live', rig, copy, sensor, over, amount !== null && Number.isFinite(amount) ? amount : null)
        .subscribe({ next: setLive, error: () => undefined, complete: () => undefined })
      stop = () => subscription.dispose()
    })
    return () => {
      gone = true
      stop?.()
    }
  }, [rig, copy, sensor, over, amount, paused, joins])
  return live
}
