import { pathThrough, type Place } from '@/charts/picture'
import { contours } from 'd3-contour'
import type { OrientationAnswer } from '@/api/client'
import { heightAt, type Direction } from '@/charts/horizonLine'

/** The disc in its drawing of 524 by 500: tilt outward from the centre, azimuth clockwise from the top. */
export const DISC = { width: 524, height: 500, x: 262, y: 252, radius: 196 }
const LEVELS = [-0.02, -0.05, -0.1, -0.2, -0.35, -0.5]
const RADIAN = Math.PI / 180
/** Pixels that a degree of the horizon rises over the rim. */
const HORIZON_SCALE = 1.6
const SNAP = 2

export type Point = [x: number, y: number]

export function onDisc(tilt: number, azimuth: number): Point {
  const r = (DISC.radius * tilt) / 90
  return [DISC.x + r * Math.sin(azimuth * RADIAN), DISC.y - r * Math.cos(azimuth * RADIAN)]
}

/** Tilt and azimuth under a point, in whole degrees; beyond the rim is vertical, and the four quarters snap. */
export function fromDisc([x, y]: Point): { tilt: number; azimuth: number } {
  const [dx, dy] = [x - DISC.x, DISC.y - y]
  const tilt = Math.min(90, Math.round((Math.hypot(dx, dy) / DISC.radius) * 90))
  const azimuth = Math.round((Math.atan2(dx, dy) / RADIAN + 360) % 360) % 360
  const quarter = [0, 90, 180, 270, 360].find((a) => Math.abs(a - azimuth) <= SNAP)
  return { tilt, azimuth: (quarter ?? azimuth) % 360 }
}

export interface Isoline {
  /** Share under the best, -0.05 for 5 % less. */
  level: number
  path: string
  label: { x: number; y: number } | null
}

/** Lines of equal irradiation, found on the grid of tilt and azimuth, wrapped once over north, and bent onto the disc. */
export function isolines(map: OrientationAnswer): Isoline[] {
  const width = map.azimuths.length + 1
  const shares = map.irradiation.flatMap((row) => [...row, row[0]!].map((value) => value / map.best - 1))
  const found = contours().size([width, map.tilts.length]).smooth(true).thresholds(LEVELS)(shares)
  const [tiltStep, azimuthStep] = [map.tilts[1]! - map.tilts[0]!, map.azimuths[1]! - map.azimuths[0]!]
  const best = onDisc(map.best_tilt, map.best_azimuth)
  return found.map(({ value, coordinates }) => {
    const pieces = coordinates
      .flat()
      .flatMap((ring) =>
        unbroken(
          (ring as Point[]).map(([gx, gy]) => ({ tilt: (gy - 0.5) * tiltStep, azimuth: (gx - 0.5) * azimuthStep })),
        ),
      )
    const path = pieces.map((piece) => pathThrough(piece)).join('')
    return { level: value, path, label: labelPlace(pieces.flat(), best) }
  })
}

/** Pieces of a ring that lie inside the grid; where it runs along the grid's own edge there is no line. */
function unbroken(ring: { tilt: number; azimuth: number }[]): Point[][] {
  const pieces: Point[][] = []
  let isOpen = false
  for (const { tilt, azimuth } of ring) {
    const isInside = tilt > 0.4 && tilt < 89.6 && azimuth > 0.01 && azimuth < 359.99
    if (isInside && !isOpen) pieces.push([])
    if (isInside) pieces.at(-1)!.push(onDisc(tilt, azimuth))
    isOpen = isInside
  }
  return pieces
}

/** Labels stand in a row from the best orientation outward, away from the handles' own. */
function labelPlace(points: Point[], [bx, by]: Point): { x: number; y: number } | null {
  const direction = by < DISC.y ? -0.9 : 0.9
  let nearest = 0.3
  let label: { x: number; y: number } | null = null
  for (const [x, y] of points) {
    const off = Math.abs(Math.atan2(y - by, x - bx) - direction)
    if (off >= nearest || Math.hypot(x - bx, y - by) <= 12) continue
    nearest = off
    label = { x, y }
  }
  return label
}

/** The isolines with those labels that do not cover one another; the inner ones come first. */
export function withRoomForLabels(lines: Isoline[], enlarged = 1): Isoline[] {
  const kept: { x: number; y: number }[] = []
  return [...lines]
    .sort((a, b) => b.level - a.level)
    .map((line) => {
      const { label } = line
      const isFree =
        label && kept.every((o) => Math.abs(o.y - label.y) > 12 * enlarged || Math.abs(o.x - label.x) > 34 * enlarged)
      if (isFree) kept.push(label)
      return isFree ? line : { ...line, label: null }
    })
}

/** The horizon as a ring around the rim, thicker where it is higher. */
export function horizonRing(horizon: Direction[]): string {
  if (!horizon.length) return ''
  const sorted = [...horizon].sort((a, b) => a.azimuth - b.azimuth)
  const rim = DISC.radius + 5
  const outer = Array.from({ length: 121 }, (_, i) => {
    const r = rim + heightAt(sorted, (i * 3) % 360) * HORIZON_SCALE
    const [sin, cos] = [Math.sin(i * 3 * RADIAN), Math.cos(i * 3 * RADIAN)]
    return [DISC.x + r * sin, DISC.y - r * cos] as Place
  })
  const top = DISC.y - rim
  return `${pathThrough(outer)}Z M${DISC.x} ${top}A${rim} ${rim} 0 1 0 ${DISC.x + 0.01} ${top}Z`
}

export interface Pin {
  x: number
  y: number
  labelX: number
  labelY: number
  isLeft: boolean
}

/** A handle without a name. */
export function barePin({ tilt, azimuth }: { tilt: number; azimuth: number }): Pin {
  const [x, y] = onDisc(tilt, azimuth)
  return { x, y, labelX: x, labelY: y, isLeft: false }
}

/** Handles and the places of their names, which step aside for one another. */
export function placePins(surfaces: { tilt: number; azimuth: number }[], enlarged = 1): Pin[] {
  const pins: Pin[] = []
  for (const { tilt, azimuth } of surfaces) {
    const [x, y] = onDisc(tilt, azimuth)
    const isLeft = x < DISC.x
    let labelY = y - 26
    for (const other of pins.filter((p) => p.isLeft === isLeft).sort((a, b) => b.labelY - a.labelY))
      if (Math.abs(labelY - other.labelY) < 18 * enlarged) labelY = other.labelY - 19 * enlarged
    pins.push({ x, y, labelX: isLeft ? x - 34 : x + 34, labelY, isLeft })
  }
  return pins
}
