import { memo, useCallback, useEffect, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import type { Block } from './sheet'

/** From how many blocks on only those in sight are drawn. */
const few = 24

/**
 * Which blocks of a sheet are drawn. Those out of sight rest: they are there with their words, so that the browser finds and
 * prints them, but without anything to act on.
 */
export function useInSight(count: number) {
  const [near, setNear] = useState<ReadonlySet<number>>(() => new Set(Array.from({ length: few }, (_, i) => i)))
  const [all, setAll] = useState(false)
  const heights = useRef(new Map<string, number>())
  const at = useRef(new Map<Element, number>())
  const observer = useRef<IntersectionObserver | null>(null)
  const watch = useCallback((element: HTMLElement | null, index: number) => {
    if (!element) return
    observer.current ??= new IntersectionObserver(
      (entries) =>
        setNear((before) => {
          const next = new Set(before)
          for (const e of entries) {
            const index = at.current.get(e.target)
            if (index === undefined) continue
            // What is drawn and far away keeps its height, so that nothing jumps.
            const path = (e.target as HTMLElement).dataset.path
            if (path && !e.isIntersecting && e.boundingClientRect.height > 0) heights.current.set(path, e.boundingClientRect.height)
            if (e.isIntersecting) next.add(index)
            // Where somebody is at work it stays as it is.
            else if (!e.target.contains(document.activeElement)) next.delete(index)
          }
          return next
        }),
      { rootMargin: '900px 0px' },
    )
    const watched = observer.current
    at.current.set(element, index)
    watched.observe(element)
    return () => {
      watched.unobserve(element)
      at.current.delete(element)
    }
  }, [])
  useEffect(() => {
    const before = () => flushSync(() => setAll(true))
    const after = () => setAll(false)
    window.addEventListener('beforeprint', before)
    window.addEventListener('afterprint', after)
    return () => {
      window.removeEventListener('beforeprint', before)
      window.removeEventListener('afterprint', after)
      observer.current?.disconnect()
      observer.current = null
    }
  }, [])
  return {
    drawn: (index: number) => all || count <= few || near.has(index),
    draw: (index: number) => setNear((n) => (index < 0 || n.has(index) ? n : new Set(n).add(index))),
    watch: count <= few ? undefined : watch,
    heights: heights.current,
  }
}

/** Where a block stands, drawn or not. */
export function Place({
  index,
  path,
  watch,
  children,
}: {
  index: number
  path: string
  watch: ((element: HTMLElement | null, index: number) => void | (() => void)) | undefined
  children: React.ReactNode
}) {
  const ref = useCallback((element: HTMLElement | null) => watch?.(element, index), [watch, index])
  return (
    <div ref={ref} data-path={path}>
      {children}
    </div>
  )
}

/** A block out of sight, in its own words. */
export const Resting = memo(function Resting({ block, height }: { block: Block; height: number | undefined }) {
  const said = [...block.regions, ...(block.head ? [block.head] : []), ...block.lines]
    .flatMap((l) => [...l.comments.map((c) => c.text), l.text])
    .join('\n')
  return (
    <div
      className="block resting"
      id={block.owner ? `state-${block.owner}` : undefined}
      style={{ minHeight: height ?? 30 + block.lines.length * 31 }}
    >
      {said}
    </div>
  )
})
