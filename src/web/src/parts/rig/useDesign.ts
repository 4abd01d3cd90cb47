import { useMutation, useQuery } from '@tanstack/react-query'
import { client, Problem, tabId, unwrap, type Schemas } from '../../app/api'
import { partKey, useRefresh, useRig } from '../../app/rig'

export type Design = Schemas['RigDesign']

/** The design of the open rig, and how it is changed: each change is kept at once as a revision. */
export function useDesign() {
  const { rig, say } = useRig()
  const refresh = useRefresh()
  const query = useQuery({
    queryKey: partKey(rig.id, 'design', rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/design', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  const failed = async (e: unknown) => {
    if (e instanceof Problem && e.status === 409) {
      say(`${e.message} Here is the new state; what you typed is still in its fields.`)
      await refresh()
    }
  }
  const save = useMutation({
    mutationFn: (design: Design) =>
      unwrap(
        client.PUT('/api/rigs/{id}/design', {
          params: { path: { id: rig.id } },
          body: { baseRevision: query.data!.revision, design, copy: rig.copy, by: tabId },
        }),
      ),
    onSuccess: async (done) => {
      say(`Kept as revision ${done.revision}: ${done.what}.`)
      await refresh()
    },
    onError: failed,
  })
  const rename = useMutation({
    mutationFn: (r: { what: Schemas['Renamed']; of: string | null; from: string; to: string; baseRevision: number }) =>
      unwrap(client.POST('/api/rigs/{id}/rename', { params: { path: { id: rig.id } }, body: { ...r, copy: rig.copy, by: tabId } })),
    onSuccess: async (done) => {
      say(`Kept as revision ${done.revision}: ${done.what}, here, in its readings and in the program.`)
      await refresh()
    },
    onError: failed,
  })
  // While the design is being asked for anew an edit would be made on the old one, and refused.
  return { query, save, rename, busy: save.isPending || rename.isPending || query.isFetching }
}

/** What rigs can be made of. */
export const useTemplates = () =>
  useQuery({ queryKey: ['templates'], staleTime: Infinity, queryFn: () => unwrap(client.GET('/api/rigs/templates')) })
