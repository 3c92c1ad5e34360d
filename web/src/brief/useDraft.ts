import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { read, readNumber } from '@/theme/reading'
import { useTyping } from './useTyping'

export interface Range {
  min: number
  max: number
  isInteger?: boolean
}

/** A number as it stands in a field: no tails of binary fractions, a proper minus. */
const written = (value: number) => String(Math.round(value * 1e6) / 1e6).replace('-', '\u2212')

/** A number while it is being typed, and what is wrong with it. */
export function useDraft(saved: MaybeRefOrGetter<number>, range: MaybeRefOrGetter<Range>) {
  const typed = useTyping(() => written(toValue(saved)))
  const problem = computed(() => {
    const { min, max, isInteger } = toValue(range)
    const number = readNumber(typed.text.value, toValue(range))
    if (typed.text.value.trim() === '' || Number.isNaN(number)) return 'Enter a number.'
    if (isInteger && !Number.isInteger(number)) return 'Enter a whole number.'
    if (number < min || number > max)
      return Number.isFinite(max) ? `Enter a value between ${min} and ${max}.` : `Enter ${min} or more.`
    return null
  })

  /** How the text was read, where another number may have been meant. */
  const note = computed(() => (typed.typing.value ? read(typed.text.value, toValue(range)).note : ''))

  /** Hands over a finished number once; null while there is none. */
  function take(): number | null {
    if (!typed.typing.value || problem.value) return null
    return readNumber(typed.take(), toValue(range))
  }
  /** Moves the number that stands there, or the saved one, by a step, as far as its range goes. */
  function step(by: number) {
    const { min, max } = toValue(range)
    const now = readNumber(typed.text.value, toValue(range))
    typed.edit(written(Math.min(max, Math.max(min, (Number.isNaN(now) ? toValue(saved) : now) + by))))
  }
  return { ...typed, problem, note, take, step }
}
