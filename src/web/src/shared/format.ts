/** Numbers for the screen; everything else is computed by the server. */
export const show = (value: number, digits = 3) => String(Number(value.toPrecision(digits)))

export const seconds = (value: number) => `${value.toFixed(2)} s`

/** A number to the digits that its spread carries, and twice the spread: ± stands for two SDs everywhere. */
export function carried(value: number, sd: number, digits = 4): { value: string; within: string | null } {
  if (!(sd > 0)) return { value: show(value, digits), within: null }
  const about = within(sd)
  return { value: value.toFixed(Math.min(6, about.split('.')[1]?.length ?? 0)), within: about }
}

/** What stands after ±: twice the spread, to the digits that mean something. */
export const within = (sd: number) => (2 * sd >= 10 ? (2 * sd).toFixed(0) : show(2 * sd, 2))

/** How well a number is known (SD): a choice exactly, a guess by its span of six. */
export const spread = (q: { kind: string; span: number; meanSd: number }) =>
  q.kind === 'chosen' ? 0 : q.kind === 'guessed' ? q.span / 6 : q.meanSd
