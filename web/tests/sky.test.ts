import { accessOf, isOutline, joined } from '@/benches/sky/accessTable'
import { describe, expect, it } from 'vitest'
import type { SunPathsAnswer } from '@/api/client'
import { heightAt } from '@/charts/horizonLine'
import { readAzimuth, readPairs, suspects } from '@/benches/sky/azimuths'
import {
  FIELD_MONTHS,
  fieldsOf,
  groundUnder,
  pathOf,
  polar,
  sunAt,
  unrolled,
  withDrawn,
  worthCells,
} from '@/benches/sky/skyGeometry'
import { extentOf, lensOf, placedPhoto, placeIn } from '@/benches/sky/lens'

/** A sun that stands 60° up at noon all year and sets at six, turning 15° an hour. */
function plainSun(): SunPathsAnswer {
  const elevation: number[] = []
  const azimuth: number[] = []
  for (let i = 0; i < 365 * 144; i++) {
    const hour = (i % 144) / 6
    elevation.push(60 * Math.cos(((hour - 12) / 12) * Math.PI))
    azimuth.push((hour * 15) % 360)
  }
  const days = Array.from({ length: 365 }, () => 12)
  return { revision: 1, year: 2026, utc_offset: 0, elevation, azimuth, noon: days, day_length: days }
}

describe('laying the sky on the paper', () => {
  it.each([polar(), unrolled(180, 75), unrolled(0, 75)])(
    'finds the direction under the point that it was placed on ($kind)',
    (projection) => {
      for (const azimuth of [3, 88, 179, 271, 355])
        for (const elevation of [1, 30, 70]) {
          const found = projection.under(projection.place({ azimuth, elevation }))!
          expect(found.azimuth).toBeCloseTo(azimuth, 6)
          expect(found.elevation).toBeCloseTo(elevation, 6)
        }
    },
  )
  it('puts east to the right of north, and the noon sun into the middle', () => {
    expect(polar().place({ azimuth: 90, elevation: 0 })[0]).toBeGreaterThan(
      polar().place({ azimuth: 0, elevation: 0 })[0],
    )
    const [left, middle] = [
      unrolled(180, 75).place({ azimuth: 0, elevation: 0 })[0],
      unrolled(180, 75).place({ azimuth: 180, elevation: 0 })[0],
    ]
    expect(middle).toBeGreaterThan(left)
    expect(unrolled(0, 75).place({ azimuth: 0, elevation: 0 })[0]).toBeCloseTo(middle, 6)
  })
  it('breaks a path at the edge of the paper and under the level', () => {
    const line = [350, 355, 0, 5].map((azimuth) => ({ azimuth, elevation: 10 }))
    expect(pathOf(line, unrolled(180, 75)).match(/M/g)).toHaveLength(2)
    expect(pathOf(line, polar()).match(/M/g)).toHaveLength(1)
    expect(pathOf([{ azimuth: 10, elevation: -5 }], polar())).toBe('')
  })
  it('closes the ground under a line that runs over the edge in two pieces', () => {
    const line = [340, 350, 359, 1, 10].map((azimuth) => ({ azimuth, elevation: 10 }))
    expect(groundUnder(line, unrolled(180, 75)).match(/Z/g)).toHaveLength(2)
    expect(groundUnder(line, polar()).match(/Z/g)).toHaveLength(1)
  })
})

describe('the sun', () => {
  const paths = plainSun()
  it('is found between the points of its path, over north too', () => {
    expect(sunAt(paths, 10, 12.05).azimuth).toBeCloseTo(180.75, 6)
    expect(sunAt(paths, 10, 23.95).azimuth).toBeCloseTo(359.25, 6)
  })
  it('gives every cell the mean of both passes', () => {
    const values = Array.from({ length: 8760 }, (_, i) => (i % 24 === 12 ? (i < 4380 ? 100 : 300) : 0))
    const noon = worthCells(paths, values).filter((c) => c.value > 0)
    for (const cell of noon) expect(cell.value).toBeGreaterThanOrEqual(100)
    const all = noon.reduce((sum, c) => sum + c.value, 0) / noon.length
    expect(all).toBeGreaterThan(190)
    expect(all).toBeLessThan(210)
  })
  it('has fields in seven bands that hold each month once', () => {
    expect(FIELD_MONTHS.flat().toSorted((a, b) => a - b)).toEqual([0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11])
    const fields = fieldsOf(paths)
    expect(new Set(fields.map((f) => f.band)).size).toBe(7)
    expect(Math.min(...fields.map((f) => f.hour))).toBe(6)
    expect(Math.max(...fields.map((f) => f.hour))).toBe(17)
  })
})

describe('a horizon drawn by hand', () => {
  const flat = [
    { azimuth: 0, elevation: 5 },
    { azimuth: 180, elevation: 5 },
  ]
  it('takes the place of the old one between its ends only', () => {
    const drawn = Array.from({ length: 21 }, (_, i) => ({ azimuth: 80 + i, elevation: 20 }))
    const line = withDrawn(flat, drawn)
    expect(heightAt(line, 90)).toBeCloseTo(20, 1)
    expect(heightAt(line, 60)).toBeCloseTo(5, 1)
    expect(heightAt(line, 200)).toBeCloseTo(5, 1)
    expect(line.length).toBeLessThan(8)
    expect(line.every((p, i) => !i || p.azimuth > line[i - 1]!.azimuth)).toBe(true)
  })
  it('may run over north and backwards', () => {
    const drawn = Array.from({ length: 21 }, (_, i) => ({ azimuth: (370 - i) % 360, elevation: 12 }))
    const line = withDrawn(flat, drawn)
    expect(heightAt(line, 355)).toBeCloseTo(12, 1)
    expect(heightAt(line, 5)).toBeCloseTo(12, 1)
    expect(heightAt(line, 30)).toBeLessThan(6)
  })
  it('is nothing where nothing was drawn', () => {
    expect(withDrawn(flat, [{ azimuth: 10, elevation: 3 }])).toBe(flat)
  })
})

