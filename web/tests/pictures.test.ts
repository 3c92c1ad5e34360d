import { heightAt } from '@/charts/horizonLine'
import { describe, expect, it } from 'vitest'
import type { CascadeAnswer, CascadeLine, OrientationAnswer } from '@/api/client'
import { conversionOf, leftAround } from '@/benches/losses/useCascade'
import { chartOption } from '@/benches/hours/chartOption'
import { asCells, plotSeries, windowAround } from '@/benches/hours/hoursPlot'
import {
  DISC,
  fromDisc,
  isolines,
  onDisc,
  placePins,
  horizonRing,
  withRoomForLabels,
} from '@/benches/surfaces/discGeometry'
import { powerOfTen } from '@/theme/format'
import { boundsOf, clock, energyBetween, sunTimesOf } from '@/tideline/yearFigures'

const numbersOf = (path: string) => [...path.matchAll(/-?\d+(\.\d+)?/g)].map((match) => Number(match[0]))

describe('the disc of facings', () => {
  it.each([
    [0, 123, [DISC.x, DISC.y]],
    [90, 0, [DISC.x, DISC.y - DISC.radius]],
    [90, 90, [DISC.x + DISC.radius, DISC.y]],
    [45, 180, [DISC.x, DISC.y + DISC.radius / 2]],
  ])('puts tilt %d and azimuth %d in their place', (tilt, azimuth, [x, y]) => {
    const [px, py] = onDisc(tilt, azimuth)
    expect(px).toBeCloseTo(x!, 9)
    expect(py).toBeCloseTo(y!, 9)
  })
  it('reads a point back as the orientation that was put there, to a degree', () => {
    for (let tilt = 5; tilt <= 90; tilt += 17)
      for (let azimuth = 4; azimuth < 360; azimuth += 37)
        expect(fromDisc(onDisc(tilt, azimuth))).toEqual({ tilt, azimuth })
  })
  it('holds the four quarters within two degrees, north from both sides', () => {
    expect([358, 1, 92, 179, 268, 272].map((azimuth) => fromDisc(onDisc(60, azimuth)).azimuth)).toEqual([
      0, 0, 90, 180, 270, 270,
    ])
  })
  it('takes what lies beyond the rim for a wall', () => {
    expect(fromDisc([DISC.x + 2 * DISC.radius, DISC.y])).toEqual({ tilt: 90, azimuth: 90 })
  })

  /** A worth that falls off by the angle between the normals, best at 36° due south. */
  function map(): OrientationAnswer {
    const tilts = Array.from({ length: 19 }, (_, i) => i * 5)
    const azimuths = Array.from({ length: 36 }, (_, i) => i * 10)
    const r = Math.PI / 180
    const worth = (t: number, a: number) =>
      Math.max(0, Math.cos(t * r) * Math.cos(36 * r) - Math.sin(t * r) * Math.sin(36 * r) * Math.cos(a * r))
    return {
      tilts,
      azimuths,
      irradiation: tilts.map((t) => azimuths.map((a) => worth(t, a))),
      best: 1,
      best_tilt: 36,
      best_azimuth: 180,
      surfaces: {},
    } as unknown as OrientationAnswer
  }
  it('draws an isoline through the facings that lose its share', () => {
    const line = isolines(map()).find((found) => found.level === -0.1)!
    const numbers = numbersOf(line.path)
    const best = 36 * (Math.PI / 180)
    for (let i = 0; i < numbers.length; i += 2) {
      const { tilt, azimuth } = exactFacing(numbers[i]!, numbers[i + 1]!)
      const cosine = Math.cos(tilt) * Math.cos(best) - Math.sin(tilt) * Math.sin(best) * Math.cos(azimuth)
      expect(cosine).toBeGreaterThan(0.885)
      expect(cosine).toBeLessThan(0.915)
    }
  })
  it('labels each isoline on itself', () => {
    for (const line of isolines(map()).filter((found) => found.label)) {
      const numbers = numbersOf(line.path)
      const distances = numbers
        .filter((_, i) => i % 2 === 0)
        .map((x, i) => Math.hypot(x - line.label!.x, numbers[2 * i + 1]! - line.label!.y))
      expect(Math.min(...distances)).toBeLessThan(0.1)
    }
  })
  it('leaves a label out where it would cover another', () => {
    const lines = [-0.1, -0.02, -0.05].map((level, i) => ({ level, path: '', label: { x: 300, y: 300 + 8 * i } }))
    const labelled = (enlarged: number) =>
      withRoomForLabels(lines, enlarged)
        .filter((line) => line.label)
        .map((line) => line.level)
    expect(labelled(1)).toEqual([-0.02])
    expect(labelled(0.5)).toEqual([-0.02, -0.05, -0.1])
  })
  function exactFacing(x: number, y: number) {
    const [dx, dy] = [x - DISC.x, DISC.y - y]
    return { tilt: (Math.hypot(dx, dy) / DISC.radius) * (Math.PI / 2), azimuth: Math.atan2(dx, dy) }
  }

  it('lets names step aside for one another', () => {
    const pins = placePins(Array.from({ length: 5 }, () => ({ tilt: 30, azimuth: 200 })))
    const heights = pins.map((pin) => pin.labelY).sort((a, b) => a - b)
    for (let i = 1; i < heights.length; i++) expect(heights[i]! - heights[i - 1]!).toBeGreaterThanOrEqual(18)
  })
})

