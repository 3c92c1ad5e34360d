import { computed, ref } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useSeries } from '@/tideline/useSeries'

/** What the sky picture is drawn from: the sun's paths, the obstacles' lines, and what they cost the chosen surface. */
export function useSky() {
  const store = useSchemeStore()
  const chosen = ref('')
  const surface = computed(() => store.surfaces.find((s) => s.id === chosen.value) ?? store.surfaces[0] ?? null)
  const subarray = computed(() => store.subarrays.find((s) => s.surface === surface.value?.id)?.id ?? '')

  const { answer: paths, fault } = useAnswer(
    () => {
      const { latitude, longitude, elevation } = store.site
      return store.saved
        ? `${store.saved.id} ${latitude} ${longitude} ${elevation} ${String(store.at('/weather/digest'))}`
        : null
    },
    (signal) => api.sunPaths(store.saved!.id, signal),
  )
  const { answer: obstacles } = useAnswer(
    () => (store.saved ? `${store.saved.id} ${store.saved.revision}` : null),
    (signal) => api.obstacles(store.saved!.id, signal),
  )
  const { answer: effect, isAsking: isCosting } = useAnswer(
    () =>
      store.saved && store.evaluation?.weather && surface.value
        ? `${store.saved.id}:${surface.value.id} ${store.saved.revision}`
        : null,
    (signal) => api.horizonEffect(store.saved!.id, surface.value!.id, signal),
  )
  const { columns } = useSeries(
    computed(() => (subarray.value ? ['poa'] : [])),
    subarray,
  )
  const irradiance = computed(() => columns.value?.columns[0]?.values ?? null)
  return { paths, fault, obstacles, effect, isCosting, surface, chosen, irradiance }
}
