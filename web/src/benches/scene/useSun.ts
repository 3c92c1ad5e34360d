import { computed } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useMoment } from '@/tideline/useMoment'

/** The sun of the Tideline's moment, and the moment in words. */
export function useSun() {
  const store = useSchemeStore()
  const { interval, perDay, step, words, timeOf } = useMoment()
  const day = computed(() => Math.floor(interval.value / perDay.value))
  const { answer: planes } = useAnswer(
    () => (store.saved && store.evaluation?.weather ? `${store.saved.id} ${store.saved.revision} ${day.value}` : null),
    (signal) => api.planes(store.saved!.id, day.value, signal),
  )
  const sun = computed(() => {
    if (!planes.value) return null
    const place = Math.min(143, Math.round((((interval.value % perDay.value) + 0.5) * step.value * 144) / 1440))
    return { azimuth: planes.value.azimuth[place]!, elevation: planes.value.elevation[place]! }
  })

  return {
    sun,
    moment: computed(() => words(interval.value)),
    month: computed(() => timeOf(interval.value).getUTCMonth()),
  }
}
