import { useSyncExternalStore } from 'react'

/** What a person chose about the page itself; the browser keeps it. */
export type Settings = { text: 100 | 115 | 130; keys: boolean }

/** Where the browser keeps runs that wait to be sent. */
export const waitingIn = 'chiton.log'

const name = 'chiton.settings'
const usual: Settings = { text: 100, keys: true }
const heard = new Set<() => void>()

const read = (): Settings => {
  try {
    const kept = JSON.parse(localStorage.getItem(name) ?? '{}') as Partial<Settings>
    return { text: kept.text === 115 || kept.text === 130 ? kept.text : 100, keys: kept.keys !== false }
  } catch {
    // What cannot be read, or may not be, is as if nothing had been chosen.
    return usual
  }
}

let now = read()

const apply = () => document.documentElement.style.setProperty('--text', String(now.text / 100))
apply()

export const settings = () => now

/** Changes some of them. Where the browser keeps nothing they hold until the page is closed. */
export function setSettings(change: Partial<Settings>) {
  now = { ...now, ...change }
  apply()
  try {
    localStorage.setItem(name, JSON.stringify(now))
  } catch {
    // A browser that refuses to keep anything is told nothing more.
  }
  for (const h of heard) h()
}

export const useSettings = () =>
  useSyncExternalStore((h) => {
    heard.add(h)
    return () => heard.delete(h)
  }, settings)
