import { computed, readonly, ref, toValue, watch, type MaybeRefOrGetter } from 'vue'

export interface Range { min: number; max: number; isInteger?: boolean }

/** Reads a number as people type it: comma or point, a proper minus, thousands marks of a space. */
export function readNumber(text: string): number {
  return Number(text.trim().replaceAll('\u2212', '-').replace(/[\s\u202f](?=\d{3}\b)/g, '').replace(',', '.'))
}

/** A number while it is being typed. A saved value that arrives from elsewhere never overwrites a draft under way. */
export function useDraft(saved: MaybeRefOrGetter<number>, range: MaybeRefOrGetter<Range>) {
  const text = ref('')
  const typing = ref(false)
  const problem = computed(() => {
    const { min, max, isInteger } = toValue(range)
    const number = readNumber(text.value)
    if (text.value.trim() === '' || Number.isNaN(number)) return 'Type a number.'
    if (isInteger && !Number.isInteger(number)) return 'Type a whole number.'
    if (number < min || number > max) return Number.isFinite(max) ? `Choose between ${min} and ${max}.` : `Choose ${min} or more.`
    return null
  })

  function edit(next: string) {
    typing.value = true
    text.value = next
  }
  /** Hands over a finished number once; null while there is none. */
  function take(): number | null {
    if (!typing.value || problem.value) return null
    typing.value = false
    return readNumber(text.value)
  }
  function discard() {
    typing.value = false
    const value = toValue(saved)
    text.value = String(Math.round(value * 1e6) / 1e6)
  }

  watch(() => toValue(saved), () => { if (!typing.value) discard() }, { immediate: true })
  return { text: readonly(text), typing: readonly(typing), problem, edit, take, discard }
}
