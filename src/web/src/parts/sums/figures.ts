import { Problem } from '../../app/api'

/** What a sum answers, by field. */
export type Figures = Record<string, number | null | { angleDeg: number; marginMm: number }[]>
export type Answer = {
  result: Figures
  steps: { say: string; arithmetic: string; value: number | null; unit: string }[]
  cautions: string[]
  verdict: { grade: string; say: string } | null
}

/** Works a sum out at the server. */
export async function compute(sum: string, input: Record<string, unknown>): Promise<Answer> {
  const response = await fetch(`/api/sums/${sum}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(input),
  })
  const body = (await response.json()) as Answer & { title?: string; errors?: Record<string, string[]> }
  if (!response.ok) throw new Problem(response.status, body.title ?? 'This sum could not be done.', body.errors ?? {})
  return body
}
