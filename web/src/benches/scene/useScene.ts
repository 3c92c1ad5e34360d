import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type SceneAnswer, type ShadeAnswer } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { MONTHS } from '@/theme/format'
import { useMoment } from '@/tideline/useMoment'

/** Whether the drawer under the drawing is open; it stays so from scheme to scheme. */
export const isDrawerOpen = ref(false)
/** Solar access that a module should have, the reader's own [%]. */
export const threshold = ref(70)
/** The modules of a surface with their light of the year and the light without shade [kWh/m²]; pieces of bare faces are none. */
export function modulesInLight(shade: ShadeAnswer) {
  return shade.surfaces
    .filter((s) => !s.is_pieces && s.surface)
    .flatMap((s) => {
      const free = s.free.reduce((sum, v) => sum + v, 0)
      return s.ids.map((id, k) => ({
        surface: s.surface!,
        id,
        got: s.received.reduce((sum, month) => sum + month[k]!, 0),
        free,
      }))
    })
}
export const isDark = (module: { got: number; free: number }) => module.got / module.free < threshold.value / 100
export const QUANTITIES = [
  'as built',
  'solar access',
  'irradiation',
  'orientation',
  'solar resource',
  'strings',
] as const
export type SceneQuantity = (typeof QUANTITIES)[number]
/** The ramp begins at the darkest module, rounded down; at most here, so that even shade shows even colour [share]. */
const DARKEST = 0.9

/** The scene as it is drawn, the solar access of its surfaces, and which of them is looked at. */
export function useScene() {
  const store = useSchemeStore()
  const route = useRoute()
  const router = useRouter()
  const key = computed(() => (store.saved ? `${store.saved.id} ${store.saved.revision}` : null))
  const { answer: scene, fault } = useAnswer<SceneAnswer>(key, (signal) => api.scene(store.saved!.id, signal))
  const everything = ref(false)
  /** Of the pieces that faces without modules are shown in [m]; by itself where it is not said. */
  const spacing = ref<number | null>(null)
  const period = ref('year')
  const { interval, range, words } = useMoment()
  /** Intervals of the Tideline that are looked at by themselves: its moment, or its range. */
  const span = computed<[number, number] | null>(() => {
    if (period.value === 'moment') return [interval.value, interval.value]
    return period.value === 'range' && range.value ? [range.value.from, range.value.to] : null
  })
  watch(range, (now) => {
    if (!now && period.value === 'range') period.value = 'year'
  })
  /** When the light that is shown was received, in words. */
  const during = computed(() => {
    if (period.value === 'year') return 'a year'
    if (!span.value) return `in ${period.value}`
    const [first, last] = span.value.map(words)
    return first === last ? `at ${first}` : `from ${first} to ${last}`
  })
  const hasFaces = computed(() => Object.values(surfaces.value).some((s) => s.face) || everything.value)
  const surfaces = computed(() => (store.document.surfaces ?? {}) as Record<string, { face?: string }>)
  const shadeKey = computed(() =>
    key.value && store.evaluation?.weather && hasFaces.value
      ? `${key.value} ${everything.value} ${spacing.value} ${span.value}`
      : null,
  )
  const ask = (coarse: boolean) => ({ everything: everything.value, coarse, spacing: spacing.value, span: span.value })
  const { answer: exact, fault: shadeFault } = useAnswer<ShadeAnswer>(shadeKey, (signal) =>
    api.shade(store.saved!.id, ask(false), signal),
  )
  const { answer: coarse } = useAnswer<ShadeAnswer>(shadeKey, (signal) => api.shade(store.saved!.id, ask(true), signal))
  /** The exact answer, or a first look at a newer state until the exact one has followed. */
  const shade = computed(() => {
    const isNewer = coarse.value?.revision === scene.value?.revision && exact.value?.revision !== scene.value?.revision
    return coarse.value && (isNewer || !exact.value) ? coarse.value : exact.value
  })
  /** Shade of an earlier state of the design is never shown as this one's. */
  const isCurrent = computed(
    () =>
      shade.value !== null &&
      shade.value.revision === scene.value?.revision &&
      String(shade.value.span) === String(span.value),
  )

  const quantity = ref<SceneQuantity>('solar access')
  const monthOf = computed(() => MONTHS.findIndex((month) => month === period.value))

  /** What a module or piece receives in the period, and what it would without shade [kWh/m2]. */
  function irradiation(surface: ShadeAnswer['surfaces'][number], index: number): [number, number] {
    if (shade.value?.span && span.value) return [surface.during[index] ?? 0, surface.free_during]
    const months = monthOf.value < 0 ? surface.free.map((_, m) => m) : [monthOf.value]
    let [got, free] = [0, 0]
    for (const m of months) {
      got += surface.received[m]![index]!
      free += surface.free[m]!
    }
    return [got, free]
  }
  const brightest = computed(() =>
    Math.max(span.value ? 1e-6 : 1, ...(shade.value?.surfaces ?? []).map((s) => irradiation(s, 0)[1])),
  )
  /** Share 0..1 of a module or piece that the ramp shows where it does not show amounts. */
  function share(surface: ShadeAnswer['surfaces'][number], index: number): number {
    if (quantity.value === 'orientation') return surface.orientation
    const [got, free] = irradiation(surface, index)
    return (free > 0 ? got / free : 1) * (quantity.value === 'solar resource' ? surface.orientation : 1)
  }
  const darkest = computed(() => {
    const shares = (shade.value?.surfaces ?? []).flatMap((s) => s.ids.map((_, k) => share(s, k)))
    return Math.min(DARKEST, Math.floor(Math.min(1, ...shares) * 20) / 20)
  })
  const isColoured = computed(() => quantity.value !== 'as built' && quantity.value !== 'strings')
  /** Place 0..1 on the ramp of a module; null where the drawing shows the building alone. */
  function shareOf(surface: string, module: string): number | null {
    if (!isColoured.value || !shade.value) return null
    const one = shade.value.surfaces.find((s) => s.surface === surface)
    const index = one?.ids.indexOf(module) ?? -1
    return one && index >= 0 ? rampShare(one, index) : null
  }
  const rampShare = (surface: ShadeAnswer['surfaces'][number], index: number) =>
    quantity.value === 'irradiation'
      ? irradiation(surface, index)[0] / brightest.value
      : (share(surface, index) - darkest.value) / (1 - darkest.value)

  const thing = computed(() => (typeof route.query.thing === 'string' ? route.query.thing : ''))
  const pick = (id: string) => void router.replace({ query: { ...route.query, thing: id || undefined } })
  /** The document knows what stands there; a drawing that is still on its way does not know the newest thing yet. */
  const stands = (id: string) =>
    Object.values((store.document.scene ?? {}) as Record<string, unknown>).some(
      (kind) => typeof kind === 'object' && kind !== null && id in kind,
    )
  watch(
    () => scene.value?.places,
    (places) => {
      if (places && thing.value && !stands(thing.value)) pick('')
    },
  )
  return {
    scene,
    fault,
    shade,
    shadeFault,
    isCurrent,
    everything,
    spacing,
    quantity,
    isColoured,
    period,
    span,
    during,
    hasRange: computed(() => range.value !== null),
    shareOf,
    rampShare,
    irradiation,
    brightest,
    darkest,
    thing,
    pick,
  }
}
