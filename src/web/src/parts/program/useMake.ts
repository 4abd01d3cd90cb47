import { client, tabId, unwrap, type Schemas } from '../../app/api'
import { useEdit } from '../../app/edit'
import { useRig } from '../../app/rig'

/** Makes what a line that is being typed names: a state, a variable, a zone or a position. */
export function useMake(program: number | undefined) {
  const { rig } = useRig()
  const making = useEdit({
    call: (m: { offer: Schemas['MakeOffer']; line: number; base: number }) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/make', {
          params: { path: { id: rig.id } },
          body: { baseRevision: m.base, name: m.offer.name, line: m.line, copy: rig.copy, by: tabId, program: program ?? null },
        }),
      ),
    aloud: true,
  })
  return { make: (offer: Schemas['MakeOffer'], line: number, base: number) => making.keep({ offer, line, base }) }
}
