import type { ReactNode } from 'react'

/** A margin note: a word, a headline, a sentence, and at most one button. */
export function Note({
  tone,
  word,
  title,
  children,
  lead,
  action,
  id,
}: {
  id?: string
  tone: string
  word: string
  title: string
  children?: ReactNode
  lead?: boolean
  action?: ReactNode
}) {
  return (
    <section id={id} tabIndex={id ? -1 : undefined} className={`note${lead ? ' lead-note' : ''}`}>
      <small className={tone}>{word}</small>
      <h3>{title}</h3>
      {children && <p>{children}</p>}
      {action}
    </section>
  )
}
