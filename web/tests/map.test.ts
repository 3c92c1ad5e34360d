import { describe, expect, it } from 'vitest'
import type { PlaceAnswer } from '@/api/client'
import {
  boxOf,
  draggedBy,
  FURTHEST_IN,
  MAP,
  placeUnder,
  projectionOf,
  WHOLE_WORLD,
  zoomedAt,
  type MapView,
  type Pixel,
} from '@/benches/site/mapView'
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
    expect(zoomedAt(HILLS, MIDDLE, 1e3).zoom).toBe(FURTHEST_IN)
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
