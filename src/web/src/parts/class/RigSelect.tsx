import { useQuery } from '@tanstack/react-query'
import { client, unwrap } from '../../app/api'
import { Choose } from './Choose'

/** Chooses one of the desk's rigs, or that the teams bring their own. */
export function RigSelect({
  label,
  value,
  onChange,
  none = 'a rig that the teams bring',
  fault,
}: {
  label: string
  value: string
  onChange: (rig: string) => void
  /** What stands there for none. */
  none?: string
  fault?: string | undefined
}) {
  const rigs = useQuery({ queryKey: ['rigs'], queryFn: () => unwrap(client.GET('/api/rigs')), staleTime: 0 })
  const there = (rigs.data ?? []).filter((r) => !r.archived || r.id === value)
  const gone = value !== '' && rigs.data !== undefined && there.every((r) => r.id !== value)
  return (
    <Choose
      label={label}
      value={value}
      onChange={onChange}
      width={220}
      fault={fault}
      all={[
        ['', none],
        ...(gone ? [[value, `${value}, which is not here`] as [string, string]] : []),
        ...there.map((r): [string, string] => [r.id, r.name]),
      ]}
    />
  )
}
