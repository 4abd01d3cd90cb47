import { useQuery } from '@tanstack/react-query'
import { client, unwrap, type Schemas } from '../../app/api'
import { partKey, useRig } from '../../app/rig'

export type Motion = Schemas['MotionView']
export type Mechanism = Schemas['MechanismMove']
export type Quantity = Schemas['Quantity']
export type TurnStyle = Schemas['TurnStyle']

/** Move of this copy; for one motion another target may be looked at. */
export function useMove(key: string | null, target: number | null) {
  const { rig } = useRig()
  return useQuery({
    queryKey: [...partKey(rig.id, 'move', rig.copy), key, target],
    queryFn: () =>
      unwrap(
        client.GET('/api/rigs/{id}/move', {
          params: { path: { id: rig.id }, query: { copy: rig.copy, ...(key ? { key } : {}), ...(key && target ? { target } : {}) } },
        }),
      ),
    placeholderData: (p) => p,
    retry: false,
  })
}

export const typed = (text: string): number | null => {
  const t = text.trim().replace(',', '.')
  if (t === '') return null
  const v = Number(t)
  return Number.isFinite(v) ? v : null
}
