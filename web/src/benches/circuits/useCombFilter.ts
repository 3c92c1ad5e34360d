import { computed, ref, watch } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** Inverters drawn at once; more of them on request, or found by name. */
export const FEW = 12

/** The inverter sets that are drawn: filtered by what they are made of, and not two hundred at once. */
export function useCombFilter() {
  const store = useSchemeStore()
  const filter = ref('')
  const most = ref(FEW)
  watch(filter, () => {
    most.value = FEW
  })
  const shown = computed(() => {
    const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean)
    if (!words.length) return store.sets
    const surfaces = new Map(store.surfaces.map((s) => [s.id, s.name]))
    return store.sets.filter((set) => {
      const strings = set.strings
        .map(
          (s) =>
            `${s.name} ${s.module} ${store.circuits.subarrays[s.id]?.title ?? ''} ${surfaces.get(s.surface) ?? ''}`,
        )
        .join(' ')
      const text =
        `${set.name} ${set.letter} ${set.model} ${store.circuits.inverters[set.id]?.title ?? ''} ${strings}`.toLowerCase()
      return words.every((word) => text.includes(word))
    })
  })
  const drawn = computed(() => shown.value.slice(0, most.value))
  return {
    filter,
    shown,
    drawn,
    more: () => {
      most.value += FEW * 3
    },
  }
}
