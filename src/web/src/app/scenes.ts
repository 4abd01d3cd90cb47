import { useQuery, useQueryClient } from '@tanstack/react-query'
import { client, tabId, unwrap, type Schemas } from './api'
import { useEdit } from './edit'
import { partKey, useRig } from './rig'

export type Scene = Schemas['SceneView']
export type Plan = Schemas['ScenePlan']

export const scenesKey = (id: string, copy: number) => partKey(id, 'scenes', copy)

/** The scenes of the open rig. */
export function useScenes() {
  const { rig } = useRig()
  return useQuery({
    queryKey: scenesKey(rig.id, rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/scenes', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
}

/** Writes the scenes anew. */
export function useSaveScenes() {
  const { rig } = useRig()
  const queries = useQueryClient()
  return useEdit({
    call: ({ texts, what }: { texts: string[]; what: string }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/scenes', {
          params: { path: { id: rig.id } },
          body: {
            // What is written anew was read at this revision, which the header may not have heard of yet.
            baseRevision: queries.getQueryData<Schemas['ScenesView']>(scenesKey(rig.id, rig.copy))?.revision ?? rig.revision,
            scenes: texts,
            what,
            copy: rig.copy,
            by: tabId,
          },
        }),
      ),
    done: () => queries.invalidateQueries({ queryKey: scenesKey(rig.id, rig.copy) }),
  })
}
