import { onScopeDispose, ref, shallowRef, toValue, watch, type MaybeRefOrGetter } from 'vue'
import { api, type Columns } from '@/api/client'
import { useDesign } from '@/stores/design'

/** Hourly columns of the open scheme as it stands; the last ones stay until newer have come. */
export function useSeries(quantities: MaybeRefOrGetter<string[]>, subarray: MaybeRefOrGetter<string> = '') {
  const design = useDesign()
  const columns = shallowRef<Columns | null>(null)
  const fault = ref('')
  let asked: AbortController | null = null

  watch(
    [
      () => design.saved?.id,
      () => design.saved?.revision,
      () => toValue(quantities).join(','),
      () => toValue(subarray),
      () => design.evaluation?.headline !== null,
    ],
    async ([id, , keys, , simulated]) => {
      asked?.abort()
      if (!id || !keys || !simulated) {
        columns.value = null
        return
      }
      const mine = new AbortController()
      asked = mine
      try {
        const answer = await api.hourly(id, toValue(quantities), toValue(subarray), mine.signal)
        if (asked === mine) {
          columns.value = answer
          fault.value = ''
        }
      } catch (error) {
        if (asked === mine && !mine.signal.aborted) fault.value = (error as Error).message
      }
    },
    { immediate: true },
  )
  onScopeDispose(() => asked?.abort())
  return { columns, fault }
}
