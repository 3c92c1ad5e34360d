import { ref } from 'vue'
import { api, type Season } from '@/api/client'
import { MONTHS } from '@/theme/format'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'

export const SEASONS = ['year', 'summer', 'winter'] as const
export const MONTH_KEYS = MONTHS.map((month) => month.toLowerCase() as Season)

/** Irradiation of every orientation for a season, read again when the design changes. */
export function useOrientation() {
  const store = useSchemeStore()
  const season = ref<Season>('year')
  /** Hours of the clock that count, from the first to before the second. */
  const hours = ref<[number, number]>([0, 24])
  const { answer: map, fault } = useAnswer(
    () =>
      store.saved && store.evaluation?.weather
        ? `${store.saved.id} ${store.saved.revision} ${season.value} ${hours.value.join('-')}`
        : null,
    (signal) => api.orientation(store.saved!.id, season.value, hours.value, signal),
  )

  /** Irradiation of any orientation, between the points of the map [kWh/m2]. */
  function irradiation(tilt: number, azimuth: number): number {
    const m = map.value
    if (!m) return 0
    const t = Math.max(0, Math.min(m.tilts.length - 1.000001, tilt / (m.tilts[1]! - m.tilts[0]!)))
    const a = (((azimuth % 360) + 360) % 360) / (m.azimuths[1]! - m.azimuths[0]!)
    const [t0, a0] = [Math.floor(t), Math.floor(a) % m.azimuths.length]
    const a1 = (a0 + 1) % m.azimuths.length
    const [ft, fa] = [t - t0, a - Math.floor(a)]
    const row = (i: number) => m.irradiation[i]![a0]! * (1 - fa) + m.irradiation[i]![a1]! * fa
    return row(t0) * (1 - ft) + row(t0 + 1) * ft
  }
  return { season, hours, map, fault, irradiation }
}
