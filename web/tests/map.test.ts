import { describe, expect, it } from 'vitest'
import type { PlaceAnswer } from '@/api/client'
import {
  boxOf,
  draggedBy,
  FURTHEST_IN,
  MAP,
  placeUnder,
  projectionOf,
  scaleBar,
  viewOf,
  WHOLE_WORLD,
  zoomedAt,
  type MapView,
  type Pixel,
} from '@/benches/site/mapView'
import { cornersOf, matrixOf, readPlace, wayBetween, type Plan } from '@/benches/site/planPicture'
import { geoJsonOf, spanOf } from '@/benches/site/region'
import { distanceKm } from '@/theme/format'
import { withRoom } from '@/benches/site/useTowns'

const HILLS: MapView = { latitude: 43.62, longitude: 11.31, zoom: 24 }
const ISLANDS: MapView = { latitude: -17, longitude: 179, zoom: 20 }
const MIDDLE: Pixel = [MAP.width / 2, MAP.height / 2]

describe('the map', () => {
  it.each([WHOLE_WORLD, HILLS, ISLANDS])(
    'finds a place again under the point where it is drawn, $zoom times nearer',
    (view) => {
      for (const [longitude, latitude] of [
        [view.longitude + 1, view.latitude + 1],
        [view.longitude - 2, view.latitude - 0.5],
      ]) {
        const point = projectionOf(view)([longitude!, latitude!])!
        const found = placeUnder(view, point)!
        expect(found.latitude).toBeCloseTo(latitude!, 6)
        expect((found.longitude - longitude! + 540) % 360).toBeCloseTo(180, 6)
      }
    },
  )
  it('has no place beside the globe', () => {
    expect(placeUnder(WHOLE_WORLD, [2, 2])).toBeNull()
    expect(placeUnder(WHOLE_WORLD, [MAP.width - 2, MAP.height - 2])).toBeNull()
    expect(placeUnder(WHOLE_WORLD, MIDDLE)).not.toBeNull()
  })
  it('leans in on the place under the pointer, which stays there', () => {
    for (const point of [MIDDLE, [200, 100], [550, 290]] as Pixel[]) {
      const before = placeUnder(HILLS, point)!
      const after = placeUnder(zoomedAt(HILLS, point, 1.7), point)!
      expect(after.latitude).toBeCloseTo(before.latitude, 3)
      expect(after.longitude).toBeCloseTo(before.longitude, 3)
    }
  })
  it('leans in from the whole world to where the pointer is', () => {
    const point = projectionOf(WHOLE_WORLD)([11.31, 43.62])! as Pixel
    let view = WHOLE_WORLD
    for (let i = 0; i < 12; i++) view = zoomedAt(view, point, 1.4)
    const seen = boxOf(view)
    expect(view.zoom).toBeGreaterThan(40)
    expect(seen.west).toBeLessThan(11.31)
    expect(seen.east).toBeGreaterThan(11.31)
    expect(seen.south).toBeLessThan(43.62)
    expect(seen.north).toBeGreaterThan(43.62)
  })
  it('ends at the whole world on one side and at its finest on the other', () => {
    expect(zoomedAt(HILLS, MIDDLE, 1e-3)).toEqual(WHOLE_WORLD)
    expect(zoomedAt(HILLS, MIDDLE, 1e6).zoom).toBe(FURTHEST_IN)
  })
  it('is dragged with the place that was taken hold of', () => {
    const [from, to]: Pixel[] = [
      [300, 150],
      [380, 120],
    ]
    const held = placeUnder(HILLS, from!)!
    const after = placeUnder(draggedBy(HILLS, from!, to!), to!)!
    expect(after.latitude).toBeCloseTo(held.latitude, 1)
    expect(after.longitude).toBeCloseTo(held.longitude, 1)
    expect(draggedBy(WHOLE_WORLD, from!, to!)).toEqual(WHOLE_WORLD)
  })
  it('goes over the date line as if it were not there', () => {
    const moved = draggedBy({ ...ISLANDS, longitude: 179.9 }, [400, 178], [200, 178])
    expect(moved.longitude).toBeLessThan(-160)
    const { west, east } = boxOf(ISLANDS)
    expect(west).toBeGreaterThan(150)
    expect(east).toBeLessThan(-150)
  })
})

