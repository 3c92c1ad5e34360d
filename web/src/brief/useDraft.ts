import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { fieldText, fromShown, shownUnit, toShown } from '@/theme/habits'
import { read, readNumber } from '@/theme/reading'
import { useTyping } from './useTyping'

export interface Range {
  min: number
  max: number
  isInteger?: boolean
}

const rounded = (value: number) => Math.round(value * 1e6) / 1e6

/** A number while it is being typed, and what is wrong with it. */
export function useDraft(
  saved: MaybeRefOrGetter<number>,
  kept: MaybeRefOrGetter<Range>,
  unit: MaybeRefOrGetter<string> = '',
) {
  const shown = () => toShown(toValue(saved), toValue(unit))
  const typed = useTyping(() => fieldText(toValue(saved), toValue(unit)))
  /** The range in the unit that is typed. */
  const range = computed(() => {
    const { min, max, isInteger } = toValue(kept)
    const end = (value: number) => (toValue(unit) ? rounded(toShown(value, toValue(unit))) : value)
    return { min: end(min), max: end(max), isInteger }
  })
  /** An end of the range in words: in another unit it is no round number. */
  const endText = (value: number) =>
    fieldText(shownUnit(toValue(unit)) === toValue(unit) ? value : Math.round(value * 100) / 100)
  const problem = computed(() => {
    const { min, max, isInteger } = toValue(range)
    const number = readNumber(typed.text.value, toValue(range))
    if (typed.text.value.trim() === '' || Number.isNaN(number)) return 'Enter a number.'
    if (isInteger && !Number.isInteger(number)) return 'Enter a whole number.'
    if (number < min || number > max)
      return Number.isFinite(max)
        ? `Enter a value between ${endText(min)} and ${endText(max)}.`
        : `Enter ${endText(min)} or more.`
    return null
  })

  /** How the text was read, where another number may have been meant. */
  const note = computed(() => (typed.typing.value ? read(typed.text.value, toValue(range)).note : ''))

  /** Hands over a finished number once; null while there is none. */
  function take(): number | null {
    if (!typed.typing.value || problem.value) return null
    const { min, max } = toValue(kept)
    const value = fromShown(readNumber(typed.take(), toValue(range)), toValue(unit))
    return Math.min(max, Math.max(min, value))
  }
  /** Moves the number that stands there, or the saved one, by a step, as far as its range goes. */
  function step(by: number) {
    const { min, max } = toValue(range)
    const now = readNumber(typed.text.value, toValue(range))
    typed.edit(fieldText(Math.min(max, Math.max(min, (Number.isNaN(now) ? shown() : now) + by))))
  }
  return { ...typed, problem, note, take, step }
}
