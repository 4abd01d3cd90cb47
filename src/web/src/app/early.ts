import type { QueryClient } from '@tanstack/react-query'
import { client, unwrap } from './api'
import { meKey } from './me'
import { fetchPage } from './page'
import { pages } from './pages'
import { programKey, rigKey } from './rig'

/** Asks for what the address needs, code and data at once, before anything is drawn. */
export function early(queries: QueryClient, at: Location) {
  void queries.prefetchQuery({ queryKey: meKey, queryFn: () => unwrap(client.GET('/api/me')) })
  const [root, id, ...rest] = at.pathname.slice(1).split('/')
  if (root === '') void fetchPage(pages.home).catch(() => undefined)
  if (root !== 'rigs' || !id) return
  const part = rest.join('/') || 'program'
  const params = new URLSearchParams(at.search)
  const copy = Number(params.get('copy')) || 1
  const asked = params.get('program')
  const program = asked !== null && Number.isInteger(Number(asked)) && asked !== '' ? Number(asked) : undefined
  // A page that cannot be fetched is asked for again, and says so, when it is drawn.
  const load = pages[part as keyof typeof pages] ?? (part.startsWith('rig/') ? pages.rig : undefined)
  if (load) void fetchPage(load).catch(() => undefined)
  void queries.prefetchQuery({
    queryKey: rigKey(id, copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}', { params: { path: { id }, query: { copy } } })),
  })
  if (['program', 'program/script', 'program/chart', 'program/table', 'program/walk', 'program/outside'].includes(part))
    void queries.prefetchQuery({
      queryKey: programKey(id, copy, program),
      queryFn: () => unwrap(client.GET('/api/rigs/{id}/program', { params: { path: { id }, query: { copy, program } } })),
    })
}
