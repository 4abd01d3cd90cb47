import { useState } from 'react'
import type { Draft } from './fields'
import type { List } from './describeFields'

/** Fields that were typed into and are not kept yet. */
export type Unfinished = {
  id: string
  list: List
  /** Where it stands among those of its list; null while it is new. */
  index: number | null
  draft: Draft
  /** Why it cannot be kept; empty while nobody tried. */
  why: string[]
  /** What was kept last, as text; empty while it is new. */
  sent: string
  /** What the rig held when this was last in step with it. */
  base: string
}

const place = (rig: string) => `chiton unfinished ${rig}`

const read = (rig: string): Unfinished[] => {
  try {
    return JSON.parse(sessionStorage.getItem(place(rig)) ?? '[]') as Unfinished[]
  } catch {
    // A browser that refuses storage keeps them for as long as the page stands.
    return []
  }
}

/** What is typed and not kept yet outlives the fields, the view and a reload. */
export function useUnfinished(rig: string) {
  const [all, setAll] = useState(() => read(rig))
  const change = (next: (was: Unfinished[]) => Unfinished[]) =>
    setAll((was) => {
      const now = next(was)
      try {
        sessionStorage.setItem(place(rig), JSON.stringify(now))
      } catch {
        // As above.
      }
      return now
    })
  return {
    all,
    put: (u: Unfinished) => change((was) => (was.some((x) => x.id === u.id) ? was.map((x) => (x.id === u.id ? u : x)) : [...was, u])),
    drop: (id: string) => change((was) => was.filter((x) => x.id !== id)),
  }
}
