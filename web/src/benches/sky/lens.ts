import { RADIAN, turn, type Direction, type Projection } from './skyGeometry'

/** How a picture shows the directions around it: flat behind a lens, or round as a panorama; its level held level. */
export interface Lens {
  kind: 'lens' | 'panorama'
  /** Bearing in the middle of the picture [°]. */
  middle: number
  /** Widths of the picture to a tangent of 1 (lens), or to a radian (panorama). */
  reach: number
  /** Share of the height, from the top, at which the level lies. */
  level: number
  /** Width over height. */
  aspect: number
}
export interface Marks {
  first: number
  firstBearing: number
  second: number
  secondBearing: number
  level: number
}

/** A flat picture of more would be stretched beyond use at its edges: it is a panorama [°]. */
const WIDEST = 150
const STEEPEST = 84
const LOWEST = 2

/** The lens that puts two marks at their bearings; null where they do not tell. */
export function lensOf(size: { width: number; height: number }, marks: Marks): Lens | null {
  const isInOrder = marks.second > marks.first
  const [a, b] = isInOrder ? [marks.first, marks.second] : [marks.second, marks.first]
  const [left, right] = isInOrder
    ? [marks.firstBearing, marks.secondBearing]
    : [marks.secondBearing, marks.firstBearing]
  const between = turn(right - left)
  if (b - a < 1 || between < 1) return null
  const [low, high] = [a / 100 - 0.5, b / 100 - 0.5]
  const common = { level: marks.level / 100, aspect: size.width / size.height }
  const across = between / (high - low)
  const flat = across <= WIDEST ? flatLens(low, high, between) : null
  if (flat) return { kind: 'lens', middle: turn(left - flat.first), reach: flat.reach, ...common }
  return { kind: 'panorama', middle: turn(left - low * across), reach: 1 / (across * RADIAN), ...common }
}

/** The angle of the first mark from the middle, and the reach, of a lens that sees two places so many degrees apart. */
function flatLens(low: number, high: number, between: number): { first: number; reach: number } | null {
  const off = (first: number) => low * Math.tan((first + between) * RADIAN) - high * Math.tan(first * RADIAN)
  let [from, to] = [-STEEPEST, STEEPEST - between]
  if (from >= to || off(from) * off(to) > 0) return null
  for (let i = 0; i < 60; i++) {
    const half = (from + to) / 2
    if (off(from) * off(half) <= 0) to = half
    else from = half
  }
  const first = (from + to) / 2
  const reach = (high - low) / (Math.tan((first + between) * RADIAN) - Math.tan(first * RADIAN))
  return { first, reach }
}

/** Where a direction lies in the picture, as shares of its width and height; null behind it. */
export function placeIn(lens: Lens, { azimuth, elevation }: Direction): [x: number, y: number] | null {
  const aside = ((azimuth - lens.middle + 540) % 360) - 180
  if (lens.kind === 'panorama')
    return [0.5 + lens.reach * aside * RADIAN, lens.level - lens.reach * lens.aspect * Math.tan(elevation * RADIAN)]
  if (Math.abs(aside) > STEEPEST) return null
  const away = Math.cos(aside * RADIAN)
  return [
    0.5 + lens.reach * Math.tan(aside * RADIAN),
    lens.level - (lens.reach * lens.aspect * Math.tan(elevation * RADIAN)) / away,
  ]
}

/** The bearings and the highest elevation that a picture reaches [°]. */
export function extentOf(lens: Lens): { left: number; across: number; top: number; bottom: number } {
  const half = lens.kind === 'lens' ? Math.atan(0.5 / lens.reach) / RADIAN : 0.5 / lens.reach / RADIAN
  const up = (share: number) => Math.atan(share / (lens.reach * lens.aspect)) / RADIAN
  return {
    left: turn(lens.middle - half),
    across: 2 * half,
    top: Math.min(up(lens.level), STEEPEST),
    // What lies under the level is no horizon, and would lie over the bearings.
    bottom: Math.max(up(lens.level - 1), -LOWEST),
  }
}

const PIXELS = 8 // to a degree
const MOST = 1600 // pixels across

/** The picture laid out evenly in degrees, as the unrolled sky is. */
export function unrolledPicture(image: CanvasImageSource, size: { width: number; height: number }, lens: Lens): string {
  const { left, across, top, bottom } = extentOf(lens)
  const scale = Math.min(PIXELS, MOST / across)
  const [width, height] = [Math.max(1, Math.round(across * scale)), Math.max(1, Math.round((top - bottom) * scale))]
  const source = context(
    Math.min(size.width, 2 * MOST),
    Math.round((size.height * Math.min(size.width, 2 * MOST)) / size.width),
  )
  source.drawImage(image, 0, 0, source.canvas.width, source.canvas.height)
  const from = source.getImageData(0, 0, source.canvas.width, source.canvas.height)
  const target = context(width, height)
  const to = target.createImageData(width, height)
  const [pixels, even] = [new Uint32Array(from.data.buffer), new Uint32Array(to.data.buffer)]
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const direction = {
        azimuth: turn(left + ((column + 0.5) / width) * across),
        elevation: top - ((row + 0.5) / height) * (top - bottom),
      }
      const place = placeIn(lens, direction)
      if (!place || place[0] < 0 || place[0] >= 1 || place[1] < 0 || place[1] >= 1) continue
      even[row * width + column] =
        pixels[Math.floor(place[1] * from.height) * from.width + Math.floor(place[0] * from.width)]!
    }
  target.putImageData(to, 0, 0)
  return target.canvas.toDataURL('image/png')
}

function context(width: number, height: number): CanvasRenderingContext2D {
  const canvas = document.createElement('canvas')
  Object.assign(canvas, { width, height })
  return canvas.getContext('2d', { willReadFrequently: true })!
}

export interface PlacedPhoto {
  url: string
  x: number
  y: number
  width: number
  height: number
  marks: [number, number]
}

/** Where an unrolled picture lies on the unrolled sky: at its bearings, its level on the level. */
export function placedPhoto(url: string, lens: Lens, marks: Marks, projection: Projection): PlacedPhoto {
  const { left, across, top, bottom } = extentOf(lens)
  const level = projection.place({ azimuth: 180, elevation: 0 })[1]
  const perDegree = (level - projection.place({ azimuth: 180, elevation: 10 })[1]) / 10
  const start = projection.under([26.01, 100])?.azimuth ?? 0
  const [x0, x1] = [0, 359].map((more) => projection.place({ azimuth: turn(start + more), elevation: 0 })[0]) as [
    number,
    number,
  ]
  const perTurn = (x1 - x0) / 359
  const at = (bearing: number) => x + turn(bearing - left) * perTurn
  // A picture over the paper's left edge begins before it, where its middle would else be cut off.
  const begin = turn(left - start)
  const x = x0 + (begin + across / 2 > 360 ? begin - 360 : begin) * perTurn
  return {
    url,
    x,
    y: level - top * perDegree,
    width: across * perTurn,
    height: (top - bottom) * perDegree,
    marks: [at(marks.firstBearing), at(marks.secondBearing)],
  }
}
