import {
  computed,
  nextTick,
  onScopeDispose,
  readonly,
  ref,
  shallowRef,
  toValue,
  watch,
  type ComputedRef,
  type MaybeRefOrGetter,
  type Ref,
} from 'vue'

/**
 * An answer of the server that follows what it depends on: late ones are dropped, errors are words.
 *
 * `key` says what is asked for; it is asked again whenever it changes, and not at all while it is null. The last answer stays
 * until a newer one has come, unless its `subject`, the part of the key before the first space, has changed.
 */
export function useAnswer<T>(
  key: MaybeRefOrGetter<string | null>,
  ask: (signal: AbortSignal) => Promise<T>,
): { answer: ComputedRef<T | null>; fault: Readonly<Ref<string>>; isAsking: Readonly<Ref<boolean>> } {
  const answer = shallowRef<T | null>(null)
  const fault = ref('')
  const isAsking = ref(false)
  let asked: AbortController | null = null
  let subject = ''

  watch(
    () => toValue(key),
    async (now) => {
      asked?.abort()
      asked = null
      fault.value = ''
      isAsking.value = false
      const about = now?.split(' ', 1)[0] ?? ''
      if (now === null || about !== subject) answer.value = null
      subject = about
      if (now === null) return
      const mine = new AbortController()
      asked = mine
      isAsking.value = true
      // What is known already is drawn before more is asked for.
      await nextTick()
      if (asked !== mine) return
      try {
        const found = await ask(mine.signal)
        if (asked === mine) answer.value = found
      } catch (error) {
        if (asked === mine && !mine.signal.aborted) fault.value = (error as Error).message
      } finally {
        if (asked === mine) isAsking.value = false
      }
    },
    { immediate: true },
  )
  onScopeDispose(() => asked?.abort())
  return { answer: computed(() => answer.value), fault: readonly(fault), isAsking: readonly(isAsking) }
}
