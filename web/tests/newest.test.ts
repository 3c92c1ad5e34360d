import { effectScope } from 'vue'
import { describe, expect, it } from 'vitest'
import { useNewest } from '@/stores/useNewest'

/** An answer that comes when it is told to. */
function slow<T>() {
  let come!: (value: T) => void
  let fail!: (error: Error) => void
  const answer = new Promise<T>((resolve, reject) => ([come, fail] = [resolve, reject]))
  let signal!: AbortSignal
  return { ask: (given: AbortSignal) => ((signal = given), answer), come, fail, isGivenUp: () => signal.aborted }
}

describe('of requests that follow one another', () => {
  it('the newest counts, whichever comes first', async () => {
    const { newest } = effectScope().run(useNewest)!
    const [first, second] = [slow<string>(), slow<string>()]
    const [one, other] = [newest(first.ask), newest(second.ask)]
    second.come('second')
    first.come('first')
    expect(await one).toBeNull()
    expect(await other).toBe('second')
    expect(first.isGivenUp()).toBe(true)
    expect(second.isGivenUp()).toBe(false)
  })
  it('an older one that fails says nothing, the newest says why', async () => {
    const { newest } = effectScope().run(useNewest)!
    const [first, second] = [slow(), slow()]
    const [one, other] = [newest(first.ask), newest(second.ask)]
    first.fail(new Error('late'))
    second.fail(new Error('no such place'))
    expect(await one).toBeNull()
    await expect(other).rejects.toThrow('no such place')
  })
  it('none counts once the page has gone', async () => {
    const scope = effectScope()
    const { newest } = scope.run(useNewest)!
    const last = slow<number>()
    const found = newest(last.ask)
    scope.stop()
    last.come(3)
    expect(await found).toBeNull()
    expect(last.isGivenUp()).toBe(true)
  })
})
