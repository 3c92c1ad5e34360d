import { readonly, shallowRef } from 'vue'

export interface Marks {
  title: string
  /** First interval and number of intervals of each run. */
  runs: readonly (readonly [number, number])[]
}
const shown = shallowRef<Marks | null>(null)

/** What a bench marks on the Tideline, such as the intervals that a check doubts. */
export function useMarks() {
  return { marks: readonly(shown), mark: (marks: Marks | null) => (shown.value = marks) }
}
