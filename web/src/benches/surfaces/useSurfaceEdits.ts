import { computed, ref, watch, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { OrientationAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useDesign } from '@/stores/design'
import { useLibrary } from '@/stores/library'
import { freshId, useScheme, type SurfaceView } from '@/stores/useScheme'
import { useNotice } from '@/shell/useNotice'

/** Sun's height [°] that rows do not shade one another at, in the pitch that is proposed first. */
const CLEAR_ABOVE = 18
const EDIT_EVERY_MS = 80

/** The surfaces with the picked one, and what can be done to them; the picked one's name is in the address. */
export function useSurfaceEdits(map: Ref<OrientationAnswer | null>) {
  const design = useDesign()
  const library = useLibrary()
  const scheme = useScheme()
  const route = useRoute()
  const router = useRouter()
  const { say } = useNotice()
  const preview = ref<{ id: string; tilt: number; azimuth: number } | null>(null)
  let waiting = 0

  const surfaces = computed(() =>
    scheme.surfaces.value.map((s) => (preview.value?.id === s.id ? { ...s, ...preview.value } : s)),
  )
  const picked = computed(() => surfaces.value.find((s) => s.id === route.query.surface) ?? surfaces.value[0])
  const pick = (id: string) => void router.replace({ query: { ...route.query, surface: id } })
  watch(
    () => picked.value?.id,
    () => (preview.value = null),
  )
  const change = (id: string, patch: JsonObject) => design.edit({ surfaces: { [id]: patch } })

  /** While a handle is dragged the disc follows at once; the design is edited a dozen times a second. */
  function turn(id: string, tilt: number, azimuth: number) {
    preview.value = { id, tilt, azimuth }
    if (!waiting) waiting = window.setTimeout(flush, EDIT_EVERY_MS)
  }
  function flush() {
    window.clearTimeout(waiting)
    waiting = 0
    if (!preview.value) return
    const { id, tilt, azimuth } = preview.value
    change(id, { tilt, azimuth })
  }
  function endTurn() {
    flush()
    preview.value = null
  }

  function insert(surface: JsonObject) {
    const id = freshId(
      'surface',
      scheme.surfaces.value.map((s) => s.id),
    )
    change(id, surface)
    pick(id)
  }
  const add = () =>
    insert({
      name: 'New surface',
      tilt: map.value?.best_tilt ?? 30,
      azimuth: map.value?.best_azimuth ?? (scheme.site.value.latitude < 0 ? 0 : 180),
    })
  const copy = ({ id, name }: SurfaceView) =>
    insert({ ...(design.at(`/surfaces/${id}`) as JsonObject), name: `${name}, copy` })
  function remove(surface: SurfaceView) {
    const strings = scheme.subarrays.value.filter((s) => s.surface === surface.id).map((s) => s.id)
    design.edit({
      surfaces: { [surface.id]: null },
      ...(strings.length ? { subarrays: Object.fromEntries(strings.map((id) => [id, null])) } : {}),
    })
    say(`${surface.name} is taken out${strings.length ? ', with its strings' : ''}.`, {
      label: 'Undo',
      run: () => void design.undo(),
    })
  }
  function rename(surface: SurfaceView, name: string) {
    if (name && name !== surface.name) change(surface.id, { name })
  }
  function faceBest({ id }: SurfaceView) {
    if (map.value) change(id, { tilt: map.value.best_tilt, azimuth: map.value.best_azimuth })
  }
  function rackInRows({ id, tilt }: SurfaceView) {
    const width = Number(library.field(`/surfaces/${id}/rows/width`)?.default)
    const [slope, sun] = [(tilt * Math.PI) / 180, (CLEAR_ABOVE * Math.PI) / 180]
    const pitch = width * (Math.cos(slope) + Math.sin(slope) / Math.tan(sun))
    change(id, { rows: { pitch: Math.max(Math.ceil(pitch * 10) / 10, width + 0.2) } })
  }
  const layFlat = ({ id }: SurfaceView) => change(id, { rows: null })
  const limitArea = ({ id }: SurfaceView) => change(id, { area: 50 })

  return {
    surfaces,
    picked,
    isTurning: computed(() => preview.value !== null),
    pick,
    turn,
    endTurn,
    add,
    copy,
    remove,
    rename,
    faceBest,
    rackInRows,
    layFlat,
    limitArea,
  }
}