describe('the horizon', () => {
  const points = [
    { azimuth: 60, elevation: 6 },
    { azimuth: 90, elevation: 12 },
    { azimuth: 350, elevation: 2 },
  ]
  it.each([
    [60, 6],
    [75, 9],
    [90, 12],
    [350, 2],
    [25, 4],
    [0, 2 + (4 * 10) / 70],
  ])('in %d° is %d° high, linear between its points and over north', (azimuth, height) => {
    expect(heightAt(points, azimuth)).toBeCloseTo(height, 9)
  })
  it('is the same all round with one point', () => {
    expect([0, 90, 200].map((azimuth) => heightAt([{ azimuth: 100, elevation: 7 }], azimuth))).toEqual([7, 7, 7])
  })
  it('is not drawn where there is none', () => {
    expect(horizonRing([])).toBe('')
  })
})

describe('the account', () => {
  const line = (key: string, before: number, energy: number) =>
    ({
      key,
      group: 'sunlight',
      title: key,
      before,
      energy,
      share: energy / before,
      monthly: [],
    }) as unknown as CascadeLine
  const cascade = {
    start: 1000,
    lines: [line('soiling', 1000, -100), line('conversion', 900, -720), line('warmth', 180, -18)],
  } as unknown as CascadeAnswer

  it('counts light before the conversion and electricity after it', () => {
    expect(conversionOf(cascade).efficiency).toBeCloseTo(0.2, 12)
    expect(leftAround(cascade, cascade.lines[0]!)).toEqual({ before: 1, after: 0.9 })
    const warmth = leftAround(cascade, cascade.lines[2]!)
    expect(warmth.before).toBeCloseTo(0.9, 12)
    expect(warmth.after).toBeCloseTo(0.81, 12)
  })
  it.each([
    [2.4e-16, '2 × 10⁻¹⁶'],
    [0.00031, '3 × 10⁻⁴'],
    [0, '0'],
  ])('writes %d as %s', (value, text) => {
    expect(powerOfTen(value)).toBe(text)
  })
})

