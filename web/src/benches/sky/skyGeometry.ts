import type { SunPathsAnswer } from '@/api/client'
import { heightAt, type Direction } from '@/charts/horizonLine'

export type { Direction }

export type Point = [x: number, y: number]

/** How the sky is laid on the paper. */
export interface Projection {
  kind: 'polar' | 'unrolled'
  width: number
  height: number
  /** Highest elevation that has room [°]. */
  top: number
  place: (direction: Direction) => Point
  /** The direction under a point, or none outside of the sky. */
  under: (point: Point) => Direction | null
}

export const RADIAN = Math.PI / 180
const STEPS = 144
export const turn = (azimuth: number) => ((azimuth % 360) + 360) % 360

/** The zenith in the middle, the level all round, north at the top and east to the right. */
export function polar(): Projection {
  const [width, height, x, y, radius] = [500, 444, 272, 222, 194]
  return {
    kind: 'polar',
    width,
    height,
    top: 90,
    place: ({ azimuth, elevation }) => {
      const r = (radius * (90 - elevation)) / 90
      return [x + r * Math.sin(azimuth * RADIAN), y - r * Math.cos(azimuth * RADIAN)]
    },
    under: ([px, py]) => {
      const [dx, dy] = [px - x, y - py]
      const elevation = 90 - (Math.hypot(dx, dy) / radius) * 90
      return elevation < -4 ? null : { azimuth: turn(Math.atan2(dx, dy) / RADIAN), elevation: Math.max(0, elevation) }
    },
  }
}

/** Azimuth to the right, elevation upwards; the middle is where the sun stands at noon. */
export function unrolled(middle: number, top: number, width = 500): Projection {
  const [left, right, base, height] = [26, width - 8, 300, 330]
  const ceiling = 10
  const from = middle - 180
  return {
    kind: 'unrolled',
    width,
    height,
    top,
    place: ({ azimuth, elevation }) => [
      left + ((right - left) * turn(azimuth - from)) / 360,
      base - ((base - ceiling) * elevation) / top,
    ],
    under: ([px, py]) => {
      const share = (px - left) / (right - left)
      if (share < 0 || share >= 1 || py > base + 14) return null
      return {
        azimuth: turn(from + share * 360),
        elevation: Math.max(0, Math.min(89, ((base - py) / (base - ceiling)) * top)),
      }
    },
  }
}

/** The sun at an hour of the clock on a day of the year, between the points of its path. */
export function sunAt(paths: SunPathsAnswer, day: number, hour: number): Direction {
  const last = paths.elevation.length - 1
  const at = Math.max(0, Math.min(last - 1e-6, (day * 24 + hour) * (STEPS / 24)))
  const low = Math.floor(at)
  const part = at - low
  const mix = (values: number[]) => values[low]! + (values[low + 1]! - values[low]!) * part
  const swing = ((paths.azimuth[low + 1]! - paths.azimuth[low]! + 540) % 360) - 180
  return { azimuth: turn(paths.azimuth[low]! + swing * part), elevation: mix(paths.elevation) }
}

/** A path through directions, broken below the level and where it would run over the edge of the paper. */
export function pathOf(directions: Direction[], { place, kind, width }: Projection): string {
  let path = ''
  let before: Point | null = null
  for (const direction of directions) {
    if (direction.elevation < -0.3) {
      before = null
      continue
    }
    const point = place({ ...direction, elevation: Math.max(0, direction.elevation) })
    const isBroken = !before || (kind === 'unrolled' && Math.abs(point[0] - before[0]) > width / 2)
    path += `${isBroken ? 'M' : 'L'}${point[0].toFixed(1)} ${point[1].toFixed(1)}`
    before = point
  }
  return path
}

/** Day of the year, 0 = 1 January of a common year, of the 21st of each month. */
export const DAYS_21 = [20, 51, 79, 110, 140, 171, 201, 232, 263, 293, 324, 354] as const
const SOLSTICE = 354

export interface WorthCell {
  corners: Direction[]
  value: number
}

