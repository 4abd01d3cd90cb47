import { useEffect, useState } from 'react'

/** Seconds left, counted down between answers. */
export function useLeft(leftS: number | null | undefined): number | null {
  const [left, setLeft] = useState<number | null>(leftS ?? null)
  useEffect(() => {
    setLeft(leftS ?? null)
    if (leftS === null || leftS === undefined) return
    const until = performance.now() + 1000 * leftS
    const timer = setInterval(() => setLeft(Math.max(0, (until - performance.now()) / 1000)), 1000)
    return () => clearInterval(timer)
  }, [leftS])
  return left
}

/** "12 min left", or that the time is over. */
export const leftWords = (left: number) =>
  left <= 0 ? 'time is over' : left < 60 ? 'less than a minute left' : `${Math.ceil(left / 60)} min left`
