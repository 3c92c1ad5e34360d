import type { OrientationAnswer } from '@/api/client'
import { rampPoint } from '@/theme/ramp'

/** Points of the disc, and for each the four of the map about it with their weights: the same for every map of one grid. */
interface Places {
  point: Int32Array
  corner: Int32Array
  weight: Float32Array
  /** In the highest byte: the last pixel before the rim fades, so that the circle has no teeth. */
  opacity: Uint32Array
}
let kept: { grid: string; places: Places } | null = null

/** The ramp begins at 30 % of the best: what receives less is all one dark. */
const DARKEST = 0.3

/** The disc as a picture: tilt outward to the vertical at the rim, azimuth clockwise from the top. */
export function paintDisc(map: OrientationAnswer, radius: number): ImageData {
  const image = new ImageData(2 * radius, 2 * radius)
  const points = new Uint32Array(image.data.buffer)
  const values = Float64Array.from(map.irradiation.flat())
  const { point, corner, weight, opacity } = placesOf(map, radius)
  for (let i = 0; i < point.length; i++) {
    let value = 0
    for (let k = 4 * i; k < 4 * i + 4; k++) value += values[corner[k]!]! * weight[k]!
    const colour = rampPoint((value / map.best - DARKEST) / (1 - DARKEST))
    points[point[i]!] = (colour & 0xffffff) | opacity[i]!
  }
  return image
}

function placesOf({ tilts, azimuths }: OrientationAnswer, radius: number): Places {
  const grid = `${radius} ${tilts.length} ${azimuths.length} ${tilts[1]} ${azimuths[1]}`
  if (kept?.grid === grid) return kept.places
  const [point, corner, weight, opacity]: number[][] = [[], [], [], []]
  for (let y = 0; y < 2 * radius; y++)
    for (let x = 0; x < 2 * radius; x++) {
      const [dx, dy] = [x + 0.5 - radius, radius - y - 0.5]
      const r = Math.hypot(dx, dy)
      if (r > radius) continue
      const azimuth = ((Math.atan2(dx, dy) * 180) / Math.PI + 360) % 360
      const t = Math.min(tilts.length - 1.000001, ((r / radius) * 90) / (tilts[1]! - tilts[0]!))
      const a = azimuth / (azimuths[1]! - azimuths[0]!)
      const [t0, a0] = [Math.floor(t), Math.floor(a) % azimuths.length]
      const [ft, fa, a1] = [t - t0, a - Math.floor(a), (a0 + 1) % azimuths.length]
      point!.push(y * 2 * radius + x)
      opacity!.push(Math.round(255 * Math.min(1, radius - r)) * 2 ** 24)
      for (const [row, share] of [
        [t0, 1 - ft],
        [t0 + 1, ft],
      ] as const) {
        corner!.push(row * azimuths.length + a0, row * azimuths.length + a1)
        weight!.push(share * (1 - fa), share * fa)
      }
    }
  const places = {
    point: Int32Array.from(point!),
    corner: Int32Array.from(corner!),
    weight: Float32Array.from(weight!),
    opacity: Uint32Array.from(opacity!),
  }
  kept = { grid, places }
  return places
}
