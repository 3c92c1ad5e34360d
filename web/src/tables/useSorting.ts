import { readonly, ref } from 'vue'

type Value = string | number

/** The order of a list by one of its columns: a second click on the same column turns it round. */
export function useSorting(first: string) {
  const by = ref(first)
  const rising = ref(true)

  function sort(column: string) {
    rising.value = by.value === column ? !rising.value : true
    by.value = column
  }
  /** Numbers by size, words by the alphabet. */
  function sorted<T>(list: readonly T[], valueOf: (entry: T, column: string) => Value): T[] {
    const compare = (x: Value, y: Value) =>
      typeof x === 'number' && typeof y === 'number' ? x - y : String(x).localeCompare(String(y))
    const turn = rising.value ? 1 : -1
    return [...list].sort((a, b) => turn * compare(valueOf(a, by.value), valueOf(b, by.value)))
  }
  return { by: readonly(by), rising: readonly(rising), sort, sorted }
}

export type Sorting = ReturnType<typeof useSorting>
