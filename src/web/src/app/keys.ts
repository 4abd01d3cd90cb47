/** A key that nobody else has: 128 random bits. Also on an address without a secure context, where browsers make no UUID. */
export const newKey = (): string => Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
