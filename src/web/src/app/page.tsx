import { useEffect, useState, type ComponentType } from 'react'
import { Moment } from '../shared/Moment'

type Load = () => Promise<{ default: ComponentType }>
const loaded = new Map<Load, ComponentType>()

/** Fetches the code of a page, once. */
export async function fetchPage(load: Load) {
  const page = (await load()).default
  loaded.set(load, page)
  return page
}

/** A page whose code is fetched when it is opened; drawn at once when it is there already. */
export function page(load: Load) {
  return function Page() {
    const [, draw] = useState(0)
    const [failed, setFailed] = useState(false)
    const Loaded = loaded.get(load)
    useEffect(() => {
      if (loaded.has(load)) return
      let here = true
      void fetchPage(load).then(
        () => here && draw((n) => n + 1),
        () => here && setFailed(true),
      )
      return () => {
        here = false
      }
    }, [])
    if (Loaded) return <Loaded />
    return failed ? (
      <main className="page">
        <p className="fault" role="alert">
          This page could not be fetched. Is the bench still running? Load the page again to try once more.
        </p>
      </main>
    ) : (
      <Moment />
    )
  }
}
