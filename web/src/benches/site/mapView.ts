import { geoMercator, geoNaturalEarth1, type GeoProjection } from 'd3-geo'

export const MAP = { width: 700, height: 356 }
/** From here on a plan of a house fills the map. */
export const FURTHEST_IN = 400_000
const EARTH_RADIUS = 6_371_000

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
  // Zoomed in, angles are true, so that a plan keeps its shape; the scale holds in the middle.
  return geoMercator()
    .rotate([-view.longitude, 0])
    .scale(whole.scale() * view.zoom * Math.cos((view.latitude * Math.PI) / 180))
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
  const round = (value: number) => Math.round(value * 1e6) / 1e6
  return {
    west: round(wrap(view.longitude + Math.min(...turns))),
    east: round(wrap(view.longitude + Math.max(...turns))),
    south: round(Math.min(...latitudes)),
    north: round(Math.max(...latitudes)),
  }
}

/** A length that reads well and takes about a sixth of the map, in metres, and its pixels. */
export function scaleBar(view: MapView): { metres: number; pixels: number } | null {
  if (view.zoom < 4) return null
  const perPixel = EARTH_RADIUS / (projectionOf(WHOLE_WORLD).scale() * view.zoom)
  const most = (MAP.width / 6) * perPixel
  const ten = 10 ** Math.floor(Math.log10(most))
  const metres = [5, 2, 1].map((digit) => digit * ten).find((length) => length <= most)!
  return { metres, pixels: metres / perPixel }
}

/** The view that shows all of some places, with room around them. */
export function viewOf(places: [longitude: number, latitude: number][]): MapView {
  const first = places[0]!
  const turns = places.map(([longitude]) => wrap(longitude - first[0]))
  const [west, east] = [Math.min(...turns), Math.max(...turns)]
  const latitudes = places.map(([, latitude]) => latitude)
  const [south, north] = [Math.min(...latitudes), Math.max(...latitudes)]
  const latitude = (south + north) / 2
  const narrow = Math.cos((latitude * Math.PI) / 180)
  const perRadian = projectionOf(WHOLE_WORLD).scale()
  const degrees = Math.PI / 180
  const fits = Math.min(
    MAP.width / Math.max(1e-9, (east - west) * degrees * narrow * perRadian),
    MAP.height / Math.max(1e-9, (north - south) * degrees * perRadian),
  )
  return clamped({
    latitude,
    longitude: wrap(first[0] + (west + east) / 2),
    zoom: Math.max(2, Math.min(FURTHEST_IN, fits * 0.75)),
  })
}

const wrap = (longitude: number) => ((((longitude + 180) % 360) + 360) % 360) - 180
const clamped = (view: MapView): MapView => ({
  ...view,
  latitude: Math.max(-85, Math.min(85, view.latitude)),
  longitude: wrap(view.longitude),
})
