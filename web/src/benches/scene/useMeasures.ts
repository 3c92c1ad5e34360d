import { computed, type Ref } from 'vue'
import type { SceneAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { dimensionsOf, handlesOf, type Point } from './dimensions'
import type { useLayout } from './useLayout'
import type { useSelection } from './useSelection'
import type { useThings } from './useThings'

/** Of what is dragged freely, off the grid [m]. */
const FREE_STEP = 0.01
/** Values are kept to the millimetre. */
const CLEAN = 1000

/** The measures that are typed and dragged over the drawing: of the selected object, or the setbacks of the selected face. */
export function useMeasures(
  scene: Ref<SceneAnswer | null>,
  { thing, at, gesture }: ReturnType<typeof useThings>,
  { grid, soon }: ReturnType<typeof useSelection>,
  layouts: ReturnType<typeof useLayout>,
  isStringing: Ref<boolean>,
) {
  const store = useSchemeStore()
  const library = useLibrary()
  const { face, layout } = layouts
  /** Setbacks of the selected face, each typed over where it stands: of one edge, or of all objects of a kind. */
  const setbacks = computed(() =>
    (layout.value?.distances ?? []).map((d) => {
      const place = d.edge === null ? `setbacks/${d.kind}` : `edges/${d.edge}`
      const label = d.edge === null ? `Clearance round ${d.kind}` : `Setback from the ${d.kind}, edge ${d.edge}`
      const at = d.at as Point
      return {
        pointer: `/layout/${place}`,
        label,
        from: at,
        to: at,
        isPoint: true,
        unit: 'm' as const,
        value: d.distance,
      }
    }),
  )
  const dimensions = computed(() => {
    if (face.value && layout.value) return isStringing.value ? [] : setbacks.value
    const one = thing.value
    if (!scene.value || !one) return []
    return dimensionsOf(scene.value, one.id, one.values, (field) => at(one, field)).flatMap((d) => {
      const value = at(one, d.pointer.split('/').at(-1)!)
      return value === undefined ? [] : [{ ...d, value }]
    })
  })
  const handles = computed(() => {
    const one = thing.value
    return scene.value && one && !face.value ? handlesOf(scene.value, one.id, (field) => at(one, field)) : []
  })
  function resize(pointer: string, value: number) {
    const steps = pointer.split('/').slice(1)
    if (steps[0] === 'layout') {
      layouts.setLayout({ [steps[1]!]: { [steps[2]!]: value } })
      return
    }
    const patch = steps.reduceRight<unknown>((inner, key) => ({ [key]: inner }), value) as JsonObject
    store.edit(patch, gesture.name())
  }
  function raise(pointer: string, value: number, isFree: boolean) {
    const field = library.field(pointer)
    const step = isFree ? FREE_STEP : grid.value
    const snapped = Math.round(value / step) * step
    const bounded = Math.min(field?.max ?? snapped, Math.max(field?.min ?? snapped, snapped))
    soon(() => resize(pointer, Math.round(bounded * CLEAN) / CLEAN))
  }
  return { dimensions, handles, resize, raise }
}
