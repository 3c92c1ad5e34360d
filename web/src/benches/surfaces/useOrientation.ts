import { ref, shallowRef, watch } from 'vue'
import { api, type OrientationAnswer } from '@/api/client'
import { useDesign } from '@/stores/design'

export const SEASONS = ['year', 'summer', 'winter'] as const

/** The worth of every facing for a season, read again when the design changes. */
export function useOrientation() {
  const design = useDesign()
  const season = ref<(typeof SEASONS)[number]>('year')
  const map = shallowRef<OrientationAnswer | null>(null)
  const fault = ref('')
  watch(
    [() => design.saved?.id, () => design.saved?.revision, season],
    async () => {
      if (!design.saved || !design.evaluation?.weather) {
        map.value = null
        return
      }
      const mine = [design.saved.id, design.saved.revision, season.value].join()
      try {
        const answer = await api.orientation(design.saved.id, season.value)
        if (mine === [design.saved.id, design.saved.revision, season.value].join()) map.value = answer
        fault.value = ''
      } catch (error) {
        fault.value = (error as Error).message
      }
    },
    { immediate: true },
  )

  /** Irradiation of any facing, between the points of the map [kWh/m2]. */
  function worth(tilt: number, azimuth: number): number {
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
  return { season, map, fault, worth }
}
