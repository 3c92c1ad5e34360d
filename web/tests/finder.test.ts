import { describe, expect, it } from 'vitest'
import { loadsText, sharesText } from '@/benches/circuits/arrangementWords'

describe('an arrangement in words', () => {
  it('folds like trackers', () => {
    expect(loadsText([[2, 2, 16]])).toBe('2 trackers of 2 × 16')
    expect(
      loadsText([
        [1, 2, 18],
        [1, 1, 17],
      ]),
    ).toBe('2 × 18, 17')
  })
  it('counts the inverters where they differ', () => {
    const [one, other] = [
      { inverter: 'hexley-20', count: 1, loads: [[1, 1, 22] as [number, number, number]] },
      { inverter: 'hexley-20', count: 2, loads: [[1, 1, 21] as [number, number, number]] },
    ]
    expect(sharesText({ shares: [one, other] })).toEqual(['1 with 22', '2 with 21'])
    expect(sharesText({ shares: [other] })).toEqual(['21'])
  })
})
