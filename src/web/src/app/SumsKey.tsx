import { lazy, Suspense, useEffect, useState } from 'react'
import Button from '@mui/material/Button'

const BenchSums = lazy(() => import('../parts/sums/BenchSums'))

/** Opens Bench sums from anywhere, by the button or Ctrl+J. */
export function SumsKey({ rig, copy }: { rig: string | null; copy: number }) {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'j') {
        e.preventDefault()
        setOpen((o) => !o)
      }
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [])
  return (
    <>
      <Button onClick={() => setOpen(true)}>
        Sums<kbd>Ctrl J</kbd>
      </Button>
      {open && (
        <Suspense fallback={null}>
          <BenchSums rig={rig} copy={copy} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  )
}
