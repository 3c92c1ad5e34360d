import { DxfWriter, point3d } from '@tarikjabiri/dxf'

/** The picture as it stands, with its colours set, in a document of its own. */
export function asSvg(svg: SVGSVGElement): string {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const originals = [svg, ...svg.querySelectorAll<SVGElement>('*')]
  const copies = [copy, ...copy.querySelectorAll<SVGElement>('*')]
  for (const [i, element] of originals.entries()) {
    const style = getComputedStyle(element)
    for (const name of ['fill', 'stroke', 'font-size', 'font-weight', 'font-family', 'paint-order', 'stroke-width'])
      if (name.startsWith('font') ? element.tagName === 'text' : element.tagName !== 'g')
        copies[i]!.style.setProperty(name, style.getPropertyValue(name))
    copies[i]!.removeAttribute('tabindex')
  }
  const [, , width, height] = svg.getAttribute('viewBox')!.split(' ').map(Number)
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  copy.setAttribute('width', String(width))
  copy.setAttribute('height', String(height))
  copy.style.background = getComputedStyle(document.documentElement).getPropertyValue('--sheet')
  return new XMLSerializer().serializeToString(copy)
}

/** The picture in pixels, three for each of the drawing's. */
export async function asPng(svg: SVGSVGElement): Promise<Blob> {
  const [, , width, height] = svg.getAttribute('viewBox')!.split(' ').map(Number)
  const image = new Image()
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(asSvg(svg))}`
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width! * 3
  canvas.height = height! * 3
  const g = canvas.getContext('2d')!
  g.fillStyle = getComputedStyle(document.documentElement).getPropertyValue('--sheet')
  g.fillRect(0, 0, canvas.width, canvas.height)
  g.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((resolve, reject) =>
    canvas.toBlob((blob) => (blob ? resolve(blob) : reject(new Error('The picture could not be made.'))), 'image/png'),
  )
}

/** The lines and words of the picture as a drawing, one unit a pixel, north up; filled cells are left out. */
export function asDxf(svg: SVGSVGElement): string {
  const dxf = new DxfWriter()
  const height = Number(svg.getAttribute('viewBox')!.split(' ')[3])
  for (const path of svg.querySelectorAll('path')) {
    if (getComputedStyle(path).stroke === 'none' || path.getAttribute('stroke') === path.getAttribute('fill')) continue
    for (const piece of piecesOf(path.getAttribute('d') ?? ''))
      for (let i = 1; i < piece.length; i++)
        dxf.addLine(point3d(piece[i - 1]![0], height - piece[i - 1]![1]), point3d(piece[i]![0], height - piece[i]![1]))
  }
  for (const circle of svg.querySelectorAll('circle'))
    if (circle.getAttribute('fill') !== 'transparent')
      dxf.addCircle(
        point3d(Number(circle.getAttribute('cx')), height - Number(circle.getAttribute('cy'))),
        Number(circle.getAttribute('r')),
      )
  for (const text of svg.querySelectorAll('text'))
    dxf.addText(
      point3d(Number(text.getAttribute('x')), height - Number(text.getAttribute('y'))),
      Number.parseFloat(getComputedStyle(text).fontSize) * 0.7,
      (text.textContent ?? '').trim(),
    )
  return dxf.stringify()
}

function piecesOf(d: string): [number, number][][] {
  return d
    .split('M')
    .filter(Boolean)
    .map((piece) => {
      const points = piece
        .replace('Z', '')
        .split('L')
        .map((pair) => pair.trim().split(' ').map(Number) as [number, number])
      return piece.endsWith('Z') ? [...points, points[0]!] : points
    })
}

/** Hands a file to the browser. */
export function download(content: Blob | string, name: string, kind = 'text/plain') {
  const url = URL.createObjectURL(typeof content === 'string' ? new Blob([content], { type: kind }) : content)
  const link = document.createElement('a')
  link.href = url
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(url), 1000)
}
