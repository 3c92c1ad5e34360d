import { computed, ref, watch, type ComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { OrientationAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { freshId, type SurfaceView } from '@/stores/schemeLists'
import { useNotice } from '@/notice/useNotice'
import { useGesture } from '@/brief/useGesture'

const EDIT_EVERY_MS = 80

/** The surfaces with the picked one, and what can be done to them; the picked one's name is in the address. */
export function useSurfaceEdits(map: ComputedRef<OrientationAnswer | null>) {
  const store = useSchemeStore()
  const route = useRoute()
  const router = useRouter()
  const { say } = useNotice()
  const gesture = useGesture()
  const preview = ref<{ id: string; tilt: number; azimuth: number } | null>(null)
  let waiting = 0

  const surfaces = computed(() =>
    store.surfaces.map((s) => (preview.value?.id === s.id ? { ...s, ...preview.value } : s)),
  )
  const picked = computed(() => surfaces.value.find((s) => s.id === route.query.surface) ?? surfaces.value[0])
  const pick = (id: string) => void router.replace({ query: { ...route.query, surface: id } })
  watch(
    () => picked.value?.id,
    () => (preview.value = null),
  )
  const change = (id: string, patch: JsonObject, name = '') => store.edit({ surfaces: { [id]: patch } }, name)

  /** A handle is taken: what follows is one gesture. */
  function beginTurn(id: string) {
    gesture.end()
    pick(id)
  }
  const isHeld = (id: string) => store.surfaces.some((s) => s.id === id && s.face !== null)
  /** While a handle is dragged the disc follows at once; the design is edited a dozen times a second. */
  function turn(id: string, tilt: number, azimuth: number) {
    if (isHeld(id)) return
    preview.value = { id, tilt, azimuth }
    if (!waiting) waiting = window.setTimeout(flush, EDIT_EVERY_MS)
  }
  function flush() {
    window.clearTimeout(waiting)
    waiting = 0
    if (!preview.value) return
    const { id, tilt, azimuth } = preview.value
    change(id, { tilt, azimuth }, gesture.name())
  }
  function endTurn() {
    flush()
    preview.value = null
  }

  function insert(surface: JsonObject) {
    const id = freshId(
      'surface',
      store.surfaces.map((s) => s.id),
    )
    change(id, surface)
    pick(id)
  }
  async function add() {
    const before = new Set(store.surfaces.map((s) => s.id))
    await store.act('add-surface', { tilt: map.value?.best_tilt ?? null, azimuth: map.value?.best_azimuth ?? null })
    const added = store.surfaces.find((s) => !before.has(s.id))
    if (added) pick(added.id)
  }
  const copy = ({ id, name }: SurfaceView) =>
    insert({ ...(store.at(`/surfaces/${id}`) as JsonObject), name: `${name}, copy` })
  async function remove(surface: SurfaceView) {
    const hasStrings = store.subarrays.some((string) => string.surface === surface.id)
    await store.act('delete-surface', { surface: surface.id })
    say(`${surface.name} deleted${hasStrings ? ', with its strings' : ''}.`, {
      label: 'Undo',
      run: () => void store.undo(),
    })
  }
  function rename(surface: SurfaceView, name: string) {
    if (name && name !== surface.name) change(surface.id, { name })
  }
  function useBestOrientation({ id }: SurfaceView) {
    if (map.value) change(id, { tilt: map.value.best_tilt, azimuth: map.value.best_azimuth })
  }
  const arrangeInRows = ({ id }: SurfaceView) => store.act('arrange-rows', { surface: id })
  const removeRows = ({ id }: SurfaceView) => change(id, { rows: null })
  const limitArea = ({ id }: SurfaceView) => change(id, { area: 50 })

  return {
    surfaces,
    picked,
    isTurning: computed(() => preview.value !== null),
    pick,
    beginTurn,
    turn,
    endTurn,
    add,
    copy,
    remove,
    rename,
    useBestOrientation,
    arrangeInRows,
    removeRows,
    limitArea,
  }
}
