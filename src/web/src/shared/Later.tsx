import type { ReactNode } from 'react'

/** An honest page of what will stand in a part that is not built yet. */
export function Later({ name, children }: { name: string; children: ReactNode }) {
  return (
    <main className="page">
      <h2 className="page-title">{name}</h2>
      <p className="lead">{children}</p>
    </main>
  )
}
