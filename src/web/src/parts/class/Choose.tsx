import TextField from '@mui/material/TextField'

/** One of several, by the browser's own list: works by keyboard and by touch alike. */
export function Choose({
  label,
  value,
  onChange,
  all,
  fault,
  width = 200,
}: {
  label: string
  value: string
  onChange: (value: string) => void
  /** What can be chosen: the value and its words. */
  all: [string, string][]
  fault?: string | undefined
  width?: number
}) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(e) => onChange(e.target.value)}
      error={fault !== undefined}
      helperText={fault}
      slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
      style={{ minWidth: width }}
    >
      {all.map(([v, words]) => (
        <option key={v} value={v}>
          {words}
        </option>
      ))}
    </TextField>
  )
}
