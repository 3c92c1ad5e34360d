import { computed } from 'vue'
import type { Design } from '@/api/designTypes'

type Site = Design['site']
type Surface = NonNullable<Design['surfaces']>[string]
type RowsOf = NonNullable<Surface['rows']> & { width: number }
/** How a surface moves; the names are those of its optional parts in the design. */
export const MOTIONS = ['tracking', 'two_axis_tracking', 'seasonal_tilt'] as const
export type Motion = (typeof MOTIONS)[number]

export interface SurfaceView {
  id: string
  name: string
  tilt: number
  azimuth: number
  mounting: string
  /** Of the scene, from which tilt, azimuth and area are taken; null where they are its own. */
  face: string | null
  area: number | null
  rows: RowsOf | null
  /** Null where it stands still. */
  motion: Motion | null
  tracking: NonNullable<Surface['tracking']> | null
  seasonal: NonNullable<Surface['seasonal_tilt']>['changes'] | null
  /** Of its strings. */
  modules: number
  /** That lie on its plan. */
  laid: number
}
export interface StringView {
  id: string
  name: string
  surface: string
  module: string
  modules_per_string: number
  strings: number
  inverter: string
  tracker: number
}
export interface SetView {
  id: string
  name: string
  letter: string
  model: string
  count: number
  strings: StringView[]
}

type Names = Record<string, string>

/** The document as lists for reading, with its defaults filled in; each is made once for all who read it. */
export function listsOf(
  document: () => Design,
  preset: (pointer: string) => unknown,
  faces: () => Record<
    string,
    { name: string; tilt: number; azimuth: number; area?: number | null; modules?: number }
  > = () => ({}),
  names: () => { surfaces?: Names; inverters?: Names; subarrays?: Names } = () => ({}),
) {
  const site = computed<Site>(() => document().site ?? { latitude: 0, longitude: 0 })
  const subarrays = computed<StringView[]>(() =>
    Object.entries(document().subarrays ?? {}).map(([id, s]) => ({
      ...s,
      id,
      name: s.name || names().subarrays?.[id] || 'New strings',
      strings: s.strings ?? (preset(`/subarrays/${id}/strings`) as number),
      tracker: s.tracker ?? (preset(`/subarrays/${id}/tracker`) as number),
    })),
  )
  const sets = computed<SetView[]>(() => {
    const of = new Map<string, StringView[]>()
    for (const s of subarrays.value) of.set(s.inverter, [...(of.get(s.inverter) ?? []), s])
    return Object.entries(document().inverters ?? {}).map(([id, set], i) => ({
      id,
      name: set.name || names().inverters?.[id] || 'New inverter',
      letter: String(i + 1),
      model: set.model ?? '',
      count: set.count ?? (preset(`/inverters/${id}/count`) as number),
      strings: (of.get(id) ?? []).toSorted((a, b) => a.tracker - b.tracker),
    }))
  })
  const modulesOf = computed(() => {
    const counts = new Map(sets.value.map((set) => [set.id, set.count]))
    const modules = new Map<string, number>()
    for (const s of subarrays.value)
      modules.set(
        s.surface,
        (modules.get(s.surface) ?? 0) + s.modules_per_string * s.strings * (counts.get(s.inverter) ?? 1),
      )
    return modules
  })
  const surfaces = computed<SurfaceView[]>(() =>
    Object.entries(document().surfaces ?? {}).map(([id, s]) => ({
      id,
      name: s.name || faces()[id]?.name || names().surfaces?.[id] || 'New surface',
      face: s.face ?? null,
      tilt: s.tilt ?? faces()[id]?.tilt ?? (preset(`/surfaces/${id}/tilt`) as number),
      azimuth: s.azimuth ?? faces()[id]?.azimuth ?? (preset(`/surfaces/${id}/azimuth`) as number),
      mounting: s.mounting ?? (preset(`/surfaces/${id}/mounting`) as string),
      area: s.area ?? faces()[id]?.area ?? null,
      rows: s.rows ? { ...s.rows, width: s.rows.width ?? (preset(`/surfaces/${id}/rows/width`) as number) } : null,
      motion: MOTIONS.find((kind) => s[kind]) ?? null,
      tracking: s.tracking ?? null,
      seasonal: s.seasonal_tilt?.changes ?? null,
      modules: modulesOf.value.get(id) ?? 0,
      laid: faces()[id]?.modules ?? 0,
    })),
  )
  return { site, surfaces, subarrays, sets }
}

/** A fresh id such as `roof-2` beside those that are taken. */
export function freshId(stem: string, taken: Iterable<string>): string {
  const used = new Set(taken)
  for (let n = 1; ; n++) if (!used.has(`${stem}-${n}`)) return `${stem}-${n}`
}