/**
 * The band of the sky that the sun crosses, in cells of ten days and an hour, each with the mean of a quantity.
 *
 * The sun passes each place twice a year: a cell has the mean of both, and stands where the sun is on its way up to June.
 */
export function worthCells(paths: SunPathsAnswer, values: ArrayLike<number>): WorthCell[] {
  const days = paths.noon.length
  const perDay = values.length / days
  const perHour = perDay / 24
  const mean = (from: number, to: number, hour: number) => {
    let sum = 0
    let count = 0
    for (let d = from; d < to; d++)
      for (const day of [(SOLSTICE + d) % days, (SOLSTICE - d + days) % days])
        for (let i = 0; i < perHour; i++) {
          sum += values[day * perDay + hour * perHour + i]!
          count++
        }
    return sum / count
  }
  const cells: WorthCell[] = []
  for (let from = 0; from < 182; from += 13) {
    const to = Math.min(182, from + 13)
    for (let hour = 0; hour < 24; hour++) {
      const corners = (
        [
          [from, 0],
          [from, 0.5],
          [from, 1],
          [to, 1],
          [to, 0.5],
          [to, 0],
        ] as const
      ).map(([d, part]) => sunAt(paths, (SOLSTICE + d) % days, hour + part))
      if (corners.every((c) => c.elevation <= 0)) continue
      const value = mean(from, to, hour)
      cells.push({ corners: corners.map((c) => ({ ...c, elevation: Math.max(0, c.elevation) })), value })
    }
  }
  return cells
}

/** A closed shape of a cell; none where it would wrap over the edge of the paper. */
export function shapeOf(corners: Direction[], { place, kind, width }: Projection): string {
  const points = corners.map(place)
  if (kind === 'unrolled') {
    const xs = points.map(([x]) => x)
    if (Math.max(...xs) - Math.min(...xs) > width / 2) return ''
  }
  return `M${points.map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`
}

/** The ground under a line from one azimuth to another, as a closed shape; `from` to `to` may run over 360°. */
export function groundUnder(line: Direction[], projection: Projection): string {
  const pieces: Direction[][] = [[]]
  for (const [i, p] of line.entries()) {
    const before = line[i - 1]
    if (before && projection.kind === 'unrolled') {
      const gap = Math.abs(projection.place(p)[0] - projection.place(before)[0])
      if (gap > projection.width / 2) pieces.push([])
    }
    pieces.at(-1)!.push(p)
  }
  return pieces
    .filter((piece) => piece.length > 1)
    .map((piece) => {
      const up = piece.map(projection.place)
      const down = piece.map((p) => projection.place({ azimuth: p.azimuth, elevation: 0 })).toReversed()
      return `M${[...up, ...down].map(([x, y]) => `${x.toFixed(1)} ${y.toFixed(1)}`).join('L')}Z`
    })
    .join('')
}

/** A horizon from its points, every two degrees and at each point, once round from just after the paper's left edge. */
export function wholeLine(points: Direction[], start: number): Direction[] {
  if (!points.length) return []
  const sorted = [...points].sort((a, b) => a.azimuth - b.azimuth)
  const turns = new Set<number>([0.001, 359.999])
  for (let a = 2; a < 360; a += 2) turns.add(a)
  for (const p of sorted) turns.add(Math.max(0.001, Math.min(359.999, turn(p.azimuth - start))))
  return [...turns]
    .sort((a, b) => a - b)
    .map((t) => ({ azimuth: turn(start + t), elevation: heightAt(sorted, turn(start + t)) }))
}

/** Where the sun would stand in the plane of a surface itself, once round. */
export function planeEdge(tilt: number, azimuth: number): Direction[] {
  return Array.from({ length: 181 }, (_, i) => {
    const a = i * 2
    const rise = Math.atan(-Math.tan(tilt * RADIAN) * Math.cos((a - azimuth) * RADIAN)) / RADIAN
    return { azimuth: a, elevation: rise }
  })
}

