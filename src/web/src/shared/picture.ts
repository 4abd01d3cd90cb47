/** Drawings of the page as files of their own. */

function save(content: Blob, name: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(content)
  link.download = name
  link.click()
  // The browser reads it after this turn.
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}

/** All drawings under an element, one below the other, as one SVG that needs nothing else. */
export function svgOf(of: Element): { text: string; width: number; height: number } {
  // Colours are written out: outside this page nobody knows their names.
  const style = getComputedStyle(document.documentElement)
  const out = (text: string) => text.replace(/var\((--[\w-]+)\)/g, (_, name: string) => style.getPropertyValue(name).trim())
  const drawings = [...of.querySelectorAll('svg')].filter((s) => s.parentElement?.closest('svg') === null && s.clientWidth > 40)
  let height = 0
  let width = 0
  const parts: string[] = []
  for (const drawing of drawings) {
    const [w, h] = [drawing.clientWidth, drawing.clientHeight]
    const copy = drawing.cloneNode(true) as SVGSVGElement
    copy.setAttribute('y', String(height))
    copy.setAttribute('width', String(w))
    copy.setAttribute('height', String(h))
    for (const hot of copy.querySelectorAll('[tabindex], [role]')) {
      hot.removeAttribute('tabindex')
      hot.removeAttribute('role')
    }
    parts.push(out(new XMLSerializer().serializeToString(copy)))
    height += h
    width = Math.max(width, w)
  }
  const mono = style.getPropertyValue('--mono').trim() || 'monospace'
  return {
    text:
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 ${width} ${height}">` +
      `<style>text{font-family:sans-serif}.mono{font-family:${mono.replace(/["<&]/g, '')}}</style>` +
      `<rect width="${width}" height="${height}" fill="${out('var(--lime)')}"/>${parts.join('')}</svg>`,
    width,
    height,
  }
}

/** Saves the drawings under an element as one SVG. */
export function saveSvg(of: Element, name: string) {
  save(new Blob([svgOf(of).text], { type: 'image/svg+xml' }), `${name}.svg`)
}

/** Saves the drawings under an element as one PNG, twice as fine as on the screen. */
export async function savePng(of: Element, name: string) {
  const { text, width, height } = svgOf(of)
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`
  await image.decode()
  const canvas = document.createElement('canvas')
  ;[canvas.width, canvas.height] = [width * 2, height * 2]
  canvas.getContext('2d')!.drawImage(image, 0, 0, width * 2, height * 2)
  const made = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'))
  if (!made) throw new Error('This browser could not draw the picture.')
  save(made, `${name}.png`)
}
