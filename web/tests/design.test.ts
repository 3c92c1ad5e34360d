import { describe, expect, it } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { readColumns } from '@/api/client'
import { joinPatches, mergePatch, patchAt, valueAt } from '@/api/mergePatch'
import { useDraft } from '@/brief/useDraft'
import { fieldAt, type Schema } from '@/stores/designSchema'
import { energy, energyChange, azimuthWords, number, percent, signed } from '@/theme/format'
import { read, readNumber, readNumbers } from '@/theme/reading'
import { rampColour } from '@/theme/ramp'
import { paintYear } from '@/tideline/paintYear'

describe('merge patches', () => {
  it('joins two into one that does the same, also where the second takes out what the first put in', () => {
    const base = { site: { a: 1, b: 2 }, list: [1] }
    const first = { site: { a: 5, c: 3 }, x: { y: 1 } }
    const second = { site: { c: null, b: null }, x: null }
    expect(mergePatch(base, joinPatches(first, second))).toEqual(mergePatch(mergePatch(base, first), second))
  })
  it('keeps the nulls of a patch that is still on its way', () => {
    expect(joinPatches({ a: { b: 1 } }, { a: { b: null } })).toEqual({ a: { b: null } })
  })
  it('sets and reads by pointer', () => {
    expect(patchAt('/surfaces/barn/tilt', 30)).toEqual({ surfaces: { barn: { tilt: 30 } } })
    expect(valueAt({ a: { b: [7, 8] } }, '/a/b/1')).toBe(8)
    expect(valueAt({ a: {} }, '/a/b/c')).toBeUndefined()
  })
})

describe('a draft', () => {
  const draft = (saved = 18) => {
    const value = ref(saved)
    const scope = effectScope()
    return { value, ...scope.run(() => useDraft(value, { min: 0, max: 90 }))! }
  }
  it('is never overwritten by a value that arrives while it is typed', async () => {
    const d = draft()
    d.edit('3')
    d.value.value = 50
    await nextTick()
    expect(d.text.value).toBe('3')
  })
  it('follows a value that arrives while nobody types', async () => {
    const d = draft()
    d.value.value = 50
    await nextTick()
    expect(d.text.value).toBe('50')
  })
  it('is stepped from what was typed, or from the saved value where that is no number', () => {
    const d = draft()
    d.step(1)
    expect(d.text.value).toBe('19')
    d.edit('40,5')
    d.step(-0.1)
    expect(d.text.value).toBe('40.4')
    d.edit('steep')
    d.step(10)
    expect(d.text.value).toBe('28')
    d.step(100)
    expect(d.text.value).toBe('90')
  })
  it('hands a number over once, and none that is out of range', () => {
    const d = draft()
    d.edit('95')
    expect(d.problem.value).toBe('Enter a value between 0 and 90.')
    expect(d.take()).toBeNull()
    d.edit('12,5')
    expect(d.take()).toBe(12.5)
    expect(d.take()).toBeNull()
  })
  it.each([
    ['1 234,5', 1234.5],
    ['\u22127', -7],
    [' 3.25 ', 3.25],
  ])('reads %s as people write it', (text, value) => {
    expect(readNumber(text)).toBe(value)
  })
  it.each([
    ['1,412', undefined, 1412, 'thousands'],
    ['1,412', { min: 0, max: 90 }, 1.412, 'decimals'],
    ['0,125', undefined, 0.125, 'decimals'],
    ['12,5', undefined, 12.5, 'decimals'],
    ['1,4125', undefined, 1.4125, 'decimals'],
    ['1,412.5', undefined, 1412.5, ''],
    ['1.412,5', undefined, 1412.5, 'decimals'],
    ['1,234,567', undefined, 1234567, ''],
    ['1.234.567', undefined, 1234567, ''],
    ["1'412", undefined, 1412, ''],
    ['1\u202f412', undefined, 1412, ''],
    ['\u22121,412.25', undefined, -1412.25, ''],
    ['1.412', undefined, 1.412, ''],
    ['1e3', undefined, 1000, ''],
  ] as const)('reads %s within %o as %d and says why', (text, limits, value, why) => {
    const found = read(text, limits)
    expect(found.value).toBe(value)
    expect(why ? found.note.includes(why) : found.note === '').toBe(true)
  })
  it.each(['1,41,2', '12,34.5', '1,2,3', '1.2.3', 'x', '', '-', '1,412,5.1'])('takes %s for no number', (text) => {
    expect(readNumber(text)).toBeNaN()
  })
  it('reads what the screen writes, whatever the value', () => {
    for (const value of [0, 1, -8, 999, 1000, 1412, 12345.6, 1234567.25, -20000, 0.125])
      expect(readNumber(number(value, 3))).toBeCloseTo(value, 9)
  })
  it('reads the cells of one table in one way', () => {
    expect(readNumbers(['1,412', '0,5', '12,25'])).toEqual([1.412, 0.5, 12.25])
    expect(readNumbers(['1,412', '1,500'])).toEqual([1412, 1500])
  })
})

