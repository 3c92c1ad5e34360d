import { afterEach, describe, expect, it } from 'vitest'
import { useDraft } from '@/brief/useDraft'
import { day, figureText, number, quantity, signed, spoken } from '@/theme/format'
import { fromShown, setHabits, toShown } from '@/theme/habits'
import { read, readNumber, readNumbers } from '@/theme/reading'

const ENGLISH = { thousands: ',', decimal: '.', conversions: {}, dates: '' }
const GERMAN = { ...ENGLISH, thousands: '.', decimal: ',' }
const SWISS = { ...ENGLISH, thousands: '’' }
const FRENCH = { ...ENGLISH, thousands: '\u202f', decimal: ',' }
const IMPERIAL = {
  ...ENGLISH,
  conversions: {
    m: { unit: 'ft', factor: 1 / 0.3048, offset: 0 },
    'm²': { unit: 'ft²', factor: 1 / 0.3048 ** 2, offset: 0 },
    km: { unit: 'mi', factor: 1 / 1.609344, offset: 0 },
    '°C': { unit: '°F', factor: 1.8, offset: 32 },
  },
}
afterEach(() => setHabits(ENGLISH))

describe('numbers as the one who reads has them', () => {
  it.each([
    [ENGLISH, '−1,234.5', '+12.0'],
    [GERMAN, '−1.234,5', '+12,0'],
    [SWISS, '−1’234.5', '+12.0'],
    [FRENCH, '−1\u202f234,5', '+12,0'],
  ])('writes them', (habits, text, change) => {
    setHabits(habits)
    expect(number(-1234.5, 1)).toBe(text)
    expect(signed(12, 1)).toBe(change)
    expect(signed(-0.01, 1)).toMatch(/^±0.0$/)
  })
  it.each([ENGLISH, GERMAN, SWISS, FRENCH])('reads back what it has written', (habits) => {
    setHabits(habits)
    for (const value of [0, 0.5, -3.25, 12, 1412, 1412.5, 1234567.25, -98765])
      expect(readNumber(number(value, 2))).toBe(value)
  })
  it('reads one mark alone as the one who types means it', () => {
    setHabits(GERMAN)
    expect(readNumber('1.412')).toBe(1412)
    expect(readNumber('1,412')).toBe(1.412)
    expect(readNumber('12,5')).toBe(12.5)
    // Where it can only be the other, it is, and the note says so in one's own marks.
    expect(read('1.412', { min: 0, max: 90 })).toEqual({
      value: 1.412,
      note: 'Read as 1,412: the point marks the decimals.',
    })
    expect(readNumbers(['1,5', '2,25', '1.412'])).toEqual([1.5, 2.25, 1412])
  })
})

describe('units as the one who reads has them', () => {
  it('shows feet and degrees Fahrenheit, and energy as it is', () => {
    setHabits(IMPERIAL)
    expect(quantity(412, 'm')).toBe('1,352 ft')
    expect(quantity(-40, '°C')).toBe('−40 °F')
    expect(quantity(1412, 'kWh/m²')).toBe('1,412 kWh/m²')
    expect(figureText({ value: 100, unit: 'm²', decimals: 0, without: '', is_percentage: false })).toBe('1,076 ft²')
  })
  it('gives back what was typed', () => {
    setHabits(IMPERIAL)
    for (const unit of ['m', 'm²', 'km', '°C', 'kWh'])
      for (const typed of [0, 1, 10.5, -3, 1234.56]) expect(toShown(fromShown(typed, unit), unit)).toBeCloseTo(typed, 6)
  })
  it('holds a field to its range in the unit that is typed, and keeps metres', () => {
    setHabits(IMPERIAL)
    const draft = useDraft(
      () => 3.048,
      () => ({ min: 0, max: 30.48 }),
      'm',
    )
    expect(draft.text.value).toBe('10')
    draft.edit('101')
    expect(draft.problem.value).toBe('Enter a value between 0 and 100.')
    draft.edit('20')
    expect(draft.take()).toBeCloseTo(6.096, 9)
    draft.edit('100')
    expect(draft.take()).toBe(30.48)
  })
})

describe('words of the server', () => {
  it.each([
    [ENGLISH, 'Cables of 16 to 30 m at 1,462 kWh/m².', 'Cables of 16 to 30 m at 1,462 kWh/m².'],
    [GERMAN, 'At 1,462 kWh/m² and 45.4 %, on 2026-12-01.', 'At 1.462 kWh/m² and 45,4 %, on 2026-12-01.'],
    [IMPERIAL, 'Cables of 16 to 30 m at 1,462 kWh/m².', 'Cables of 52 to 98 ft at 1,462 kWh/m².'],
    [IMPERIAL, 'Barn, 26 m × 12.0 m; −8\u00a0°C to 35\u00a0°C', 'Barn, 85 ft × 39.4 ft; 18\u00a0°F to 95\u00a0°F'],
    [IMPERIAL, 'IEC 60228, 4 mm² and M20', 'IEC 60228, 4 mm² and M20'],
  ])('are put into one’s own', (habits, said, shown) => {
    setHabits(habits)
    expect(spoken(said).replace('−', '')).toBe(shown.replace('−', ''))
  })
  it('has days with the month in words, or by number', () => {
    expect(day('2026-12-01T10:00:00Z')).toBe('1 December 2026')
    setHabits({ ...ENGLISH, dates: '2026-12-01' })
    expect(day('2026-12-01T10:00:00Z')).toBe('2026-12-01')
  })
})
