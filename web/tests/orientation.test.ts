import { createPinia, setActivePinia } from 'pinia'
import { effectScope } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { paintDisc } from '@/benches/surfaces/paintDisc'
import { useOrientation } from '@/benches/surfaces/useOrientation'
import { rampColour } from '@/theme/ramp'
import { forgetEditors } from '@/stores/schemeEditor'
import { showScheme } from './showScheme'
import { serve } from './fetching'

/** A map whose worth is a plane in tilt and a step of ten degrees in azimuth: between its points it is known exactly. */
const tilts = [0, 30, 60, 90]
const azimuths = Array.from({ length: 36 }, (_, i) => i * 10)
const worthAt = (tilt: number, i: number) => 1000 + 2 * tilt + 5 * i
let asked: string[] = []

beforeEach(() => {
  forgetEditors()
  setActivePinia(createPinia())
  asked = []
  serve(async (path: string) => {
    asked.push(path)
    const irradiation = tilts.map((tilt) => azimuths.map((_, i) => worthAt(tilt, i)))
    const map = { tilts, azimuths, irradiation, best: 1355, best_tilt: 90, best_azimuth: 350, surfaces: {} }
    return new Response(JSON.stringify(map), { headers: { 'Content-Type': 'application/json' } })
  })
})
afterEach(() => vi.unstubAllGlobals())

async function orientation(weather: object | null = { digest: 'abc' }) {
  const design = showScheme({ id: 4, revision: 1, document: {}, evaluation: { state: 'exact', weather } })
  const found = effectScope().run(() => useOrientation())!
  await vi.waitFor(() => expect(weather ? found.map.value : true).toBeTruthy())
  return { design, ...found }
}

describe('the irradiation of an orientation', () => {
  it.each([
    [0, 0, 1000],
    [30, 100, 1000 + 60 + 50],
    [45, 100, 1000 + 90 + 50],
    [45, 104, 1000 + 90 + 52],
    [90, 350, 1000 + 180 + 175],
    [90, -10, 1000 + 180 + 175],
    [90, 710, 1000 + 180 + 175],
  ])('at %d° tilt and %d° azimuth is %d, linear between the points of the map', async (tilt, azimuth, worth) => {
    expect((await orientation()).irradiation(tilt, azimuth)).toBeCloseTo(worth, 2)
  })
  it('goes over north from the last point of the map to the first', async () => {
    expect((await orientation()).irradiation(0, 355)).toBeCloseTo((worthAt(0, 35) + worthAt(0, 0)) / 2, 6)
  })
  it('is asked again when the season or the design changes', async () => {
    const { season, design } = await orientation()
    season.value = 'winter'
    await vi.waitFor(() => expect(asked).toHaveLength(2))
    showScheme({ ...design.saved!, revision: 2 })
    await vi.waitFor(() => expect(asked).toHaveLength(3))
    expect(asked.at(-1)).toContain('winter')
  })
  it('is not asked for as long as there is no weather', async () => {
    const { irradiation } = await orientation(null)
    expect([asked, irradiation(30, 180)]).toEqual([[], 0])
  })
})

describe('the disc', () => {
  const radius = 60
  const map = {
    tilts,
    azimuths,
    irradiation: tilts.map((tilt) => azimuths.map((_, i) => worthAt(tilt, i))),
    best: 2000,
  } as never
  const at = (x: number, y: number) => [
    ...paintDisc(map, radius)
      .data.slice(4 * (y * 2 * radius + x))
      .slice(0, 4),
  ]
  it('has at every point the colour of what a plane there receives', () => {
    for (const [x, y] of [
      [60, 20],
      [95, 60],
      [60, 100],
      [30, 45],
    ] as const) {
      const [dx, dy] = [x + 0.5 - radius, radius - y - 0.5]
      const [tilt, azimuth] = [(Math.hypot(dx, dy) / radius) * 90, ((Math.atan2(dx, dy) * 180) / Math.PI + 360) % 360]
      const along = azimuth / 10 < 35 ? azimuth / 10 : 35 * (36 - azimuth / 10)
      const colour = rampColour(((1000 + 2 * tilt + 5 * along) / 2000 - 0.3) / 0.7)
      at(x, y).forEach((part, k) => expect(Math.abs(part - [...colour, 255][k]!)).toBeLessThanOrEqual(1))
    }
  })
  it('is clear beyond its rim and fades towards it', () => {
    expect(at(2, 2)[3]).toBe(0)
    expect(at(0, 60)[3]).toBeGreaterThan(0)
    expect(at(0, 60)[3]).toBeLessThan(255)
  })
})