describe('the design schema', () => {
  const schema: Schema = {
    $defs: {
      Surface: {
        properties: {
          tilt: { minimum: 0, maximum: 90, default: 30, 'x-unit': '°', 'x-reason': 'Usual.', type: 'number' },
          area: { anyOf: [{ minimum: 0.5, type: 'number' }, { type: 'null' }], default: null, 'x-unit': 'm²' },
        },
      },
    },
    properties: { surfaces: { patternProperties: { '^[a-z]': { $ref: '#/$defs/Surface' } } } },
  }
  it('is read through collections and references', () => {
    expect(fieldAt(schema, '/surfaces/barn/tilt')).toMatchObject({
      min: 0,
      max: 90,
      default: 30,
      unit: '°',
      reason: 'Usual.',
    })
    expect(fieldAt(schema, '/surfaces/barn/area')).toMatchObject({ min: 0.5, default: null, unit: 'm²' })
    expect(fieldAt(schema, '/surfaces/barn/colour')).toBeNull()
  })
})

describe('figures in words', () => {
  it.each([
    [180, 'S'],
    [192, 'S 12° W'],
    [0, 'N'],
    [360, 'N'],
    [90, 'E'],
    [270, 'W'],
    [160, 'S 20° E'],
    [350, 'N 10° W'],
    [12.5, 'N 12.5° E'],
  ])('%d° is %s', (azimuth, words) => {
    expect(azimuthWords(azimuth)).toBe(words)
  })
  it('takes the unit that suits and keeps it for the change', () => {
    expect(energy(9836)).toEqual({ value: '9,836', unit: 'kWh' })
    expect(energy(57_700)).toEqual({ value: '57.7', unit: 'MWh' })
    expect(energyChange(19_100, 57_700)).toBe('+19.1 MWh')
    expect(signed(-6)).toBe('\u22126')
    expect(signed(0.001, 1)).toBe('±0.0')
    expect(number(-0.001, 1)).toBe('0.0')
    expect(percent(0.856)).toBe('85.6\u202f%')
  })
})

it('columns are read after their header', () => {
  const header = JSON.stringify({
    revision: 3,
    step: 60,
    year: 2026,
    utc_offset: 1,
    intervals: 2,
    columns: [
      { key: 'a', title: 'A', unit: 'W' },
      { key: 'b', title: 'B', unit: 'W' },
    ],
  })
  const text = new TextEncoder().encode(header.padEnd(Math.ceil(header.length / 4) * 4))
  const buffer = new ArrayBuffer(4 + text.length + 16)
  new DataView(buffer).setUint32(0, text.length, true)
  new Uint8Array(buffer, 4).set(text)
  new Float32Array(buffer, 4 + text.length).set([1, 2, 3, 4])
  const read = readColumns(buffer)
  expect(read.revision).toBe(3)
  expect([...read.columns[1]!.values]).toEqual([3, 4])
})

describe('the ramp and the year', () => {
  it('rises in lightness all the way', () => {
    const light = Array.from({ length: 50 }, (_, i) => {
      const [r, g, b] = rampColour(i / 49)
      return 0.2126 * r + 0.7152 * g + 0.0722 * b
    })
    expect(light.every((value, i) => i === 0 || value >= light[i - 1]! - 0.5)).toBe(true)
  })
  it('paints midnight at the foot, noon in the middle and leaves the night clear', () => {
    globalThis.ImageData ??= class {
      data: Uint8ClampedArray
      constructor(
        public width: number,
        public height: number,
      ) {
        this.data = new Uint8ClampedArray(width * height * 4)
      }
    } as unknown as typeof ImageData
    const values = Array.from({ length: 48 }, (_, i) => (i % 24 === 12 ? 100 : 0))
    const image = paintYear(values, { days: 2, perDay: 24, low: 0, high: 100 }, (i) => values[i] === 0)
    const alpha = (hour: number, day: number) => image.data[((23 - hour) * 2 + day) * 4 + 3]
    expect([alpha(12, 0), alpha(12, 1), alpha(0, 0)]).toEqual([255, 255, 0])
  })
})
