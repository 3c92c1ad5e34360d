import { shallowRef } from 'vue'
import { api, type QuestionLine, type Questions } from '@/api/client'
import type { Range } from './useDraft'

interface Argument {
  type?: string
  minimum?: number
  exclusiveMinimum?: number
  maximum?: number
}
const questions = shallowRef<QuestionLine[]>([])
let reading: Promise<void> | null = null

/** What may be asked of the finder and of the estimate, as the server states it; read when it is first needed. */
export function useQuestions<Q extends keyof Questions>(question: Q) {
  reading ??= api.questions().then(
    (some) => void (questions.value = some),
    () => void (reading = null),
  )
  /** The range of an argument, narrowed where the page knows more; without bounds until it has been read. */
  function range(argument: keyof Questions[Q] & string, narrowed: Partial<Range> = {}): Range {
    const schema = questions.value.find((one) => one.name === question)?.arguments as
      { properties?: Record<string, Argument> } | undefined
    const stated = schema?.properties?.[argument] ?? {}
    return {
      min: stated.minimum ?? stated.exclusiveMinimum ?? -Infinity,
      max: stated.maximum ?? Infinity,
      isInteger: stated.type === 'integer',
      ...narrowed,
    }
  }
  return { range }
}