describe('the scale of the map', () => {
  it('is that of the ground in the middle of the view', () => {
    for (const view of [HILLS, { ...HILLS, zoom: 150_000 }, { ...ISLANDS, latitude: 65 }]) {
      const { metres, pixels } = scaleBar(view)!
      const from = placeUnder(view, [MAP.width / 2 - pixels / 2, MAP.height / 2])!
      const to = placeUnder(view, [MAP.width / 2 + pixels / 2, MAP.height / 2])!
      expect(distanceKm(from, to) * 1000).toBeCloseTo(metres, -Math.log10(metres) + 2)
      expect(String(metres)).toMatch(/^[125]0*$/)
    }
  })
  it('is the same to the north as to the east', () => {
    const view = { ...HILLS, zoom: 100_000 }
    const [x, y] = projectionOf(view)([11.31 + 0.001 / Math.cos((43.62 * Math.PI) / 180), 43.621])!
    expect(x! - MAP.width / 2).toBeCloseTo(MAP.height / 2 - y!, 1)
  })
  it('shows all of the places that are to be seen', () => {
    const places: [number, number][] = [
      [179.5, -17],
      [-179.8, -18],
      [178, -16.5],
    ]
    const view = viewOf(places)
    for (const place of places) {
      const [x, y] = projectionOf(view)(place)!
      expect(x).toBeGreaterThan(0)
      expect(x).toBeLessThan(MAP.width)
      expect(y).toBeGreaterThan(0)
      expect(y).toBeLessThan(MAP.height)
    }
    expect(viewOf([[11.31, 43.62]]).zoom).toBe(FURTHEST_IN)
  })
})

describe('a picture on the map', () => {
  const plan: Plan = {
    digest: 'a',
    width_to_height: 2,
    first_x: 0.25,
    first_y: 0.5,
    second_x: 0.75,
    second_y: 0.5,
    latitude: 0,
    longitude: 20,
    distance: 100,
    azimuth: 90,
  }
  const metres = (place: [number, number], from = plan) => [
    (place[0] - from.longitude) * 111_194.93 * Math.cos((from.latitude * Math.PI) / 180),
    (place[1] - from.latitude) * 111_194.93,
  ]
  it('stands upright where its points lie east of one another', () => {
    const [upperLeft, upperRight, lowerLeft] = cornersOf(plan).map((place) => metres(place))
    expect(upperLeft).toEqual([expect.closeTo(-50, 3), expect.closeTo(50, 3)])
    expect(upperRight).toEqual([expect.closeTo(150, 3), expect.closeTo(50, 3)])
    expect(lowerLeft).toEqual([expect.closeTo(-50, 3), expect.closeTo(-50, 3)])
  })
  it('turns with the way from one point to the other, at its own scale', () => {
    const [upperLeft, upperRight] = cornersOf({ ...plan, azimuth: 180, latitude: 60 }).map((place) =>
      metres(place, { ...plan, latitude: 60 }),
    )
    // Right of the picture is south: its top looks east.
    expect(upperLeft).toEqual([expect.closeTo(50, 2), expect.closeTo(50, 2)])
    expect(upperRight).toEqual([expect.closeTo(50, 2), expect.closeTo(-150, 2)])
  })
  it('is placed by two places as well as by one and the way', () => {
    const [from, to] = [readPlace('43.62, 11.31')!, readPlace('43.6209° N 11.31° E')!]
    expect(wayBetween(from, to)).toEqual({ distance: expect.closeTo(100.08, 1), azimuth: expect.closeTo(0, 6) })
    expect(readPlace('43.2 S, 70.5 W')).toEqual({ latitude: -43.2, longitude: -70.5 })
    expect(readPlace('95, 11')).toBeNull()
    expect(readPlace('here')).toBeNull()
  })
  it('lies over its corners', () => {
    expect(
      matrixOf([
        [10, 20],
        [30, 25],
        [5, 60],
      ]),
    ).toBe('matrix(20 5 -5 40 10 20)')
  })
})

describe('the sites of a region', () => {
  const sites = [
    { name: 'Valley', latitude: 43.5, longitude: 11.2, annual_ghi: 1400 },
    { name: 'Hill', latitude: 43.7, longitude: 11.4, annual_ghi: 1500 },
    { name: 'Unknown', latitude: 43.9, longitude: 11.4 },
  ]
  it('have a range among those that are known', () => {
    expect(spanOf(sites)).toEqual({ low: 1400, high: 1500, darkest: 'Valley', brightest: 'Hill', count: 2 })
    expect(spanOf([sites[2]!])).toBeNull()
  })
  it('go out as points with longitude first', () => {
    const layer = JSON.parse(geoJsonOf(sites))
    expect(layer.features[0].geometry).toEqual({ type: 'Point', coordinates: [11.2, 43.5] })
    expect(layer.features[2].properties).toEqual({ name: 'Unknown', ghi_kwh_m2: null })
  })
})

describe('names of towns', () => {
  const town = (name: string, longitude: number, latitude: number) => ({ name, longitude, latitude }) as PlaceAnswer
  it('give way to those of larger ones', () => {
    const names = withRoom([town('Largest', 11.3, 43.6), town('Too near', 11.32, 43.6), town('Afar', 9, 45)], HILLS)
    expect(names.map((name) => name.town.name)).toEqual(['Largest', 'Afar'])
  })
  it('wait until there is room for them', () => {
    expect(withRoom([town('Largest', 11.3, 43.6)], { ...HILLS, zoom: 2 })).toEqual([])
  })
})
