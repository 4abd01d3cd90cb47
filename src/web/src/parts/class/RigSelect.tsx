import { useQuery } from '@tanstack/react-query'
import TextField from '@mui/material/TextField'
import { client, unwrap } from '../../app/api'

/** Chooses one of the desk's rigs, or that the teams bring their own. */
export function RigSelect({ label, value, onChange }: { label: string; value: string; onChange: (rig: string) => void }) {
  const rigs = useQuery({ queryKey: ['rigs'], queryFn: () => unwrap(client.GET('/api/rigs')), staleTime: 0 })
  const there = (rigs.data ?? []).filter((r) => !r.archived || r.id === value)
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
      style={{ minWidth: 220 }}
    >
      <option value="">a rig that the teams bring</option>
      {value !== '' && rigs.data && there.every((r) => r.id !== value) && <option value={value}>{value}, which is not here</option>}
      {there.map((r) => (
        <option key={r.id} value={r.id}>
          {r.name}
        </option>
      ))}
    </TextField>
  )
}
