import { computed, ref, watch, type Ref } from 'vue'
import { api, type FillAnswer, type FillRequest, type SceneAnswer, type ShadeAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'
import type { Point } from './dimensions'
import { cut, ordered, repaired, withDrawn, type Pattern } from './stringing'

/** The picked face with the modules on it: laying, moving, deleting and stringing them. */
export function useLayout(
  scene: Ref<SceneAnswer | null>,
  shade: Ref<ShadeAnswer | null>,
  picked: Ref<string>,
  irradiation: (surface: ShadeAnswer['surfaces'][number], index: number) => [number, number],
  gesture: { name: () => string },
) {
  const store = useSchemeStore()
  const { say, warn } = useNotice()
  const faceId = ref('')
  const modules = ref(new Set<string>())
  const fill = ref<FillAnswer | null>(null)

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
    fill.value = null
  })

  /** The strings on the face in order: to which sub-array each belongs and how many modules it takes. */
  const slots = computed(() =>
    store.subarrays
      .filter((s) => s.surface === surface.value)
      .flatMap((s) => {
        const strings = s.strings * (store.sets.find((set) => set.id === s.inverter)?.count ?? 1)
        return Array.from({ length: strings }, () => ({ id: s.id, size: s.modules_per_string }))
      }),
  )
  const sizes = computed(() => slots.value.map((slot) => slot.size))
  const strung = computed(() =>
    slots.value.map((_, k) => layout.value?.strings.find((s) => s.number === k + 1)?.modules ?? []),
  )
  const isBroken = computed(() => {
    const inStrings = strung.value.flat().length
    const places = layout.value?.modules.length ?? 0
    const wanted = sizes.value.reduce((sum, size) => sum + size, 0)
    return strung.value.length > 0 && inStrings < Math.min(places, wanted)
  })
  function placed() {
    const one = shade.value?.surfaces.find((s) => s.surface === surface.value)
    const places = (kept.value.modules ?? {}) as Record<string, { u: number; v: number }>
    return (layout.value?.modules ?? []).map((m) => {
      const k = one?.ids.indexOf(m.id) ?? -1
      const [got, free] = one && k >= 0 ? irradiation(one, k) : [1, 1]
      return { id: m.id, ...places[m.id]!, access: got / Math.max(free, 1e-9) }
    })
  }
  function keepStrings(strings: string[][]) {
    const plan: Record<string, string[][]> = {}
    slots.value.forEach((slot, k) => {
      plan[slot.id] ??= []
      if (strings[k]?.length) plan[slot.id]!.push(strings[k])
    })
    store.edit({
      subarrays: Object.fromEntries(
        Object.entries(plan).map(([id, some]) => [id, { plan: some as unknown as JsonObject }]),
      ),
    })
  }
  const string = (pattern: Pattern) => keepStrings(cut(ordered(placed(), pattern), sizes.value))
  const drawString = (path: string[]) => keepStrings(withDrawn(strung.value, path, sizes.value))
  const repair = () => keepStrings(repaired(strung.value, placed(), sizes.value))
  /** Lengths of the string cables of each sub-array, from the plan: the longest of its strings, by which they are sized, and the mean, by which they lose. */
  function wireByPlan() {
    const patch: Record<string, JsonObject> = {}
    for (const [id, { longest, mean }] of Object.entries(layout.value?.lengths ?? {}))
      patch[id] = { cable: { length: longest, planned: { longest, mean } } }
    store.edit({ subarrays: patch })
    say('The string cables follow the plan: sized by the longest, losses by the mean.', {
      label: 'Undo',
      run: () => void store.undo(),
    })
  }
  /** What the server laid, written to the design. */
  async function lay(asked: FillRequest) {
    try {
      await store.flush()
      const found = await api.fill(store.saved!.id, asked)
      if (!found.count && asked.within) {
        say('No module fits there, between the setbacks and beside those that lie there.')
        return
      }
      if (!asked.within) fill.value = found
      store.edit(found.patch as JsonObject)
      say(found.words, { label: 'Undo', run: () => void store.undo() })
    } catch (error) {
      warn((error as Error).message)
    }
  }
  /** The first modules of a face: a surface for it, filled. */
  const useFace = () => face.value && lay({ face: face.value.id })
  async function fillFace(patch: JsonObject = {}, limit: FillRequest['limit'] = null) {
    if (surface.value) await lay({ surface: surface.value, layout: patch as Record<string, unknown>, limit })
  }
  /** The modules of a surface as a patch that takes away all others. */
  function inPlaceOf(key: string, modules: Record<string, unknown>) {
    const old = Object.keys((store.at(`/surfaces/${key}/layout/modules`) ?? {}) as JsonObject)
    const gone = Object.fromEntries(old.filter((id) => !(id in modules)).map((id) => [id, null]))
    return { ...gone, ...modules } as JsonObject
  }
  /** Another type of module: what fits keeps its place, and the rest is told. */
  async function swap(module: string) {
    const key = surface.value
    if (!key || module === layoutModule.value) return
    const members = store.subarrays.filter((s) => s.surface === key).map((s) => s.id)
    const typed = {
      subarrays: Object.fromEntries(members.map((id) => [id, { module }])),
      ...(members.length ? {} : { surfaces: { [key]: { layout: { module } } } }),
    }
    if (!layout.value?.modules.length) {
      store.edit(typed)
      return
    }
    try {
      await store.flush()
      const found = await api.swapModules(store.saved!.id, { surface: key, module })
      const layoutPatch = { module, modules: inPlaceOf(key, found.modules) }
      store.edit({ ...typed, surfaces: { [key]: { layout: layoutPatch } } })
      const stayed = Object.keys(found.modules).length
      const left = found.left.length
      const words = left
        ? `${stayed} of the ${stayed + left} modules have a place, ${left} ${left === 1 ? 'was' : 'were'} taken from the plan.`
        : `All ${stayed} modules keep a place.`
      say(words, { label: 'Undo', run: () => void store.undo() })
    } catch (error) {
      warn((error as Error).message)
    }
  }
  const layoutModule = computed(() => layout.value?.module ?? null)
  /** One module, a row or an area of them, beside those that lie there. */
  async function layBy(area: [Point, Point]) {
    if (surface.value) await lay({ surface: surface.value, within: area })
  }
  function setLayout(patch: JsonObject) {
    const key = surface.value
    if (!key) return
    if (layout.value?.modules.length || Object.keys(layout.value?.tray ?? {}).length) void fillFace(patch)
    else store.edit({ surfaces: { [key]: { layout: patch } } })
  }
  function removeModules(some: Record<string, string[]>) {
    store.edit({
      surfaces: Object.fromEntries(
        Object.entries(some).map(([surface, ids]) => [
          surface,
          { layout: { modules: Object.fromEntries(ids.map((id) => [id, null])) } },
        ]),
      ),
    })
    const count = Object.values(some).flat().length
    modules.value = new Set()
    say(`${count} modules deleted from the plan.`, { label: 'Undo', run: () => void store.undo() })
  }
  function removePicked() {
    const some: Record<string, string[]> = {}
    for (const key of modules.value) {
      const [surface, id] = key.split(' ') as [string, string]
      ;(some[surface] ??= []).push(id)
    }
    removeModules(some)
  }
  const clear = () => surface.value && removeModules({ [surface.value]: layout.value?.modules.map((m) => m.id) ?? [] })
  /** All rows one way again: the surface of the backs goes, with its strings. */
  function unpair() {
    const key = surface.value
    if (!key) return
    const others = (face.value?.surfaces ?? []).filter((one) => one !== key)
    const strings = store.subarrays.filter((s) => others.includes(s.surface)).map((s) => s.id)
    const gone = (some: string[]) => Object.fromEntries(some.map((id) => [id, null]))
    store.edit({
      surfaces: { [key]: { layout: { racks: { is_paired: null } } }, ...gone(others) },
      ...(strings.length ? { subarrays: gone(strings) } : {}),
    })
    say('All rows face one way; fill the face anew.', { label: 'Undo', run: () => void store.undo() })
  }
  function nudge(dx: number, dy: number) {
    const key = surface.value
    if (!key) return
    const placed = (kept.value.modules ?? {}) as Record<string, { u: number; v: number }>
    const patch: JsonObject = {}
    for (const key of modules.value) {
      const id = key.split(' ')[1]!
      const one = placed[id]
      if (one) patch[id] = { u: Math.round((one.u + dx) * 1000) / 1000, v: Math.round((one.v + dy) * 1000) / 1000 }
    }
    store.edit({ surfaces: { [key]: { layout: { modules: patch } } } }, gesture.name())
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
    fill,
    useFace,
    fillFace,
    layBy,
    setLayout,
    removeModules,
    removePicked,
    clear,
    unpair,
    nudge,
    string,
    drawString,
    repair,
    isBroken,
    wireByPlan,
  }
}
