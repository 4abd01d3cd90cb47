import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { client, unwrap, type Schemas } from '../../app/api'

export type Heats = Schemas['HeatsView']
export type Heat = Schemas['HeatView']

/** The heats of a class; of the room's own where none is named. */
export function useHeatsOf(room: number | null, enabled = true) {
  return useQuery({
    queryKey: ['room', 'heats-of', room],
    queryFn: () => unwrap(client.GET('/api/heats', { params: { query: room === null ? {} : { class: room } } })),
    staleTime: 0,
    // A fallback for when the word got lost with the connection.
    refetchInterval: 20_000,
    enabled,
  })
}

/** Heats as they stand, asked for anew whenever something is written down. */
export function useHeats(id: number | null) {
  return useQuery({
    queryKey: ['room', 'heats', id],
    queryFn: () => unwrap(client.GET('/api/heats/{heats}', { params: { path: { heats: id! } } })),
    staleTime: 0,
    refetchInterval: 20_000,
    enabled: id !== null && Number.isInteger(id),
  })
}

const useWrite = <T>(call: (body: T) => Promise<unknown>) => {
  const queries = useQueryClient()
  return useMutation({ mutationFn: call, onSettled: () => queries.invalidateQueries({ queryKey: ['room'] }) })
}

/** What a judge writes down. */
export function useJudging(heats: number) {
  const path = { heats }
  return {
    score: useWrite((body: Schemas['ScoreRequest']) => unwrap(client.POST('/api/heats/{heats}/score', { params: { path }, body }))),
    rerun: useWrite((body: Schemas['RerunRequest']) => unwrap(client.POST('/api/heats/{heats}/rerun', { params: { path }, body }))),
    undo: useWrite((of: number) => unwrap(client.POST('/api/heats/{heats}/undo', { params: { path }, body: { of } }))),
  }
}

/** A score as it is read. */
export const score = (value: number | null | undefined, unit: string) =>
  value === null || value === undefined ? 'does not count' : `${+value.toFixed(2)} ${unit}`

/** A share of hundred, as it is read: what is hardly possible is not said to be impossible. */
export const share = (p: number) => (p <= 0 ? '0' : p < 0.005 ? '<1' : p > 0.995 && p < 1 ? '>99' : String(Math.round(100 * p)))
