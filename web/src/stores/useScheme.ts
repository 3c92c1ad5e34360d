import { computed } from 'vue'
import { useDesign } from './design'
import { useLibrary } from './library'

export interface SiteDocument {
  name?: string
  latitude: number
  longitude: number
  elevation?: number
  time_zone?: string
  albedo_by_month?: number[]
  horizon?: { azimuth: number; elevation: number }[]
}
interface RowsDocument {
  pitch: number
  width?: number
  count?: number
  steps?: number
}
interface SurfaceDocument {
  name?: string
  tilt?: number
  azimuth?: number
  mounting?: string
  area?: number
  rows?: RowsDocument
}
interface SubArrayDocument {
  surface: string
  module: string
  modules_per_string: number
  strings?: number
  inverter: string
  tracker?: number
}
interface InverterDocument {
  model: string
  count?: number
}

export interface SurfaceView {
  id: string
  name: string
  tilt: number
  azimuth: number
  mounting: string
  area: number | null
  rows: RowsDocument | null
  modules: number
}
export interface StringView {
  id: string
  surface: string
  module: string
  modules_per_string: number
  strings: number
  inverter: string
  tracker: number
}
export interface SetView {
  id: string
  letter: string
  model: string
  count: number
  strings: StringView[]
}

/** The open scheme's document as lists for reading, with its defaults filled in. */
export function useScheme() {
  const design = useDesign()
  const library = useLibrary()
  const preset = <T>(pointer: string) => library.field(pointer)?.default as T
  const site = computed<SiteDocument>(
    () => (design.document.site as unknown as SiteDocument | undefined) ?? { latitude: 0, longitude: 0 },
  )
  const subarrays = computed<StringView[]>(() =>
    Object.entries((design.document.subarrays ?? {}) as unknown as Record<string, SubArrayDocument>).map(([id, s]) => ({
      ...s,
      id,
      strings: s.strings ?? preset<number>(`/subarrays/${id}/strings`),
      tracker: s.tracker ?? preset<number>(`/subarrays/${id}/tracker`),
    })),
  )
  const inverters = computed(() => (design.document.inverters ?? {}) as unknown as Record<string, InverterDocument>)
  const sets = computed<SetView[]>(() =>
    Object.entries(inverters.value).map(([id, set], i) => ({
      id,
      letter: String(i + 1),
      model: set.model,
      count: set.count ?? preset<number>(`/inverters/${id}/count`),
      strings: subarrays.value.filter((s) => s.inverter === id).sort((a, b) => a.tracker - b.tracker),
    })),
  )
  const surfaces = computed<SurfaceView[]>(() =>
    Object.entries((design.document.surfaces ?? {}) as unknown as Record<string, SurfaceDocument>).map(([id, s]) => ({
      id,
      name: s.name || id,
      tilt: s.tilt ?? preset<number>(`/surfaces/${id}/tilt`),
      azimuth: s.azimuth ?? preset<number>(`/surfaces/${id}/azimuth`),
      mounting: s.mounting ?? preset<string>(`/surfaces/${id}/mounting`),
      area: s.area ?? null,
      rows: s.rows ?? null,
      modules: subarrays.value
        .filter((a) => a.surface === id)
        .reduce(
          (sum, a) =>
            sum + a.modules_per_string * a.strings * (sets.value.find((set) => set.id === a.inverter)?.count ?? 1),
          0,
        ),
    })),
  )
  return { site, surfaces, subarrays, sets }
}

/** A fresh id such as `roof-2` beside those that are taken. */
export function freshId(stem: string, taken: Iterable<string>): string {
  const used = new Set(taken)
  for (let n = 1; ; n++) if (!used.has(`${stem}-${n}`)) return `${stem}-${n}`
}
