import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { useTyping } from './useTyping'

export interface Range {
  min: number
  max: number
  isInteger?: boolean
}

/** Reads a number as people type it: comma or point, a proper minus, thousands marks of a space. */
export function readNumber(text: string): number {
  return Number(
    text
      .trim()
      .replaceAll('\u2212', '-')
      .replace(/[\s\u202f](?=\d{3}\b)/g, '')
      .replace(',', '.'),
  )
}

/** A number as it stands in a field: no tails of binary fractions, a proper minus. */
const written = (value: number) => String(Math.round(value * 1e6) / 1e6).replace('-', '\u2212')

/** A number while it is being typed, and what is wrong with it. */
export function useDraft(saved: MaybeRefOrGetter<number>, range: MaybeRefOrGetter<Range>) {
  const typed = useTyping(() => written(toValue(saved)))
  const problem = computed(() => {
    const { min, max, isInteger } = toValue(range)
    const number = readNumber(typed.text.value)
    if (typed.text.value.trim() === '' || Number.isNaN(number)) return 'Enter a number.'
    if (isInteger && !Number.isInteger(number)) return 'Enter a whole number.'
    if (number < min || number > max)
      return Number.isFinite(max) ? `Enter a value between ${min} and ${max}.` : `Enter ${min} or more.`
    return null
  })

  /** Hands over a finished number once; null while there is none. */
  function take(): number | null {
    if (!typed.typing.value || problem.value) return null
    return readNumber(typed.take())
  }
  /** Moves the number that stands there, or the saved one, by a step, as far as its range goes. */
  function step(by: number) {
    const { min, max } = toValue(range)
    const now = readNumber(typed.text.value)
    typed.edit(written(Math.min(max, Math.max(min, (Number.isNaN(now) ? toValue(saved) : now) + by))))
  }
  return { ...typed, problem, take, step }
}
