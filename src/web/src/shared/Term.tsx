import { useId, useState } from 'react'
import { useHelp } from '../app/help'

/** A word of ours where it first stands on a page: a press, or the pointer on it, says what it means. */
export function Term({ word, children }: { word: string; children?: string }) {
  const id = useId()
  const [open, setOpen] = useState(false)
  const says = useHelp().data?.words[word.toLowerCase()]
  if (!says) return <>{children ?? word}</>
  return (
    <span className="term">
      <button
        type="button"
        aria-expanded={open}
        aria-controls={id}
        onClick={() => setOpen(!open)}
        onBlur={() => setOpen(false)}
        onKeyDown={(e) => {
          if (e.key === 'Escape' && open) {
            e.stopPropagation()
            setOpen(false)
          }
        }}
        title={says}
      >
        {children ?? word}
      </button>
      {open && (
        <span id={id} role="note" className="term-says">
          {says}
        </span>
      )}
    </span>
  )
}
