import { newKey } from '../../app/keys'
import { useState } from 'react'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { type Schemas } from '../../app/api'
import { useScenes } from '../../app/scenes'

type Series = Schemas['SeriesRequest'] & { key: string }

/** What is the same in a series of runs, said once. */
export function SeriesForm({ last, onBegin }: { last?: Partial<Series>; onBegin: (s: Series) => void }) {
  const known = useScenes()
  const scenes = known.data?.scenes ?? []
  const [planned, setPlanned] = useState(String(last?.planned ?? 10))
  const [scene, setScene] = useState(last?.scene ?? '')
  const [told, setTold] = useState({ light: last?.light ?? '', pack: last?.pack ?? '', floor: last?.floor ?? '', who: last?.who ?? '' })
  const runs = planned.trim() === '' ? 0 : Number(planned)
  const bad = !Number.isInteger(runs) || runs < 0 || runs > 500
  const words = { light: 'Light', pack: 'Pack', floor: 'Floor', who: 'Who starts it' } as const
  return (
    <form
      className="row log-series"
      onSubmit={(e) => {
        e.preventDefault()
        if (!bad) onBegin({ key: newKey(), timeUtc: new Date().toISOString(), copy: null, planned: runs, scene: scene || null, ...told })
      }}
    >
      <TextField
        size="small"
        label="Runs"
        value={planned}
        onChange={(e) => setPlanned(e.target.value)}
        error={bad}
        helperText={bad ? 'A whole number from 0 to 500.' : ''}
        style={{ width: 90 }}
        slotProps={{ htmlInput: { inputMode: 'numeric' } }}
        autoFocus
      />
      {(known.isPending || scenes.length > 1) && (
        <TextField
          select
          size="small"
          label="Held against"
          value={scene}
          onChange={(e) => setScene(e.target.value)}
          slotProps={{ select: { native: true }, inputLabel: { shrink: true } }}
        >
          <option value="">the scene that counts</option>
          {scenes.map((s) => (
            <option key={s.name}>{s.name}</option>
          ))}
        </TextField>
      )}
      {(Object.keys(words) as (keyof typeof words)[]).map((k) => (
        <TextField
          key={k}
          size="small"
          label={words[k]}
          value={told[k]}
          onChange={(e) => setTold({ ...told, [k]: e.target.value })}
          slotProps={{ htmlInput: { maxLength: 100 } }}
          style={{ width: 150 }}
        />
      ))}
      <Button type="submit" variant="contained">
        Begin
      </Button>
    </form>
  )
}
