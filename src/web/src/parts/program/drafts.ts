/** A line being typed: an existing one, or a new one after another. */
export type Draft = {
  line: number
  isNew: boolean
  part: string
  owner: string
  text: string
  /** The script it was begun on, and what stood on its line there. */
  base: string
  was: string
  /** Of a new state how deep it stands, in blanks, and whether it is the first in its place. */
  indent?: number
  first?: boolean
}

type Kept = { draft: Draft; tab: string; touched: number }

const prefix = (rig: string) => `chiton-draft-${rig}-`

// Survives a reload of this tab, but is not shared with others.
const tab = (() => {
  const known = sessionStorage.getItem('chiton-tab') ?? crypto.randomUUID()
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
