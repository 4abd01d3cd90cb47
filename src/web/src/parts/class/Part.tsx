import type { ReactNode } from 'react'

/** A part of what is written, under its name. */
export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="lesson-part">
      <h2 className="small-head">{title}</h2>
      {children}
    </section>
  )
}
