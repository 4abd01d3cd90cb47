import { newKey } from '../../app/keys'
import type { Act } from './sheet'

/** A line being typed: an existing one, or a new one. */
export type Draft = {
  /** What keeping it does, and to which line; 0 for the program. */
  act: Act
  line: number
  part: string
  owner: string
  text: string
  /** The revision and script it was begun on, and what stood on its line there. */
  revision: number
  base: string
  was: string
}

type Kept = { draft: Draft; tab: string; touched: number }

const prefix = (rig: string) => `chiton-draft-2-${rig}-`

// Survives a reload of this tab, but is not shared with others.
const tab = (() => {
  const known = sessionStorage.getItem('chiton-tab') ?? newKey()
  sessionStorage.setItem('chiton-tab', known)
  return known
})()

/** How long a tab may be silent before what it was typing is taken up by another, ms. */
const silence = 15_000

/** Keeps what is being typed; null forgets it. */
export function keepDraft(rig: string, draft: Draft | null) {
  if (draft) localStorage.setItem(prefix(rig) + tab, JSON.stringify({ draft, tab, touched: Date.now() } satisfies Kept))
  else localStorage.removeItem(prefix(rig) + tab)
}

/** What this tab was typing before it was loaded, or a tab that is gone. */
export function restoreDraft(rig: string): Draft | null {
  const keys = Object.keys(localStorage).filter((k) => k.startsWith(prefix(rig)))
  for (const key of keys.sort((k) => (k.endsWith(tab) ? -1 : 1))) {
    const kept = JSON.parse(localStorage.getItem(key)!) as Kept
    if (kept.tab !== tab && Date.now() - kept.touched < silence) continue
    localStorage.removeItem(key)
    keepDraft(rig, kept.draft)
    return kept.draft
  }
  return null
}
