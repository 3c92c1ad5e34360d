import { toValue, type MaybeRefOrGetter } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** Hourly columns of the open scheme as it stands; the last ones stay until newer have come. */
export function useSeries(quantities: MaybeRefOrGetter<string[]>, subarray: MaybeRefOrGetter<string> = '') {
  const store = useSchemeStore()
  const { answer: columns, fault } = useAnswer(
    () => {
      const keys = toValue(quantities).join(',')
      const shown = store.shown
      return shown && keys && shown.evaluation.headline
        ? `${shown.id} ${shown.revision} ${keys} ${toValue(subarray)}`
        : null
    },
    (signal) => api.hourly(store.shown!.id, toValue(quantities), toValue(subarray), signal),
  )
  return { columns, fault }
}
