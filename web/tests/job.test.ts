import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { api, type JobAnswer } from '@/api/client'
import { hearOfJob, useJob } from '@/stores/useJob'

const job = (id: string, state: string, more: object = {}) =>
  ({ id, kind: 'years', state, progress: 0, message: '', result: null, created: '', ...more }) as JobAnswer

describe('a job that is followed', () => {
  beforeEach(() => void vi.useFakeTimers())
  afterEach(() => {
    vi.restoreAllMocks()
    vi.useRealTimers()
  })

  it('goes on by its news, and is asked for once, when it has ended', async () => {
    const asked = vi.spyOn(api, 'job').mockResolvedValue(job('a', 'done', { result: { revision: 3 } }))
    const one = useJob()
    const ended = one.follow(job('a', 'waiting'))
    hearOfJob({ id: 'a', state: 'running', progress: 0.4, message: '2 of 5' })
    await vi.advanceTimersByTimeAsync(0)
    expect(one.job.value).toMatchObject({ progress: 0.4, message: '2 of 5' })
    hearOfJob({ id: 'b', state: 'running', progress: 0.9, message: 'another' })
    await vi.advanceTimersByTimeAsync(0)
    expect(one.job.value?.message).toBe('2 of 5')
    hearOfJob({ id: 'a', state: 'done', progress: 1, message: '' })
    expect((await ended).result).toEqual({ revision: 3 })
    expect(asked).toHaveBeenCalledTimes(1)
    expect(one.job.value).toBeNull()
  })
  it('that ended before anybody followed it is not waited for', async () => {
    vi.spyOn(api, 'job').mockResolvedValue(job('c', 'done'))
    hearOfJob({ id: 'c', state: 'done', progress: 1, message: '' })
    expect((await useJob().follow(job('c', 'waiting'))).state).toBe('done')
  })
  it('is asked for where no news come', async () => {
    const asked = vi
      .spyOn(api, 'job')
      .mockResolvedValueOnce(job('d', 'running', { progress: 0.5 }))
      .mockResolvedValue(job('d', 'failed', { message: 'It needs more memory.' }))
    const ended = useJob().follow(job('d', 'waiting'))
    await vi.advanceTimersByTimeAsync(4000)
    expect((await ended).message).toBe('It needs more memory.')
    expect(asked).toHaveBeenCalledTimes(2)
  })
})

describe('long work on a scheme', () => {
  afterEach(() => void vi.restoreAllMocks())

  it('says why it failed', async () => {
    vi.spyOn(api, 'beginJob').mockResolvedValue(job('e', 'failed', { message: 'The scheme has no surface.' }) as never)
    await expect(useJob().run(1, 'find-strings')).rejects.toThrow('The scheme has no surface.')
  })
  it('that is given up is cancelled', async () => {
    vi.spyOn(api, 'beginJob').mockResolvedValue(job('f', 'running') as never)
    vi.spyOn(api, 'job').mockResolvedValue(job('f', 'cancelled', { message: 'Cancelled.' }))
    const cancelled = vi.spyOn(api, 'cancelJob').mockResolvedValue(job('f', 'cancelled'))
    const given = new AbortController()
    const found = useJob().run(1, 'years', {}, given.signal)
    await Promise.resolve()
    given.abort()
    hearOfJob({ id: 'f', state: 'cancelled', progress: 0.2, message: 'Cancelled.' })
    await expect(found).rejects.toThrow('Cancelled.')
    expect(cancelled).toHaveBeenCalledWith('f')
  })
})
