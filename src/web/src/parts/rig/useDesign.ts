import { useQuery } from '@tanstack/react-query'
import { client, tabId, unwrap, type Schemas } from '../../app/api'
import { useEdit } from '../../app/edit'
import { partKey, useRig } from '../../app/rig'

export type Design = Schemas['RigDesign']

/** The design of the open rig, and how it is changed: each change is kept at once as a revision. */
export function useDesign() {
  const { rig } = useRig()
  const query = useQuery({
    queryKey: partKey(rig.id, 'design', rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/design', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  const save = useEdit({
    call: (design: Design) =>
      unwrap(
        client.PUT('/api/rigs/{id}/design', {
          params: { path: { id: rig.id } },
          body: { baseRevision: query.data!.revision, design, copy: rig.copy, by: tabId },
        }),
      ),
  })
  const rename = useEdit({
    call: (r: { what: Schemas['Renamed']; of: string | null; from: string; to: string; baseRevision: number }) =>
      unwrap(client.POST('/api/rigs/{id}/rename', { params: { path: { id: rig.id } }, body: { ...r, copy: rig.copy, by: tabId } })),
    said: (done) => `Kept as revision ${done.revision}: ${done.what}, here, in its readings and in the program.`,
  })
  // While the design is being asked for anew an edit would be made on the old one, and refused.
  return { query, save, rename, busy: save.isPending || rename.isPending || query.isFetching }
}

/** What rigs can be made of. */
export const useTemplates = () =>
  useQuery({ queryKey: ['templates'], staleTime: Infinity, queryFn: () => unwrap(client.GET('/api/rigs/templates')) })
