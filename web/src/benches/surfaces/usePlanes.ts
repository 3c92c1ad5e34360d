import { computed, type ComputedRef } from 'vue'
import { api, type PlanesAnswer } from '@/api/client'
import type { SurfaceView } from '@/stores/schemeLists'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useMoment } from '@/tideline/useMoment'

const PER_DAY = 144

export interface Stance {
  tilt: number
  azimuth: number
}

/** How the moving surfaces stand over the Tideline's day, and at its moment. */
export function usePlanes(surfaces: ComputedRef<SurfaceView[]>) {
  const store = useSchemeStore()
  const { interval, perDay, step } = useMoment()
  const day = computed(() => Math.floor(interval.value / perDay.value))
  const { answer: planes } = useAnswer(
    () =>
      store.saved && surfaces.value.some((s) => s.motion)
        ? `${store.saved.id} ${store.saved.revision} ${day.value}`
        : null,
    (signal) => api.planes(store.saved!.id, day.value, signal),
  )
  /** Place among the day's points, at the middle of the moment's interval. */
  const now = computed(() =>
    Math.min(PER_DAY - 1, Math.round((((interval.value % perDay.value) + 0.5) * step.value * PER_DAY) / 1440)),
  )
  function stanceAt(id: string, place: number): Stance | null {
    const one = planes.value?.surfaces[id]
    if (!one) return null
    return { tilt: one.tilt[place] ?? one.tilt[0]!, azimuth: one.azimuth[place] ?? one.azimuth[0]! }
  }
  /** The way of a plane over the disc while the sun is up. */
  const paths = computed(() => {
    const found = planes.value
    if (!found) return []
    return Object.keys(found.surfaces).map((id) => ({
      id,
      points: found.elevation.flatMap((elevation, i) => (elevation > 0 ? [stanceAt(id, i)!] : [])),
    }))
  })
  const standing = (surface: SurfaceView): SurfaceView => ({ ...surface, ...stanceAt(surface.id, now.value) })
  return { planes, paths, now, standing }
}
export type DayOfPlane = PlanesAnswer['surfaces'][string]