/** What was drawn by hand takes the place of the horizon between its ends; few points that are within half a degree of it. */
export function withDrawn(horizon: Direction[], drawn: Direction[]): Direction[] {
  if (drawn.length < 2) return horizon
  const first = drawn[0]!.azimuth
  let at = 0
  const unwrapped = drawn.map((p, i) => {
    if (i) at += ((p.azimuth - drawn[i - 1]!.azimuth + 540) % 360) - 180
    return { turn: at, elevation: p.elevation }
  })
  const sorted = unwrapped.toSorted((a, b) => a.turn - b.turn)
  const [low, high] = [sorted[0]!.turn, sorted.at(-1)!.turn]
  if (high - low < 0.5) return horizon
  const kept = simplified(sorted, 0.5)
  const outside = horizon.filter((p) => {
    const t = turn(p.azimuth - first - low)
    return t > high - low + 0.5 && t < 359.5
  })
  const ends = horizon.length
    ? [low - 0.2, high + 0.2].map((t) => ({
        azimuth: turn(first + t),
        elevation: heightAt(
          [...horizon].sort((a, b) => a.azimuth - b.azimuth),
          turn(first + t),
        ),
      }))
    : [low - 0.2, high + 0.2].map((t) => ({ azimuth: turn(first + t), elevation: 0 }))
  const fresh = kept.map((p) => ({ azimuth: turn(first + p.turn), elevation: p.elevation }))
  const all = new Map<number, number>()
  for (const p of [...outside, ...(high - low < 359 ? ends : []), ...fresh])
    all.set(Math.round(p.azimuth * 10) / 10, Math.round(p.elevation * 10) / 10)
  return [...all].map(([azimuth, elevation]) => ({ azimuth, elevation })).sort((a, b) => a.azimuth - b.azimuth)
}

/** The points that a line needs to stay within a tolerance (Douglas and Peucker 1973). */
function simplified(
  line: { turn: number; elevation: number }[],
  tolerance: number,
): { turn: number; elevation: number }[] {
  if (line.length < 3) return line
  const [a, b] = [line[0]!, line.at(-1)!]
  let [worst, at] = [0, 0]
  for (let i = 1; i < line.length - 1; i++) {
    const p = line[i]!
    const straight = a.elevation + ((b.elevation - a.elevation) * (p.turn - a.turn)) / (b.turn - a.turn || 1)
    const off = Math.abs(p.elevation - straight)
    if (off > worst) [worst, at] = [off, i]
  }
  if (worst <= tolerance) return [a, b]
  return [...simplified(line.slice(0, at + 1), tolerance).slice(0, -1), ...simplified(line.slice(at), tolerance)]
}

/** Fields of the sun-path chart: a band of months that the sun crosses twice, by an hour of the clock. */
export const FIELD_MONTHS: readonly (readonly number[])[] = [[11], [0, 10], [1, 9], [2, 8], [3, 7], [4, 6], [5]]
/** First days of the bands from one solstice to the other, and the day after the last. */
const FIELD_DAYS = [354, 365, 396, 424, 455, 485, 516, 537]

export interface Field {
  band: number
  hour: number
  corners: Direction[]
}
export function fieldsOf(paths: SunPathsAnswer): Field[] {
  const fields: Field[] = []
  for (let band = 0; band < FIELD_MONTHS.length; band++)
    for (let hour = 0; hour < 24; hour++) {
      const [from, to] = [FIELD_DAYS[band]!, FIELD_DAYS[band + 1]!]
      const corners = (
        [
          [from, 0],
          [from, 0.5],
          [from, 1],
          [to, 1],
          [to, 0.5],
          [to, 0],
        ] as const
      ).map(([day, part]) => sunAt(paths, day % paths.noon.length, hour + part))
      if (corners.filter((c) => c.elevation > 0).length < 3) continue
      fields.push({ band, hour, corners: corners.map((c) => ({ ...c, elevation: Math.max(0, c.elevation) })) })
    }
  return fields
}
