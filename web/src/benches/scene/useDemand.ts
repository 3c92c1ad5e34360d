import { computed } from 'vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** What the building uses in a year [kWh]; null where the design does not say. */
export function useDemand() {
  const [store, library] = [useSchemeStore(), useLibrary()]
  const at = (pointer: string) => Number(store.at(pointer) ?? library.field(pointer)?.default ?? 0)
  return computed(() => (store.document.demand ? at('/demand/use') * at('/demand/area') : null))
}
