/** A picture on the map: two of its points, the place of the first and the way from it to the second. */
export interface Plan {
  digest: string
  name?: string
  width_to_height: number
  first_x: number
  first_y: number
  second_x: number
  second_y: number
  latitude: number
  longitude: number
  distance: number
  azimuth: number
}
type Place = [longitude: number, latitude: number]

const METRES_PER_DEGREE = (6_371_000 * Math.PI) / 180

/** Places of the picture's upper left, upper right and lower left corner. */
export function cornersOf(plan: Plan): [Place, Place, Place] {
  const turn = (plan.azimuth * Math.PI) / 180
  const [east, north] = [plan.distance * Math.sin(turn), plan.distance * Math.cos(turn)]
  // In heights of the picture, to the right and up.
  const x = (plan.second_x - plan.first_x) * plan.width_to_height
  const y = plan.first_y - plan.second_y
  const square = x * x + y * y
  // The turn and the scale that lead from the picture to the ground, as one complex number.
  const [re, im] = [(east * x + north * y) / square, (north * x - east * y) / square]
  const corner = (across: number, down: number): Place => {
    const [u, v] = [(across - plan.first_x) * plan.width_to_height, plan.first_y - down]
    const [e, n] = [re * u - im * v, im * u + re * v]
    const narrow = Math.max(1e-6, Math.cos((plan.latitude * Math.PI) / 180))
    return [plan.longitude + e / METRES_PER_DEGREE / narrow, plan.latitude + n / METRES_PER_DEGREE]
  }
  return [corner(0, 0), corner(1, 0), corner(0, 1)]
}

/** Distance [m] and azimuth [°] from one place to another near it. */
export function wayBetween(
  from: { latitude: number; longitude: number },
  to: { latitude: number; longitude: number },
): { distance: number; azimuth: number } {
  const narrow = Math.cos((((from.latitude + to.latitude) / 2) * Math.PI) / 180)
  const east = (to.longitude - from.longitude) * METRES_PER_DEGREE * narrow
  const north = (to.latitude - from.latitude) * METRES_PER_DEGREE
  return { distance: Math.hypot(east, north), azimuth: ((Math.atan2(east, north) * 180) / Math.PI + 360) % 360 }
}

/** Two numbers of a place as they are copied from a map: "43.6201, 11.3105". */
export function readPlace(text: string): { latitude: number; longitude: number } | null {
  const found = /^\s*([-−]?\d+(?:\.\d+)?)\s*°?\s*([NS])?[\s,;]+([-−]?\d+(?:\.\d+)?)\s*°?\s*([EW])?\s*$/i.exec(text)
  if (!found) return null
  const value = (digits: string, side: string | undefined, negative: string) =>
    Number(digits.replace('−', '-')) * (side?.toUpperCase() === negative ? -1 : 1)
  const [latitude, longitude] = [value(found[1]!, found[2], 'S'), value(found[3]!, found[4], 'W')]
  return Math.abs(latitude) <= 90 && Math.abs(longitude) <= 180 ? { latitude, longitude } : null
}

/** The transformation that lays a picture of one by one over its three corners on the screen. */
export function matrixOf(corners: [x: number, y: number][]): string {
  const [o, right, below] = corners as [[number, number], [number, number], [number, number]]
  return `matrix(${right[0] - o[0]} ${right[1] - o[1]} ${below[0] - o[0]} ${below[1] - o[1]} ${o[0]} ${o[1]})`
}
