import { computed } from 'vue'
import { useSchemeStore } from './useSchemeStore'

/** What the sources of demand use in a year [kWh]; null where the design has none. */
export function useDemand() {
  const store = useSchemeStore()
  return computed(() => store.evaluation?.figures?.find((figure) => figure.key === 'demand_energy')?.value ?? null)
}
