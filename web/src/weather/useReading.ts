import { computed, readonly, ref, shallowRef } from 'vue'
import { api, type ColumnReading, type Reading, type ReadingAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'

/** The reading of a file while it is being changed: each change is tried at once, and late answers are dropped. */
export function useReading(file: File, first: ReadingAnswer) {
  const answer = shallowRef(first)
  const reading = shallowRef<Reading>(first.reading)
  const fault = ref('')
  const isAsking = ref(false)
  const before: Reading[] = []
  const undoable = ref(0)
  const { newest } = useNewest()

  async function tryOut(next: Reading) {
    reading.value = next
    isAsking.value = true
    fault.value = ''
    try {
      const found = await newest((signal) => api.readWeather(file, { reading: next }, signal))
      if (!found) return
      answer.value = found
    } catch (error) {
      fault.value = (error as Error).message
    }
    isAsking.value = false
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
