import { computed } from 'vue'
import { number } from '@/theme/format'
import { useSchemeStore } from './useSchemeStore'

/** Shade that was given by hand on the Sky bench and counts in place of the scene's, in words; empty where the scene is calculated. */
export function useShadeByHand() {
  const store = useSchemeStore()
  return computed(() => {
    const { shade_factor: factor, shade_table: table } = store.site
    if (factor) return `a shade factor of ${number(factor.factor, 2)}`
    const own = store.surfaces.filter((s) => store.at(`/surfaces/${s.id}/shade_table`)).map((s) => s.name)
    if (own.length) return `the solar access that was measured on ${own.join(' and ')}`
    return table ? 'the solar access that was measured on site' : ''
  })
}
