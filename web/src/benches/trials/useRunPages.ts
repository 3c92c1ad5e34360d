import { computed, onScopeDispose, ref, shallowRef, watch, type ComputedRef } from 'vue'
import { api, type TrialRun } from '@/api/client'

const PAGE = 200
const PAGES_KEPT = 12

export interface RunsAsked {
  sort: string
  down: boolean
  where: string[]
  kept: boolean
}

/** The runs of a set in the order that is asked for, page by page as they come into view. */
export function useRunPages(set: () => number, asked: ComputedRef<RunsAsked>, stamp: ComputedRef<string | null>) {
  const pages = shallowRef(new Map<number, TrialRun[]>())
  const chosen = ref(0)
  const ranges = shallowRef<Record<string, number[]>>({})
  const fault = ref('')
  let round = 0
  let underWay = new Map<number, AbortController>()
  let view: [number, number] = [0, 40]

  async function fetchPage(page: number) {
    if (underWay.has(page)) return
    const mine = new AbortController()
    const of = round
    underWay.set(page, mine)
    try {
      const found = await api.trialRuns(set(), { ...asked.value, first: page * PAGE, count: PAGE }, mine.signal)
      if (of !== round) return
      const next = new Map(pages.value)
      next.delete(page)
      next.set(page, found.rows)
      // What was looked at longest ago goes.
      while (next.size > PAGES_KEPT) next.delete(next.keys().next().value!)
      pages.value = next
      chosen.value = found.chosen
      ranges.value = found.ranges
      fault.value = ''
    } catch (error) {
      if (of === round && !mine.signal.aborted) fault.value = (error as Error).message
    } finally {
      if (underWay.get(page) === mine) underWay.delete(page)
    }
  }
  /** Rows from one to another are in view. */
  function look(first: number, last: number) {
    view = [first, last]
    for (let page = Math.floor(first / PAGE); page <= Math.floor(Math.max(first, last - 1) / PAGE); page++)
      if (!pages.value.has(page)) void fetchPage(page)
  }
  function anew(forgets: boolean) {
    round++
    for (const one of underWay.values()) one.abort()
    underWay = new Map()
    if (forgets) pages.value = new Map()
    const [first, last] = view
    for (let page = Math.floor(first / PAGE); page <= Math.floor(Math.max(first, last - 1) / PAGE); page++)
      void fetchPage(page)
  }
  watch(asked, () => anew(true))
  // While runs come in, what is shown stays until it is read again.
  watch(stamp, () => anew(false), { immediate: true })
  onScopeDispose(() => underWay.forEach((one) => one.abort()))

  const row = (index: number): TrialRun | null => pages.value.get(Math.floor(index / PAGE))?.[index % PAGE] ?? null
  return { row, look, chosen: computed(() => chosen.value), ranges, fault, pages }
}
