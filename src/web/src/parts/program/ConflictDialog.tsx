import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import type { Program } from '../../app/api'

/** Two windows changed one text: both versions, to choose from. */
export function ConflictDialog({
  conflict,
  onSettle,
}: {
  conflict: { mine: string; theirs: Program }
  onSettle: (useMine: boolean) => void
}) {
  const [mine, theirs] = [conflict.mine.split('\n'), conflict.theirs.script.split('\n')]
  const only = (a: string[], b: string[]) => a.filter((l) => l.trim() !== '' && !b.includes(l)).map((l) => l.trim())
  return (
    <Dialog open aria-labelledby="conflict-title" maxWidth="md" fullWidth>
      <DialogTitle id="conflict-title" sx={{ fontSize: 17 }}>
        This program was changed meanwhile
      </DialogTitle>
      <DialogContent>
        <p className="lead">
          Another window kept revision {conflict.theirs.revision} while you were typing. Choose one. Theirs stays in the history; yours is
          only here until you use it.
        </p>
        <div className="cols">
          <section>
            <h3 className="small-head">Only in yours</h3>
            {only(mine, theirs).map((l, i) => (
              <p key={i} className="mono">
                {l}
              </p>
            ))}
          </section>
          <section>
            <h3 className="small-head">Only in revision {conflict.theirs.revision}</h3>
            {only(theirs, mine).map((l, i) => (
              <p key={i} className="mono">
                {l}
              </p>
            ))}
          </section>
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={() => onSettle(false)}>Keep revision {conflict.theirs.revision}</Button>
        <Button variant="contained" onClick={() => onSettle(true)}>
          Use mine instead
        </Button>
      </DialogActions>
    </Dialog>
  )
}
