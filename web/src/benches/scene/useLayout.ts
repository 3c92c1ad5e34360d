import { computed, ref, watch, type Ref } from 'vue'
import { api, type Acts, type RoomAnswer, type SceneAnswer, type ShadeAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import type { Point } from './dimensions'

/** The picked face with the modules on it: laying, moving, deleting and stringing them. */
export function useLayout(
  scene: Ref<SceneAnswer | null>,
  shade: Ref<ShadeAnswer | null>,
  picked: Ref<string>,
  irradiation: (surface: ShadeAnswer['surfaces'][number], index: number) => [number, number],
  gesture: { name: () => string },
) {
  const store = useSchemeStore()
  const faceId = ref('')
  const modules = ref(new Set<string>())
  /** What the surface would hold the one way and the other, once it was filled. */
  const room = ref<RoomAnswer | null>(null)

  const face = computed(() => scene.value?.faces.find((f) => f.id === faceId.value) ?? null)
  /** Of the surfaces on the face the one that is looked at; there are two where racks stand back to back. */
  const chosen = ref('')
  const surface = computed(() => {
    const some = face.value?.surfaces ?? []
    return some.includes(chosen.value) ? chosen.value : (some[0] ?? null)
  })
  const layout = computed(() => scene.value?.layouts.find((l) => l.surface === surface.value) ?? null)
  const kept = computed(() =>
    surface.value ? ((store.at(`/surfaces/${surface.value}/layout`) ?? {}) as JsonObject) : {},
  )
  watch(picked, () => {
    if (face.value?.solid !== picked.value) faceId.value = ''
  })
  watch([faceId, surface], () => {
    modules.value = new Set()
    room.value = null
  })

  const isBroken = computed(() => {
    const one = layout.value
    const inStrings = one?.strings.reduce((sum, string) => sum + string.modules.length, 0) ?? 0
    return !!one?.strings.length && inStrings < Math.min(one.modules.length, one.wired)
  })
  type OnSurface = { [V in keyof Acts]: Acts[V] extends { surface: string } ? V : never }[keyof Acts]
  const toSurface = <V extends OnSurface>(verb: V, body: Omit<Acts[V], 'surface'>, name = '') =>
    surface.value ? store.act(verb, { surface: surface.value, ...body } as Acts[V], name) : undefined
  function string(pattern: Acts['string-modules']['pattern']) {
    const one = shade.value?.surfaces.find((s) => s.surface === surface.value)
    const share = ([got, free]: [number, number]) => got / Math.max(free, 1e-9)
    const access = one ? Object.fromEntries(one.ids.map((id, k) => [id, share(irradiation(one, k))])) : {}
    void toSurface('string-modules', { pattern, access })
  }
  const drawString = (path: string[]) => void toSurface('draw-string', { path })
  const repair = () => void toSurface('repair-strings', {})
  const wireByPlan = () => void toSurface('take-lengths', {})
  const fill = (asked: Acts['fill']) => store.act('fill', asked)
  /** The first modules of a face: a surface for it, filled. */
  const useFace = () => face.value && fill({ face: face.value.id })
  async function fillFace(patch: JsonObject = {}, limit: Acts['fill']['limit'] = null) {
    const key = surface.value
    if (!key) return
    await fill({ surface: key, layout: patch as Record<string, unknown>, limit })
    await api.room(store.saved!.id, key).then(
      (found) => (room.value = found),
      () => (room.value = null),
    )
  }
  /** Another type of module: what fits keeps its place, and the rest is told. */
  const swap = (module: string) => {
    if (module !== layoutModule.value) void toSurface('swap-modules', { module })
  }
  const layoutModule = computed(() => layout.value?.module ?? null)
  /** One module, a row or an area of them, beside those that lie there. */
  async function layBy(area: [Point, Point]) {
    if (surface.value) await fill({ surface: surface.value, within: area })
  }
  function setLayout(patch: JsonObject) {
    const key = surface.value
    if (!key) return
    if (layout.value?.modules.length || Object.keys(layout.value?.tray ?? {}).length) void fillFace(patch)
    else store.edit({ surfaces: { [key]: { layout: patch } } })
  }
  function removeModules(some: Record<string, string[]>) {
    void store.act('delete-modules', { modules: some })
    modules.value = new Set()
  }
  function removePicked() {
    const some: Record<string, string[]> = {}
    for (const key of modules.value) {
      const [surface, id] = key.split(' ') as [string, string]
      ;(some[surface] ??= []).push(id)
    }
    removeModules(some)
  }
  const clear = () =>
    surface.value &&
    removeModules({
      [surface.value]: [...(layout.value?.modules.map((m) => m.id) ?? []), ...Object.keys(layout.value?.tray ?? {})],
    })
  const turnRows = (turns: boolean, axis: number | null = null) =>
    void toSurface('turn-rows', { turns, axis_azimuth: axis })
  const takeStrings = () => void toSurface('take-strings', {})
  const unpair = () => void toSurface('unpair-racks', {})
  /** Steps of a held key: those that come while one is on its way go together. */
  let along = 0
  let up = 0
  let isMoving = false
  async function nudge(dx: number, dy: number) {
    along += dx
    up += dy
    if (isMoving) return
    isMoving = true
    const name = gesture.name()
    const ids = [...modules.value].filter((key) => key.startsWith(`${surface.value} `)).map((key) => key.split(' ')[1]!)
    while (ids.length && (along || up)) {
      const step = { along, up }
      along = up = 0
      await toSurface('move-modules', { modules: ids, ...step }, name)
    }
    isMoving = false
  }

  return {
    faceId,
    face,
    surface,
    chooseSurface: (id: string) => (chosen.value = id),
    swap,
    layout,
    kept,
    modules,
    room,
    useFace,
    fillFace,
    layBy,
    setLayout,
    removeModules,
    removePicked,
    clear,
    unpair,
    takeStrings,
    turnRows,
    nudge,
    string,
    drawString,
    repair,
    isBroken,
    wireByPlan,
  }
}
