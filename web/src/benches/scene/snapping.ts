import type { SceneAnswer } from '@/api/client'
import type { Level } from './placing'

/** A thing as seen from above: what others can be put in line with. */
export interface Footprint {
  id: string
  name: string
  centre: Level
  /** That it faces [°]. */
  azimuth: number
  corners: Level[]
  edges: [Level, Level][]
}
export interface Snap {
  dx: number
  dy: number
  /** What it has snapped to. */
  words: string
}
const TURN = Math.PI / 180
const MOST_EDGES = 600
/** Of angles to those of other things, parallel or square to them [°]. */
const TURN_REACH = 3
const near = (a: Level, b: Level) => Math.hypot(a[0] - b[0], a[1] - b[1])
const middle = ([a, b]: [Level, Level]): Level => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]

/** Every thing of a drawn scene from above: its centre, and the corners and edges of its roofs and tops. */
export function footprintsOf(scene: SceneAnswer, names: Map<string, string>): Footprint[] {
  const found = Object.entries(scene.places).map(([id, place]) => ({
    id,
    name: names.get(id) ?? id,
    centre: [place.x, place.y] as Level,
    azimuth: place.azimuth,
    corners: [] as Level[],
    edges: [] as [Level, Level][],
  }))
  const of = new Map(found.map((one) => [one.id, one]))
  let count = 0
  for (const face of scene.faces) {
    const home = of.get(face.solid)
    const isRound = scene.places[face.solid]?.kind === 'silos'
    if (!home || isRound || face.kind === 'wall' || face.kind === 'side' || count > MOST_EDGES) continue
    const ring = face.outline.map((p) => [p[0]!, p[1]!] as Level)
    ring.forEach((corner, k) => {
      const edge: [Level, Level] = [corner, ring[(k + 1) % ring.length]!]
      if (home.edges.some((e) => near(middle(e), middle(edge)) < 1e-3)) return
      home.edges.push(edge)
      if (!home.corners.some((c) => near(c, corner) < 1e-3)) home.corners.push(corner)
      count++
    })
  }
  return found
}

/** A step of a thing, pulled to corners, midpoints, centres, edges and centre lines; null where none is within reach.
 *
 * All lengths are in metres; the thing is as it was before the step. A point is taken before a line.
 */
export function snapMove(own: Footprint, others: Footprint[], step: Level, reach: number): Snap | null {
  const own_points: { at: Level; words: string }[] = [
    { at: own.centre, words: 'centre' },
    ...own.corners.map((at) => ({ at, words: 'corner' })),
    ...own.edges.map((edge) => ({ at: middle(edge), words: 'middle' })),
  ]
  const moved = (at: Level): Level => [at[0] + step[0], at[1] + step[1]]
  let best: { off: number; by: Level; words: string } | null = null
  const offer = (off: number, by: Level, words: string) => {
    if (off <= reach && (!best || off < best.off - 1e-9)) best = { off, by, words }
  }
  for (const { at, words } of own_points) {
    const here = moved(at)
    for (const other of others) {
      const points: [Level, string][] = [
        [other.centre, `the centre of ${other.name}`],
        ...other.corners.map((c) => [c, `a corner of ${other.name}`] as [Level, string]),
        ...other.edges.map((e) => [middle(e), `the middle of an edge of ${other.name}`] as [Level, string]),
      ]
      for (const [there, what] of points)
        offer(near(here, there), [there[0] - here[0], there[1] - here[1]], `${words} on ${what}`)
    }
  }
  if (!best)
    for (const { at, words } of own_points) {
      const here = moved(at)
      for (const other of others) {
        for (const edge of other.edges) {
          const by = toLine(here, edge, true)
          if (by) offer(Math.hypot(...by), by, `${words} on an edge of ${other.name}`)
        }
        if (words !== 'centre') continue
        for (const turn of [other.azimuth, other.azimuth + 90]) {
          const along: Level = [Math.sin(turn * TURN), Math.cos(turn * TURN)]
          const far: Level = [other.centre[0] + along[0], other.centre[1] + along[1]]
          const by = toLine(here, [other.centre, far], false)
          if (by) offer(Math.hypot(...by), by, `in line with the centre of ${other.name}`)
        }
      }
    }
  const found = best as { by: Level; words: string } | null
  return found && { dx: step[0] + found.by[0], dy: step[1] + found.by[1], words: found.words }
}

/** The way from a point to a line, or to the part of it between its ends. */
function toLine(at: Level, [from, to]: [Level, Level], isBounded: boolean): Level | null {
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]]
  const length = Math.hypot(dx, dy)
  if (length < 1e-6) return null
  const along = ((at[0] - from[0]) * dx + (at[1] - from[1]) * dy) / length
  if (isBounded && (along < 0 || along > length)) return null
  return [from[0] + (dx / length) * along - at[0], from[1] + (dy / length) * along - at[1]]
}

/** A direction, pulled to be parallel or square to another thing, else to whole steps [°]. */
export function snapTurn(azimuth: number, others: Footprint[], step: number): { azimuth: number; words: string } {
  const wrapped = (value: number) => ((value % 360) + 360) % 360
  for (const other of others) {
    const off = wrapped(azimuth - other.azimuth + 45) % 90
    if (Math.abs(off - 45) > TURN_REACH) continue
    const found = wrapped(azimuth - (off - 45))
    const isSquare = Math.round(wrapped(found - other.azimuth) / 90) % 2 === 1
    return {
      azimuth: Math.round(found * 100) / 100,
      words: `${isSquare ? 'square' : 'parallel'} to ${other.name}`,
    }
  }
  return { azimuth: wrapped(Math.round(azimuth / step) * step), words: '' }
}
