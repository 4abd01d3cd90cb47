import { useEffect, useMemo, useRef } from 'react'

/**
 * Where the keys were when something was asked for, and whether a hand has done anything since. An answer may come late: it
 * takes the keys along only from where they were, and moves the page only for a hand that waits.
 */
export function useHand() {
  const moved = useRef(true)
  const from = useRef<Element | null>(null)
  useEffect(() => {
    const does = () => {
      moved.current = true
    }
    const ways = ['pointermove', 'pointerdown', 'wheel', 'touchmove', 'keydown'] as const
    for (const way of ways) window.addEventListener(way, does, { capture: true, passive: true })
    return () => {
      for (const way of ways) window.removeEventListener(way, does, { capture: true })
    }
  }, [])
  return useMemo(
    () => ({
      asks: () => {
        from.current = document.activeElement
        moved.current = false
      },
      /** Takes the keys there, if they are nowhere or still where they were. False when there is no such place yet. */
      takes: (to: HTMLElement | null) => {
        if (!to) return false
        const at = document.activeElement
        if (at === null || at === document.body || at === from.current) {
          to.focus({ preventScroll: moved.current })
          from.current = to
        }
        return true
      },
    }),
    [],
  )
}
