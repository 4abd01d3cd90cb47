/** Numbers for the screen; everything else is computed by the server. */
export const show = (value: number, digits = 3) => String(Number(value.toPrecision(digits)))

export const seconds = (value: number) => `${value.toFixed(2)} s`
