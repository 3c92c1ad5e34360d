import { onScopeDispose } from 'vue'

/** Of requests that follow one another the newest alone counts: older ones are given up, and what they still say is dropped. */
export function useNewest() {
  let asked: AbortController | null = null

  /** What the newest request finds; null to all that a newer one has followed, whatever became of them. */
  async function newest<T>(ask: (signal: AbortSignal) => Promise<T>): Promise<T | null> {
    giveUp()
    const mine = (asked = new AbortController())
    try {
      const found = await ask(mine.signal)
      return asked === mine ? found : null
    } catch (error) {
      if (asked !== mine) return null
      throw error
    }
  }
  function giveUp() {
    asked?.abort()
    asked = null
  }
  onScopeDispose(giveUp)
  return { newest, giveUp }
}
