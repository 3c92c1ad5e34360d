import { describe, expect, it } from 'vitest'
import { averageDays, irradianceClasses } from '@/benches/weather/averageDays'

const year = { days: 365, monthOf: (day: number) => Math.min(11, Math.floor(day / 31)) }

describe('the average day', () => {
  it('is the mean of each hour over the days of a month', () => {
    const values = Array.from({ length: 365 * 24 }, (_, i) => (i % 24) + (Math.floor(i / 24) < 31 ? 100 : 0))
    const table = averageDays(values, year)
    expect(table[0]![13]).toBeCloseTo(113, 9)
    expect(table[5]![13]).toBeCloseTo(13, 9)
  })
  it('moves to solar time and keeps every value', () => {
    const values = Array.from({ length: 365 * 24 }, (_, i) => (i % 24 === 13 ? 1 : 0))
    expect(averageDays(values, year, () => -1)[3]!.indexOf(1)).toBe(12)
    expect(averageDays(values, year, () => 12)[3]!.indexOf(1)).toBe(1)
  })
  it('takes the mean of the intervals inside an hour', () => {
    const values = Array.from({ length: 365 * 48 }, (_, i) => (i % 48 === 20 ? 10 : i % 48 === 21 ? 30 : 0))
    expect(averageDays(values, year)[0]![10]).toBeCloseTo(20, 9)
  })
})

describe('classes of irradiance', () => {
  it('share out all of the light and count the hours', () => {
    const found = irradianceClasses([0, 50, 150, 150, 950, 1500], 0.5)
    expect(found.reduce((sum, c) => sum + c.share, 0)).toBeCloseTo(1, 9)
    expect(found[1]).toMatchObject({ from: 100, to: 200, hours: 1 })
    expect(found.at(-1)).toMatchObject({ from: 1100, hours: 0.5 })
  })
  it('are none without light', () => expect(irradianceClasses([0, 0], 1)).toEqual([]))
})
