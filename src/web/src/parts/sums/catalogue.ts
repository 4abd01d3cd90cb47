import { useQuery } from '@tanstack/react-query'
import { client, unwrap, type Schemas } from '../../app/api'

/** A blank of a sum: what is typed into it. */
export type Blank = Schemas['SumBlank']
export type Sum = Omit<Schemas['SumView'], 'blanks'> & { blanks: Record<string, Blank> }
export type Labels = Record<string, Schemas['ResultLabel']>

/** Every sum and what results are called, as the server lists them. */
export function useSums(): { sums: Sum[]; labels: Labels } | undefined {
  return useQuery({
    queryKey: ['sums'],
    staleTime: Infinity,
    queryFn: async () => {
      const all = await unwrap(client.GET('/api/sums'))
      return {
        sums: all.sums.map((s) => ({ ...s, blanks: Object.fromEntries(s.blanks.map((b) => [b.field, b])) })),
        labels: all.results,
      }
    },
  }).data
}

/** Lengths may be shown in another unit; what is kept and sent is in millimetres. */
export const lengthUnits = { mm: 1, cm: 10, in: 25.4 } as const
export type LengthUnit = keyof typeof lengthUnits
const lengthy = new Set(['mm', 'mm/s', 'mm/s²'])

/** By how much a unit that holds a length differs when lengths are shown otherwise; 1 for others. */
export const lengthFactor = (unit: string | null | undefined, shown: LengthUnit) => (unit && lengthy.has(unit) ? lengthUnits[shown] : 1)
export const lengthWord = (unit: string, shown: LengthUnit) => (lengthy.has(unit) ? unit.replace('mm', shown) : unit)

const number = (text: string): number | string | null => {
  const t = text.trim().replace(',', '.')
  if (t === '') return null
  const v = Number(t)
  // What is no number is sent as it is, so that the server says which blank it is and what is allowed.
  return Number.isFinite(v) ? v : text.trim()
}
const numbers = (text: string) =>
  text.replaceAll(';', ' ').replaceAll('\n', ' ').replaceAll('\t', ' ').split(' ').filter(Boolean).map(number)

/** What is typed into a blank, as the sum takes it. */
export function read(blank: Blank, text: string): unknown {
  if (blank.choices) return blank.choices.includes('yes') ? text === 'yes' : text
  if (blank.list) return numbers(text)
  if (!blank.rows) return number(text)
  const lines = text
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean)
    .map((l) => l.split(';').map((c) => c.trim()))
  const { cells, by, nested } = blank.rows
  const words = blank.rows.words ?? []
  const row = (values: string[]) =>
    Object.fromEntries(cells.map((c, i) => [c, words.includes(c) ? (values[i] ?? null) : number(values[i] ?? '')]))
  if (by === 'names') return lines.length > 0 ? lines.flat().filter(Boolean) : null
  if (by === 'one') return lines[0] ? row(lines[0]) : null
  if (by === 'lists') return lines.map((l) => ({ readings: numbers(l.join(' ')) }))
  if (by === 'zones') return lines.map((l) => ({ name: l[0], readings: numbers(l.slice(1).join(' ')) }))
  if (by === 'colours')
    return [...new Set(lines.map((l) => l[0]!))].map((name) => ({
      name,
      samples: lines.filter((l) => l[0] === name).map((l) => l.slice(1).map(number)),
    }))
  if (by === 'path')
    return lines.map((l) =>
      l[0] === 'turn'
        ? { kind: 'turn', turnDeg: number(l[1] ?? ''), turnSdDeg: number(l[2] ?? '') }
        : { kind: l[0], distanceMm: number(l[1] ?? ''), distanceSdMm: number(l[2] ?? ''), veerSdDegPerM: number(l[3] ?? '') },
    )
  if (nested && by)
    return [...new Set(lines.map((l) => l[0]!))].map((name) => ({
      [by]: name,
      [nested]: lines.filter((l) => l[0] === name).map((l) => row(l.slice(1))),
    }))
  return lines.map(row)
}

/** What stands in a blank: what was typed, or the example, in the unit in which lengths are shown. */
export function textOf(blank: Blank, typed: string | undefined, shown: LengthUnit): string {
  if (typed !== undefined) return typed
  const factor = lengthFactor(blank.unit, shown)
  if (factor === 1 || blank.rows || blank.choices) return blank.start
  return blank.start
    .split(';')
    .map((t) => trimmed(Number(t) / factor))
    .join('; ')
}

export const trimmed = (v: number) => String(Number(v.toPrecision(6)))

/** What was typed, in another unit of length. */
export function converted(sum: Sum, texts: Record<string, string>, from: LengthUnit, to: LengthUnit): Record<string, string> {
  return Object.fromEntries(
    Object.entries(texts).map(([key, text]) => {
      const blank = sum.blanks[key]
      const factor = lengthFactor(blank?.unit, from) / lengthFactor(blank?.unit, to)
      if (!blank || factor === 1 || blank.rows || blank.choices) return [key, text]
      return [
        key,
        text
          .split(';')
          .map((t) => {
            const v = number(t)
            return typeof v === 'number' ? trimmed(v * factor) : t.trim()
          })
          .join('; '),
      ]
    }),
  )
}

/** The whole input of a sum, in millimetres. */
export const inputOf = (sum: Sum, texts: Record<string, string>, shown: LengthUnit) =>
  Object.fromEntries(
    Object.entries(sum.blanks)
      .map(([key, blank]) => {
        const factor = blank.rows || blank.choices ? 1 : lengthFactor(blank.unit, shown)
        const value = read(blank, textOf(blank, texts[key], shown))
        const scaled = (v: unknown) => (typeof v === 'number' && factor !== 1 ? Number((v * factor).toPrecision(12)) : v)
        return [key, Array.isArray(value) ? value.map(scaled) : scaled(value)]
      })
      .filter(([, v]) => v !== null),
  )

/** Sums that answer what is asked, the likeliest first. */
export function find(sums: Sum[], text: string): Sum[] {
  const words = text
    .toLowerCase()
    .split(' ')
    .filter((w) => w.length > 1)
  if (words.length === 0) return sums
  return sums
    .map((s) => {
      const all = [s.title, s.name, s.part, ...s.asks].map((a) => a.toLowerCase())
      return {
        s,
        hits: words.filter((w) => all.some((a) => a.includes(w))).length,
        whole: all.some((a) => a.includes(text.toLowerCase().trim())),
      }
    })
    .filter((x) => x.hits > 0)
    .sort((a, b) => Number(b.whole) - Number(a.whole) || b.hits - a.hits)
    .map((x) => x.s)
}
