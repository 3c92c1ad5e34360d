import { describe, expect, it } from 'vitest'
import { pictureOnGround, snapped } from '@/benches/scene/placing'
import { lengthText, metresOf } from '@/scene/lengths'
import { mostOf } from '@/benches/scene/useTakers'
import { phrasesOf } from '@/scene/things'

describe('lengths as people type them', () => {
  it.each([
    ['3.2', 3.2],
    ['3,2 m', 3.2],
    ['3200mm', 3.2],
    ['320 cm', 3.2],
    ['10\'6"', 3.2004],
    ["10'", 3.048],
    ['6in', 0.1524],
    ['10 ft 6 in', 3.2004],
    ['-1.5', -1.5],
  ])('%s', (typed, metres) => expect(metresOf(typed)).toBeCloseTo(metres, 9))
  it.each(['', 'long', '3.2.1', '3 x 4', "10'6'"])('%s is none', (typed) => expect(metresOf(typed)).toBeNull())
  it('is shown to the millimetre', () => expect(lengthText(2.8956001)).toBe('2.896'))
})

describe('things by the first letters of their name', () => {
  it('takes sizes in their order', () => {
    const [chimney] = phrasesOf('chimney 0.6 x 0.6 x 1.2')
    expect(chimney!.kind.kind).toBe('chimneys')
    expect(chimney!.values).toMatchObject({ length: 0.6, width: 0.6, height: 1.2 })
  })
  it('offers all that begin so', () =>
    expect(phrasesOf('s').map((p) => p.kind.noun)).toEqual(expect.arrayContaining(['shed', 'silo', 'skylight'])))
  it('takes feet', () => expect(phrasesOf("pole 6in x 20'")[0]!.values.height).toBeCloseTo(6.096))
  it.each(['', 'zebra', 'chimney 0 x 1', 'house -3'])('%s is nothing', (typed) => expect(phrasesOf(typed)).toEqual([]))
})

describe('when an obstacle takes light', () => {
  const months = (some: Record<number, number>) => Array.from({ length: 12 }, (_, m) => some[m] ?? 0)
  it('is the shortest run that holds most of it, round the end of the year too', () => {
    expect(mostOf(months({ 11: 5, 0: 5, 1: 3, 6: 1 }))).toEqual([11, 1])
    expect(mostOf(months({ 4: 9, 8: 1 }))).toEqual([4, 4])
    expect(mostOf(months({}))).toBeNull()
  })
})

describe('tracing an outline', () => {
  it('snaps to right angles with the first edge and says so', () => {
    const found = snapped(
      [
        [0, 0],
        [10, 0],
      ],
      [10.6, 5],
      0.5,
    )
    expect(found.lock).toBe('right angle')
    expect(found.corner).toEqual([expect.closeTo(10), expect.closeTo(5)])
  })
  it('closes on its first corner', () =>
    expect(
      snapped(
        [
          [0, 0],
          [10, 0],
          [10, 5],
        ],
        [0.2, 0.1],
        0.5,
      ).isClosed,
    ).toBe(true))
  it('lies the placed picture on the ground at its true size', () => {
    const site = {
      latitude: 50,
      longitude: 10,
      map_picture: {
        digest: 'x',
        name: '',
        width_to_height: 2,
        first_x: 0,
        first_y: 1,
        second_x: 1,
        second_y: 1,
        latitude: 50,
        longitude: 10,
        distance: 40,
        azimuth: 90,
      },
    }
    const corners = pictureOnGround(site as never)!
    expect(corners[0]).toEqual([expect.closeTo(0), expect.closeTo(20)])
    expect(corners[2]).toEqual([expect.closeTo(40), expect.closeTo(0)])
  })
})
