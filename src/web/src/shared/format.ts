/** Numbers for the screen; everything else is computed by the server. */
export const show = (value: number, digits = 3) => String(Number(value.toPrecision(digits)))

export const seconds = (value: number) => `${value.toFixed(2)} s`

/** A number to the digits that its spread carries, and twice the spread: ± stands for two SDs everywhere. */
export function carried(value: number, sd: number, digits = 4): { value: string; within: string | null } {
  const two = 2 * sd
  if (!(two > 0)) return { value: show(value, digits), within: null }
  const places = Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(two))))
  return { value: value.toFixed(places), within: two >= 10 ? two.toFixed(0) : show(two, 2) }
}
