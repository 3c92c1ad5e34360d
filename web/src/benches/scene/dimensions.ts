import type { SceneAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'

export type Point = [number, number, number]
/** Middle of the four corners of a module. */
export const middleOf = (corners: readonly (readonly number[])[]) =>
  [0, 1, 2].map((k) => corners.reduce((sum, p) => sum + p[k]! / 4, 0)) as Point
/** A dimension line: from where to where, its value, and where in the document it is kept. */
export interface Dimension {
  pointer: string
  label: string
  from: Point
  to: Point
  unit: 'm' | '°'
  /** It stands at one point, without a line. */
  isPoint?: boolean
}
const TURN = Math.PI / 180

/** The dimension lines of a thing, beside it on the ground and up its height. */
export function dimensionsOf(
  scene: SceneAnswer,
  id: string,
  thing: JsonObject,
  at: (field: string) => number | undefined,
): Dimension[] {
  const place = scene.places[id]
  if (!place) return []
  const root = `/scene/${place.kind}/${id}`
  const back: [number, number] = [-Math.sin(place.azimuth * TURN), -Math.cos(place.azimuth * TURN)]
  const along: [number, number] = [back[1], -back[0]]
  const [low, high] = heightsOf(scene, id)
  const point = (x: number, y: number, z: number): Point => [
    place.x + along[0] * x + back[0] * y,
    place.y + along[1] * x + back[1] * y,
    z,
  ]
  const found: Dimension[] = []
  const length = at('length')
  const width = at('width') ?? at('thickness')
  const diameter = at('diameter')
  if (diameter !== undefined) {
    const r = diameter / 2
    found.push({
      pointer: `${root}/diameter`,
      label: 'Diameter',
      from: point(-r, -r - 0.6, low),
      to: point(r, -r - 0.6, low),
      unit: 'm',
    })
    add(
      'height',
      'Height',
      point(r + 0.6, 0, low),
      point(r + 0.6, 0, place.kind === 'trees' ? high : low + (at('height') ?? 0)),
    )
    if (place.kind === 'trees')
      add('trunk', 'Trunk', point(-r - 0.6, 0, low), point(-r - 0.6, 0, low + (at('trunk') ?? 0)))
    return found
  }
  const [a, b] = [(length ?? 1) / 2, (width ?? 1) / 2]
  const out = place.kind === 'buildings' ? 1.2 : 0.5
  if (!thing.outline) {
    add('length', 'Length', point(-a, -b - out, low), point(a, -b - out, low))
    if (at('width') !== undefined) add('width', 'Width', point(a + out, -b, low), point(a + out, b, low))
  }
  if (place.kind === 'buildings')
    add('eave', 'Eave', point(-a - out, -b, low), point(-a - out, -b, low + (at('eave') ?? 3)))
  else if (place.kind !== 'skylights' && place.kind !== 'grounds')
    add('height', 'Height', point(a + out, -b, high - (at('height') ?? 0)), point(a + out, -b, high))
  return found

  function add(field: string, label: string, from: Point, to: Point) {
    found.push({ pointer: `${root}/${field}`, label, from, to, unit: 'm' })
  }
}

/** What is dragged to turn a thing or to raise it. */
export interface Handle {
  kind: 'turn' | 'raise'
  at: Point
  centre: Point
  /** Of the height in the document, and the height now [m]. */
  pointer: string
  value: number
}
/** The handles of a thing: behind its back, where it has a front, and over its top. */
export function handlesOf(scene: SceneAnswer, id: string, at: (field: string) => number | undefined): Handle[] {
  const place = scene.places[id]
  if (!place || place.kind === 'meshes') return []
  const [low, high] = heightsOf(scene, id)
  const centre: Point = [place.x, place.y, low]
  const found: Handle[] = []
  const isRound = at('diameter') !== undefined
  if (!isRound) {
    // Behind its back: before the front stands a dimension.
    const far = (at('width') ?? at('thickness') ?? 1) / 2 + (place.kind === 'buildings' ? 2 : 1)
    const behind: Point = [
      place.x - Math.sin(place.azimuth * TURN) * far,
      place.y - Math.cos(place.azimuth * TURN) * far,
      low,
    ]
    found.push({
      kind: 'turn',
      at: behind,
      centre,
      pointer: `/scene/${place.kind}/${id}/azimuth`,
      value: place.azimuth,
    })
  }
  const field = place.kind === 'buildings' ? 'eave' : 'height'
  const height = at(field)
  if (height !== undefined)
    found.push({
      kind: 'raise',
      at: [place.x, place.y, high + 0.5],
      centre,
      pointer: `/scene/${place.kind}/${id}/${field}`,
      value: height,
    })
  return found
}

/** Lowest and highest point of a thing as it is drawn. */
export function heightsOf(scene: SceneAnswer, id: string): [number, number] {
  let [low, high] = [Infinity, -Infinity]
  for (const face of scene.faces)
    if (face.solid === id)
      for (const p of face.outline) {
        low = Math.min(low, p[2]!)
        high = Math.max(high, p[2]!)
      }
  for (const body of scene.bodies)
    if (body.id === id)
      for (const p of body.points) {
        low = Math.min(low, p[2]!)
        high = Math.max(high, p[2]!)
      }
  return Number.isFinite(low) ? [low, high] : [0, 0]
}
