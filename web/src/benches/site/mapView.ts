import { geoNaturalEarth1, type GeoProjection } from 'd3-geo'

export const MAP = { width: 700, height: 356 }
export const FURTHEST_IN = 96

/** What the map looks at: the middle, and how much nearer than the whole world. */
export interface MapView {
  latitude: number
  longitude: number
  zoom: number
}
export const WHOLE_WORLD: MapView = { latitude: 0, longitude: 0, zoom: 1 }
export type Pixel = [x: number, y: number]

export function projectionOf(view: MapView): GeoProjection {
  const whole = geoNaturalEarth1().fitSize([MAP.width, MAP.height], { type: 'Sphere' })
  if (view.zoom <= 1) return whole
  return geoNaturalEarth1()
    .rotate([-view.longitude, 0])
    .scale(whole.scale() * view.zoom)
    .center([0, view.latitude])
    .translate([MAP.width / 2, MAP.height / 2])
    .clipExtent([
      [0, 0],
      [MAP.width, MAP.height],
    ])
}

/** Latitude and longitude under a point, or null beside the globe. */
export function placeUnder(view: MapView, point: Pixel): { latitude: number; longitude: number } | null {
  const found = projectionOf(view).invert?.(point)
  if (!found || Math.abs(found[1]) > 90) return null
  // Beside the globe the projection still gives numbers: they do not lead back.
  const [x, y] = projectionOf(view)(found) ?? [NaN, NaN]
  if (!(Math.hypot(x - point[0], y - point[1]) < 1)) return null
  return { latitude: found[1], longitude: wrap(found[0]) }
}

/** The view after moving nearer by a factor, with the place under the point staying where it is. */
export function zoomedAt(view: MapView, point: Pixel, factor: number): MapView {
  const zoom = Math.max(1, Math.min(FURTHEST_IN, view.zoom * factor))
  if (zoom <= 1.05) return WHOLE_WORLD
  const under = placeUnder(view, point)
  if (!under) return { ...view, zoom }
  let next: MapView = view.zoom > 1 ? { ...view, zoom } : { ...under, zoom }
  // A few steps of putting the place back under the point: the projection is curved.
  for (let i = 0; i < 4; i++) {
    const here = placeUnder(next, point)
    if (!here) break
    next = clamped({
      ...next,
      latitude: next.latitude + under.latitude - here.latitude,
      longitude: next.longitude + wrap(under.longitude - here.longitude),
    })
  }
  return next
}

/** The view after the ground was dragged from one point to another. */
export function draggedBy(view: MapView, from: Pixel, to: Pixel): MapView {
  const [a, b] = [placeUnder(view, from), placeUnder(view, to)]
  if (view.zoom <= 1 || !a || !b) return view
  return clamped({
    ...view,
    latitude: view.latitude + a.latitude - b.latitude,
    longitude: view.longitude + wrap(a.longitude - b.longitude),
  })
}

/** West, south, east and north of what is seen; west lies over east where the date line is in it. */
export function boxOf(view: MapView): { west: number; south: number; east: number; north: number } {
  const corners: Pixel[] = [0, 0.5, 1].flatMap((x) => [0, 0.5, 1].map((y): Pixel => [x * MAP.width, y * MAP.height]))
  const seen = corners.map((corner) => placeUnder(view, corner)).filter((place) => place !== null)
  const turns = seen.map((place) => wrap(place.longitude - view.longitude))
  const latitudes = seen.map((place) => place.latitude)
  const round = (value: number) => Math.round(value * 1000) / 1000
  return {
    west: round(wrap(view.longitude + Math.min(...turns))),
    east: round(wrap(view.longitude + Math.max(...turns))),
    south: round(Math.min(...latitudes)),
    north: round(Math.max(...latitudes)),
  }
}

const wrap = (longitude: number) => ((((longitude + 180) % 360) + 360) % 360) - 180
const clamped = (view: MapView): MapView => ({
  ...view,
  latitude: Math.max(-85, Math.min(85, view.latitude)),
  longitude: wrap(view.longitude),
})
