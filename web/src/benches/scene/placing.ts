import type { Design } from '@/api/designTypes'

type Site = Design['site']
export type Level = [number, number]
const EARTH = 6_371_008.8
const TURN = Math.PI / 180

/** The corners of the site's placed picture on the ground, from its upper left clockwise, in metres from the scene's origin. */
export function pictureOnGround(site: Site): Level[] | null {
  const plan = site.map_picture
  if (!plan) return null
  const high = 1 / plan.width_to_height
  const first: Level = [plan.first_x, -plan.first_y * high]
  const second: Level = [plan.second_x, -plan.second_y * high]
  const [dx, dy] = [second[0] - first[0], second[1] - first[1]]
  const scale = plan.distance / Math.hypot(dx, dy)
  const turn = Math.PI / 2 - plan.azimuth * TURN - Math.atan2(dy, dx)
  const [c, s] = [Math.cos(turn) * scale, Math.sin(turn) * scale]
  const east = (plan.longitude - site.longitude) * TURN * EARTH * Math.cos(site.latitude * TURN)
  const north = (plan.latitude - site.latitude) * TURN * EARTH
  const at = (x: number, y: number): Level => {
    const [u, v] = [x - first[0], y - first[1]]
    return [east + u * c - v * s, north + u * s + v * c]
  }
  return [at(0, 0), at(1, 0), at(1, -high), at(0, -high)]
}

/** Within this of a right angle or a parallel to the first edge, a traced edge snaps to it [°]. */
const SNAP = 9
const GRID = 0.05

/** The next corner of a traced outline, snapped to right angles with the first edge, and to the first corner when it is near. */
export function snapped(
  corners: Level[],
  to: Level,
  reach: number,
): { corner: Level; isClosed: boolean; lock: '' | 'right angle' | 'parallel' } {
  const [first, second] = corners
  const last = corners.at(-1)
  if (!first || !last) return { corner: to.map((v) => Math.round(v / GRID) * GRID) as Level, isClosed: false, lock: '' }
  if (corners.length > 2 && Math.hypot(to[0] - first[0], to[1] - first[1]) < reach)
    return { corner: first, isClosed: true, lock: '' }
  const [dx, dy] = [to[0] - last[0], to[1] - last[1]]
  if (!second) return { corner: to, isClosed: false, lock: '' }
  const base = Math.atan2(second[1] - first[1], second[0] - first[0])
  const off = ((((Math.atan2(dy, dx) - base) / TURN) % 180) + 180) % 180
  const near = off < SNAP || off > 180 - SNAP ? 0 : Math.abs(off - 90) < SNAP ? 90 : null
  if (near === null) return { corner: to, isClosed: false, lock: '' }
  const along = [Math.cos(base + near * TURN), Math.sin(base + near * TURN)] as const
  const length = dx * along[0] + dy * along[1]
  let corner: Level = [last[0] + along[0] * length, last[1] + along[1] * length]
  // Square to the first corner too, where the edge ends close to it.
  const back = [first[0] - corner[0], first[1] - corner[1]] as const
  const rest = back[0] * along[0] + back[1] * along[1]
  if (corners.length > 2 && Math.abs(rest) < reach) corner = [corner[0] + along[0] * rest, corner[1] + along[1] * rest]
  return { corner, isClosed: false, lock: near === 90 ? 'right angle' : 'parallel' }
}
