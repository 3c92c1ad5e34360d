import { computed, onScopeDispose, readonly, ref, shallowRef } from 'vue'
import { api, type ColumnReading, type Reading, type ReadingAnswer } from '@/api/client'

/** The reading of a file while it is being changed: each change is tried at once, and late answers are dropped. */
export function useReading(file: File, first: ReadingAnswer) {
  const answer = shallowRef(first)
  const reading = shallowRef<Reading>(first.reading)
  const fault = ref('')
  const isAsking = ref(false)
  const before: Reading[] = []
  const undoable = ref(0)
  let asked: AbortController | null = null

  async function tryOut(next: Reading) {
    reading.value = next
    asked?.abort()
    const mine = (asked = new AbortController())
    isAsking.value = true
    fault.value = ''
    try {
      const found = await api.readWeather(file, { reading: next }, mine.signal)
      if (asked === mine) answer.value = found
    } catch (error) {
      if (asked === mine && !mine.signal.aborted) fault.value = (error as Error).message
    } finally {
      if (asked === mine) isAsking.value = false
    }
  }
  function change(values: Partial<Reading>) {
    before.push(reading.value)
    undoable.value = before.length
    void tryOut({ ...reading.value, ...values })
  }
  function changeColumn(place: number, values: Partial<ColumnReading>) {
    const columns = reading.value.columns.map((column) => {
      if (column.place === place) return { ...column, ...values, sureness: 'certain' as const, reason: 'Set by hand.' }
      // A quantity has one column: it is taken from the one that had it.
      return values.role && column.role === values.role ? { ...column, role: '' as const, unit: '' } : column
    })
    change({ columns })
  }
  function undo() {
    const last = before.pop()
    undoable.value = before.length
    if (last) void tryOut(last)
  }
  onScopeDispose(() => asked?.abort())
  const problem = computed(() => fault.value || answer.value.problem)
  return {
    answer: computed(() => answer.value),
    reading: computed(() => reading.value),
    problem,
    isAsking: readonly(isAsking),
    canUndo: computed(() => undoable.value > 0),
    change,
    changeColumn,
    undo,
  }
}
