import { useEffect, useRef, useState } from 'react'

/** The width of an element, so that charts are drawn at 1:1. */
export function useWidth<T extends HTMLElement>(initial = 1000, least = 640) {
  const ref = useRef<T>(null)
  const [width, setWidth] = useState(initial)
  useEffect(() => {
    const element = ref.current
    if (!element) return
    const observer = new ResizeObserver((entries) => {
      const entry = entries[0]
      if (entry) setWidth(Math.max(least, Math.floor(entry.contentRect.width)))
    })
    observer.observe(element)
    return () => observer.disconnect()
  }, [least])
  return { ref, width }
}
