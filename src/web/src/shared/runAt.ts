import type { Run } from '../app/api'

/** The sample at or just before a moment. */
export function sampleAt(run: Run, t: number): number {
  const { timeS } = run.signals
  let low = 0
  let high = timeS.length - 1
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if ((timeS[middle] ?? 0) <= t + 1e-9) low = middle
    else high = middle - 1
  }
  return low
}

/** The state of the first region at a moment. */
export function stateAt(run: Run, t: number): string | null {
  const stretches = run.report.states[0]?.stretches ?? []
  return stretches.find((s) => t >= s.fromS && t < s.toS)?.state ?? stretches.at(-1)?.state ?? null
}
