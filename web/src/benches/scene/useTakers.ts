import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, type LightTakers } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { MONTHS, number } from '@/theme/format'

const REST_MS = 180
const MOST = 3
/** What is told [kWh/m²]. */
const LEAST = 0.5

/** The shortest run of values, round the end too, that holds most of their sum: its first and last index; null where there is none. */
export function mostOf(values: number[], share = 0.8): [number, number] | null {
  const total = values.reduce((sum, v) => sum + v, 0)
  if (total <= 0) return null
  let best: [number, number] | null = null
  for (let start = 0; start < values.length; start++) {
    let [sum, length] = [0, 0]
    while (length < values.length && sum < share * total) sum += values[(start + length++) % values.length]!
    if (sum >= share * total && (!best || length < best[1])) best = [start, length]
  }
  return best && [best[0], (best[0] + best[1] - 1) % values.length]
}

/** What takes light from the module under the pointer, once it has rested there, in words. */
export function useTakers(module: Ref<{ surface: string; module: string } | null>) {
  const store = useSchemeStore()
  const rested = ref<{ surface: string; module: string } | null>(null)
  let timer = 0
  watch(module, (now) => {
    window.clearTimeout(timer)
    if (now?.module !== rested.value?.module || now?.surface !== rested.value?.surface) rested.value = null
    timer = window.setTimeout(() => (rested.value = now), REST_MS)
  })
  onScopeDispose(() => window.clearTimeout(timer))
  const key = computed(() =>
    rested.value && store.saved && !store.isStale
      ? `${store.saved.id}-${rested.value.surface}-${rested.value.module}-${store.saved.revision} `
      : null,
  )
  const { answer } = useAnswer<LightTakers>(key, (signal) =>
    api.lightTakers(store.saved!.id, rested.value!.surface, rested.value!.module, signal),
  )
  return computed(() => {
    if (!answer.value) return ''
    const some = answer.value.takers.filter((t) => t.taken >= LEAST).slice(0, MOST)
    if (!some.length) return 'Nothing of the scene takes light from it.'
    const words = some.map((taker) => {
      const [months, hours] = [mostOf(taker.by_month), mostOf(taker.by_hour)]
      const when = [
        months && (months[0] === months[1] ? MONTHS[months[0]] : `${MONTHS[months[0]]} to ${MONTHS[months[1]]}`),
        hours && `${hours[0]} to ${hours[1] + 1} h`,
      ].filter(Boolean)
      const name = taker.name.charAt(0).toLowerCase() + taker.name.slice(1)
      return `the ${name} takes ${number(taker.taken, taker.taken < 10 ? 1 : 0)} kWh/m²${when.length ? ` (mostly ${when.join(', ')})` : ''}`
    })
    return `${words.join('; ')}.`.replace(/^t/, 'T')
  })
}
