import { useState } from 'react'
import { useQueryClient } from '@tanstack/react-query'
import { client, tabId, unwrap, type Program } from '../../app/api'
import { useEdit } from '../../app/edit'
import { programKey, useProgramIndex, useRefresh, useRig } from '../../app/rig'

/** Keeps the whole text of the program. */
export function useScript(program: Program | undefined) {
  const { rig } = useRig()
  const which = useProgramIndex()
  const queries = useQueryClient()
  const refresh = useRefresh()
  const key = programKey(rig.id, rig.copy, which)
  const [conflict, setConflict] = useState<{ mine: string; theirs: Program } | null>(null)
  const edit = useEdit({
    call: ({ script, base }: { script: string; base: number }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/program', {
          params: { path: { id: rig.id } },
          body: { script, baseRevision: base, copy: rig.copy, by: tabId, program: which ?? null },
        }),
      ),
    done: () => setConflict(null),
    stale: async ({ script }) => {
      const theirs = await unwrap(
        client.GET('/api/rigs/{id}/program', { params: { path: { id: rig.id }, query: { copy: rig.copy, program: which } } }),
      )
      if (theirs.script === script) queries.setQueryData(key, theirs)
      else setConflict({ mine: script, theirs })
    },
  })
  return {
    busy: edit.busy,
    problem: edit.problem,
    conflict,
    keep: (script: string) => {
      if (program && script !== program.script) edit.keep({ script, base: program.revision })
    },
    settle: (useMine: boolean) => {
      if (!conflict) return
      queries.setQueryData(key, conflict.theirs)
      if (useMine) edit.keep({ script: conflict.mine, base: conflict.theirs.revision })
      else {
        setConflict(null)
        void refresh()
      }
    },
  }
}
