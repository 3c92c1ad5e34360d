import { effectScope, nextTick } from 'vue'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { PlaceAnswer } from '@/api/client'
import { useEstimate } from '@/first/useEstimate'
import { serve, type Sent } from './fetching'

/** A server that holds its answers back until they are let go, in any order. */
let asked: { body: Record<string, unknown>; answer: (energy: number) => void; refuse: (detail: string) => void }[] = []

beforeEach(() => {
  vi.useFakeTimers()
  localStorage.clear()
  asked = []
  serve((path: string, options: Sent) => {
    if (!path.startsWith('/api/estimate')) return Promise.resolve(new Response('[]', json()))
    return new Promise<Response>((resolve, reject) => {
      options.signal?.addEventListener('abort', () => reject(new DOMException('aborted', 'AbortError')))
      const reply = (body: unknown, status = 200) => resolve(new Response(JSON.stringify(body), json(status)))
      asked.push({
        body: JSON.parse(String(options.body)),
        answer: (energy) =>
          reply({
            power: 8.6,
            modules: 20,
            area: 39.1,
            inverter: 'hexley-8',
            inverters: 1,
            evaluation: { headline: { energy } },
          }),
        refuse: (detail) =>
          reply(
            { type: '/problems/invalid-estimate', title: 'no', detail, errors: [{ pointer: '/amount', detail }] },
            422,
          ),
      })
    })
  })
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})
const json = (status = 200) => ({ status, headers: { 'Content-Type': 'application/json' } })
const estimate = () => effectScope().run(() => useEstimate())!
const settle = async () => {
  await nextTick()
  await vi.advanceTimersByTimeAsync(100)
}

describe('the quick estimate', () => {
  it('asks once for several changes made together', async () => {
    const e = estimate()
    e.setAmount(9)
    e.asked.tilt = 40
    e.asked.azimuth = 90
    await settle()
    expect(asked).toHaveLength(1)
    expect(asked[0]!.body).toMatchObject({ amount: 9, tilt: 40, azimuth: 90 })
  })
  it('never shows a late answer over a newer one', async () => {
    const e = estimate()
    e.setAmount(9)
    await settle()
    e.setAmount(10)
    await settle()
    asked[1]!.answer(10_000)
    await settle()
    asked[0]!.answer(9_000)
    await settle()
    expect(e.answer.value?.evaluation.headline?.energy).toBe(10_000)
    expect(e.busy.value).toBe(false)
  })
  it('keeps the last answer beside the words of a refusal', async () => {
    const e = estimate()
    e.setAmount(9)
    await settle()
    asked[0]!.answer(9_000)
    await settle()
    e.setAmount(0.2)
    await settle()
    asked[1]!.refuse('One module takes 1.95 m².')
    await settle()
    expect(e.refused.value).toBe('One module takes 1.95 m².')
    expect(e.answer.value?.evaluation.headline?.energy).toBe(9_000)
    e.setAmount(8)
    await settle()
    asked[2]!.answer(8_000)
    await settle()
    expect(e.refused.value).toBe('')
  })
  it('tells the same plant another way', async () => {
    const e = estimate()
    e.setAmount(8.6)
    e.asked.tilt = 30
    await settle()
    asked[0]!.answer(9_836)
    await settle()
    e.startFrom('modules')
    expect([e.asked.start, e.asked.amount, e.start.value.unit]).toEqual(['modules', 20, 'modules'])
    e.startFrom('area')
    expect(e.asked.amount).toBe(40)
    e.startFrom('demand')
    expect(e.asked.amount).toBe(9_836)
    e.startFrom('power')
    expect(e.asked.amount).toBe(8.6)
  })
  it('turns the array round with the sun where a place lies over the equator', () => {
    const e = estimate()
    const at = (latitude: number) => ({ name: 'There', latitude, longitude: 10 }) as PlaceAnswer
    e.asked.azimuth = 160
    e.moveTo(at(-33))
    expect(e.asked.azimuth).toBe(20)
    e.moveTo(at(-40))
    expect(e.asked.azimuth).toBe(20)
    e.moveTo(at(51))
    expect(e.asked.azimuth).toBe(160)
  })
  it('begins anew where what was kept cannot be read', async () => {
    localStorage.setItem('noontide-estimate', '{"start": "area", "amo')
    const e = estimate()
    void e.recall('')
    await settle()
    expect([e.asked.start, asked.length]).toEqual(['power', 1])
    expect(localStorage.getItem('noontide-estimate')).toBeNull()
  })
  it('is there again after a reload', async () => {
    const e = estimate()
    e.startFrom('area')
    e.setAmount(55)
    await settle()
    asked[0]!.answer(12_000)
    await settle()
    const again = estimate()
    void again.recall('')
    await settle()
    expect([again.asked.start, again.asked.amount]).toEqual(['area', 55])
  })
})