describe('azimuths', () => {
  it.each([
    ['90', 'north', 90],
    ['-90', 'south-west', 90],
    ['90', 'south-west', 270],
    ['90', 'south-east', 90],
    ['270', 'north-left', 90],
    ['SSW', 'north', 202.5],
    ['S 12° W', 'north', 192],
    ['N 12 W', 'south-west', 348],
    ['360', 'north', 360],
    ['12,5', 'north', 12.5],
  ] as const)('reads %s counted from %s as %d', (text, convention, ours) =>
    expect(readAzimuth(text, convention)).toBeCloseTo(ours, 6),
  )
  it('reads pairs in every notation and names the line that is none', () => {
    expect(readPairs('60\t6\n92; 14\nS 12° W 3\nNNE 2,5', 'north').points).toEqual([
      { azimuth: 60, elevation: 6 },
      { azimuth: 92, elevation: 14 },
      { azimuth: 192, elevation: 3 },
      { azimuth: 22.5, elevation: 2.5 },
    ])
    expect(readPairs('60 6\n92 -3', 'north').fault).toContain('Line 2')
    expect(readPairs('60 6\neast', 'north').fault).toContain('Line 2')
  })
  it('asks where azimuths below zero would count from north', () => {
    expect(suspects('-30 5', 'north')).toBe(true)
    expect(suspects('-30 5', 'south-west')).toBe(false)
    expect(suspects('30 5', 'north')).toBe(false)
  })
})

describe('a photograph of the horizon', () => {
  const sky = unrolled(180, 75)
  it('lies between its marks, its level on the level', () => {
    const marks = { first: 0, firstBearing: 90, second: 100, secondBearing: 270, level: 60 }
    const lens = lensOf({ width: 3000, height: 600 }, marks)!
    const photo = placedPhoto('x', lens, marks, sky)
    expect(lens.kind).toBe('panorama')
    expect(photo.x).toBeCloseTo(sky.place({ azimuth: 90, elevation: 0 })[0], 0)
    expect(photo.x + photo.width).toBeCloseTo(sky.place({ azimuth: 270, elevation: 0 })[0], 0)
    const { top, bottom } = extentOf(lens)
    const level = photo.y + (photo.height * top) / (top - bottom)
    expect(level).toBeCloseTo(sky.place({ azimuth: 180, elevation: 0 })[1], 6)
  })
  it('reads a hill by the projection of its lens, at the edge as in the middle', () => {
    // A flat picture 90° wide, its middle to the south: a hill of 10° stands tan 10° / cos(aside) high in it.
    const size = { width: 2000, height: 1000 }
    for (const [first, second] of [
      [5, 95],
      [50, 80],
      [95, 10],
    ] as const) {
      const bearing = (share: number) => 180 + Math.atan((share / 100 - 0.5) * 2) / (Math.PI / 180)
      const marks = { first, firstBearing: bearing(first), second, secondBearing: bearing(second), level: 50 }
      const lens = lensOf(size, marks)!
      expect(lens.kind).toBe('lens')
      expect(lens.middle).toBeCloseTo(180, 6)
      for (const aside of [-40, 0, 25, 44]) {
        const [x, y] = placeIn(lens, { azimuth: 180 + aside, elevation: 10 })!
        const radian = Math.PI / 180
        expect(x).toBeCloseTo(0.5 + Math.tan(aside * radian) / 2, 6)
        expect(y).toBeCloseTo(0.5 - Math.tan(10 * radian) / Math.cos(aside * radian), 6)
      }
      expect(extentOf(lens).across).toBeCloseTo(90, 4)
    }
  })
  it('needs two different marks', () => {
    const marks = { first: 20, firstBearing: 90, second: 20, secondBearing: 270, level: 50 }
    expect(lensOf({ width: 2, height: 1 }, marks)).toBeNull()
  })
})

describe('solar access measured at points of the array', () => {
  const table = (value: number) => Array.from({ length: 12 }, () => Array(24).fill(value).join('\t')).join('\n')
  const of = (text: string) => {
    const read = accessOf(text)
    if ('fault' in read) throw new Error(read.fault)
    return read.access
  }
  it('is the mean of all points, in whatever order they are joined', () => {
    const [a, b, c] = [of(table(1)), of(table(40)), of(table(0.7))]
    const one = joined(joined(a, 1, b), 2, c)
    const other = joined(joined(c, 1, a), 2, b)
    expect(one[3]![10]).toBeCloseTo(0.7, 4)
    expect(other[3]![10]).toBeCloseTo(0.7, 4)
  })
  it('tells an outline from a table that is too short', () => {
    expect(isOutline('90 20\n180 12.5\n270 25')).toBe(true)
    expect(isOutline(table(80).split('\n').slice(1).join('\n'))).toBe(false)
    expect(isOutline('90 20')).toBe(false)
  })
  it('says which row is wrong, and how many there are', () => {
    expect(accessOf(table(1).split('\n').slice(1).join('\n'))).toEqual({
      fault: expect.stringContaining('11 such rows'),
    })
    expect(accessOf(table(-0.2))).toEqual({ fault: expect.stringContaining('Row 1') })
  })
})
