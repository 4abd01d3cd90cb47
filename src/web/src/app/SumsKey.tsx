import { lazy, Suspense, useEffect, useState } from 'react'
import Button from '@mui/material/Button'

const BenchSums = lazy(() => import('../parts/sums/BenchSums'))

/** Opens Bench sums from anywhere, at one of the sums when it is named. */
export const openSums = (name: string | null) => window.dispatchEvent(new CustomEvent('chiton-sums', { detail: name }))

/** Opens Bench sums from anywhere, by the button or Ctrl+J. */
export function SumsKey({ rig, copy }: { rig: string | null; copy: number }) {
  const [open, setOpen] = useState(false)
  const [start, setStart] = useState<string | null>(null)
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'j') {
        e.preventDefault()
        setStart(null)
        setOpen((o) => !o)
      }
    }
    const onAsked = (e: Event) => {
      setStart((e as CustomEvent<string | null>).detail)
      setOpen(true)
    }
    window.addEventListener('keydown', onKey)
    window.addEventListener('chiton-sums', onAsked)
    return () => {
      window.removeEventListener('keydown', onKey)
      window.removeEventListener('chiton-sums', onAsked)
    }
  }, [])
  return (
    <>
      <Button
        onClick={() => {
          setStart(null)
          setOpen(true)
        }}
      >
        Sums<kbd>Ctrl J</kbd>
      </Button>
      {open && (
        <Suspense fallback={null}>
          <BenchSums key={start} rig={rig} copy={copy} start={start} onClose={() => setOpen(false)} />
        </Suspense>
      )}
    </>
  )
}
