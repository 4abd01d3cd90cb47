import { createContext, useContext } from 'react'
import { useSearchParams } from 'react-router'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { client, tabId, sentencesOf, unwrap, type Rig } from './api'

/** The open rig and copy. */
export const RigContext = createContext<{ rig: Rig; say: (what: string) => void } | null>(null)

export function useRig() {
  const value = useContext(RigContext)
  if (!value) throw new Error('No rig is open here.')
  return value
}

export const rigKey = (id: string, copy?: number) => ['rig', id, copy]
export const partKey = (id: string, part: string, copy: number) => ['part', id, part, copy]

/** Which of the rig's programs is open, by its place; undefined for the one that runs. */
export function useProgramIndex(): number | undefined {
  const [params] = useSearchParams()
  const at = params.get('program')
  return at !== null && /^\d+$/.test(at) ? Number(at) : undefined
}

export const programKey = (id: string, copy: number, program?: number) => [...partKey(id, 'program', copy), program ?? null]

export function useProgram() {
  const { rig } = useRig()
  const program = useProgramIndex()
  return useQuery({
    queryKey: programKey(rig.id, rig.copy, program),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/program', { params: { path: { id: rig.id }, query: { copy: rig.copy, program } } })),
    retry: false,
  })
}

export function useLatestRun() {
  const { rig } = useRig()
  return useQuery({
    queryKey: partKey(rig.id, 'run', rig.copy),
    queryFn: async () =>
      (await unwrap(client.GET('/api/rigs/{id}/runs/latest', { params: { path: { id: rig.id }, query: { copy: rig.copy } } }))).run,
  })
}

/** Runs once with a seed; the run becomes the latest one everywhere. */
export function useRunOnce() {
  const { rig } = useRig()
  const queries = useQueryClient()
  const answered = useAnswered()
  return useMutation({
    mutationFn: (
      asked:
        | number
        | {
            seed: number
            scene?: string
            held?: { name: string; value: number }[]
            copySeed?: number | null
            numbers?: { line: number; index: number; value: number }[]
            program?: number
          },
    ) =>
      unwrap(
        client.POST('/api/rigs/{id}/runs', {
          params: { path: { id: rig.id } },
          body: {
            seed: typeof asked === 'number' ? asked : asked.seed,
            scene: typeof asked === 'number' ? null : (asked.scene ?? null),
            held: typeof asked === 'number' ? null : (asked.held ?? null),
            copySeed: typeof asked === 'number' ? null : (asked.copySeed ?? null),
            numbers: typeof asked === 'number' ? null : (asked.numbers ?? null),
            program: typeof asked === 'number' ? null : (asked.program ?? null),
            copy: rig.copy,
            revision: null,
            durationS: null,
            faults: null,
            rateHz: null,
          },
        }),
      ),
    onSuccess: async (run) => {
      await answered(partKey(rig.id, 'run', rig.copy), run)
      void queries.invalidateQueries({ queryKey: ['rig', rig.id] })
    },
  })
}

/** Forgets what is known of a rig, so that it is asked again; all but what was just answered. */
export function useRefresh() {
  const { rig } = useRig()
  const queries = useQueryClient()
  return (but?: readonly unknown[]) => {
    const known = but && JSON.stringify(but)
    return Promise.all([
      queries.invalidateQueries({ queryKey: ['part', rig.id], predicate: (q) => JSON.stringify(q.queryKey) !== known }),
      queries.invalidateQueries({ queryKey: ['rig', rig.id] }),
    ])
  }
}

/** Puts an answer in place of what is known. What was asked for before is let go of: it is older, and may come later. */
export function useAnswered() {
  const queries = useQueryClient()
  return async <T>(key: readonly unknown[], answer: T) => {
    await queries.cancelQueries({ queryKey: key, exact: true })
    queries.setQueryData<T>(key, answer)
  }
}

/** Undo, redo and send. */
export function useRigActions() {
  const { rig, say } = useRig()
  const refresh = useRefresh()
  const body = { copy: rig.copy, by: tabId }
  const at = { params: { path: { id: rig.id } }, body }
  const undo = useMutation({
    mutationFn: () => unwrap(client.POST('/api/rigs/{id}/undo', at)),
    onSuccess: async (done) => {
      say(done.what ? `Undone: ${done.what}.` : 'Nothing to undo.')
      await refresh()
    },
    onError: async (error) => {
      say(sentencesOf(error).join(' '))
      await refresh()
    },
  })
  const redo = useMutation({
    mutationFn: () => unwrap(client.POST('/api/rigs/{id}/redo', at)),
    onSuccess: async (done) => {
      say(done.what ? `Done again: ${done.what}.` : 'Nothing to redo.')
      await refresh()
    },
    onError: async (error) => {
      say(sentencesOf(error).join(' '))
      await refresh()
    },
  })
  const send = useMutation({
    mutationFn: () => unwrap(client.POST('/api/rigs/{id}/send', at)),
    onSuccess: async (done) => {
      say(`The controller of copy ${rig.copy} now holds revision ${done.revision}.`)
      await refresh()
    },
    onError: async (error) => {
      say(sentencesOf(error).join(' '))
      await refresh()
    },
  })
  return { undo, redo, send }
}