describe('the hours', () => {
  const year = { perDay: 4, days: 10, timeOf: (at: number) => new Date(Date.UTC(2026, 0, 1, at * 6)) }
  const columns = {
    columns: [
      { key: 'delivered', title: 'AC power', unit: 'W', values: Float32Array.from({ length: 40 }, (_, i) => i * 1000) },
      { key: 'poa', title: 'Plane', unit: 'W/m²', values: new Float32Array(40).fill(500) },
    ],
  } as unknown as Parameters<typeof plotSeries>[0]

  it.each([
    ['day', 5, [20, 24]],
    ['day', 0, [0, 4]],
    ['day', 9, [36, 40]],
    ['month', 5, [0, 40]],
    ['year', 3, [0, 40]],
  ] as const)('by the %s around day %d are those of whole days within the year', (scale, day, expected) => {
    expect(windowAround(scale, day, year)).toEqual(expected)
  })
  it('show powers in kW, each at the start of its interval', () => {
    const [power, plane] = plotSeries(columns, [4, 6], false, year)
    expect(power).toMatchObject({
      unit: 'kW',
      points: [
        [Date.UTC(2026, 0, 2, 0), 4],
        [Date.UTC(2026, 0, 2, 6), 5],
      ],
    })
    expect(plane!.unit).toBe('W/m²')
  })
  it('show the means of days at their noons over the year', () => {
    const [power] = plotSeries(columns, [0, 40], true, year)
    expect(power!.points).toHaveLength(10)
    expect(power!.points[1]).toEqual([Date.UTC(2026, 0, 2, 12), 5.5])
  })
  it('become cells with a row a time', () => {
    const cells = asCells(plotSeries(columns, [0, 3], false, year))
    expect(cells[0]).toEqual(['time', 'AC power [kW]', 'Plane [W/m²]'])
    expect(cells[3]).toEqual(['2026-01-01T12:00', 2, 500])
    expect(asCells([])).toEqual([['time']])
  })
  it('have an axis a unit, and a dash for the second of one colour', () => {
    const series = ['a', 'b', 'c'].map((key, i) => ({ key, title: key, unit: i < 2 ? 'kW' : '°C', points: [] }))
    const option = chartOption(series, () => 'sun') as {
      yAxis: { name: string }[]
      series: { yAxisIndex: number; lineStyle: { type: string } }[]
    }
    expect(option.yAxis.map((axis) => axis.name)).toEqual(['kW', '°C'])
    expect(option.series.map((s) => [s.yAxisIndex, s.lineStyle.type])).toEqual([
      [0, 'solid'],
      [0, 'dashed'],
      [1, 'dotted'],
    ])
  })
})

describe('the figures beside the Tideline', () => {
  it('tell sunrise and sunset from the shares of the intervals with the sun up', () => {
    const day = [0, 0, 0, 0, 0, 0, 0.25, ...new Array<number>(12).fill(1), 0.5, 0, 0, 0, 0]
    const { rise, set } = sunTimesOf([...day, ...new Array<number>(24).fill(0), ...new Array<number>(24).fill(1)], 24)
    expect([rise[0], set[0]]).toEqual([6.75, 19.5])
    expect([rise[1], set[1]]).toEqual([NaN, NaN])
    expect([rise[2], set[2]]).toEqual([0, 24])
  })
  it.each([
    [6.75, '06:45'],
    [19.5, '19:30'],
    [0, '00:00'],
    [4 + 35 / 60, '04:35'],
    [NaN, 'none'],
  ])('write %d hours as %s', (hours, text) => {
    expect(clock(hours)).toBe(text)
  })
  it('sum powers to energy at any step', () => {
    expect(energyBetween([1000, 3000, 500], 0, 2, 60)).toBeCloseTo(4, 12)
    expect(energyBetween(new Array(4).fill(2000), 0, 4, 15)).toBeCloseTo(2, 12)
  })
  it('span the ramp from zero, from the coldest, or from what is lost at least', () => {
    expect(boundsOf([-5, 10, 20], 'delivered', 'W')).toEqual({ low: 0, high: 20 })
    expect(boundsOf([-5, 10, 20], 'air_temperature', '°C')).toEqual({ low: -5, high: 20 })
    expect(boundsOf([3, 10, 20], 'poa', 'W/m²')).toEqual({ low: 0, high: 20 })
    expect(boundsOf([0, 0], 'loss_rows', 'W').high).toBeGreaterThan(0)
    expect(boundsOf(undefined, 'poa', 'W/m²')).toEqual({ low: 0, high: 1 })
  })
})
