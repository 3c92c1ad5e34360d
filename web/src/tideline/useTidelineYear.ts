import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { plain, power } from '@/theme/format'
import { boundsOf, energyBetween, sunTimesOf } from './yearFigures'
import { useMoment } from './useMoment'
import { useSeries } from './useSeries'

/** The year that the Tideline shows: the chosen quantity, the sun's times, and what the moment and the range amount to. */
export function useTidelineYear() {
  const store = useSchemeStore()
  const moment = useMoment()
  const { columns, fault } = useSeries(() => [...new Set([moment.quantity.value, 'daylight', 'delivered'])])

  const column = (key: string) => columns.value?.columns.find((c) => c.key === key)?.values
  const values = computed(() => column(moment.quantity.value))
  const daylight = computed(() => column('daylight'))
  const info = computed(() => store.quantities.find((q) => q.key === moment.quantity.value))
  const bounds = computed(() => boundsOf(values.value, moment.quantity.value, info.value?.unit ?? ''))
  const sunTimes = computed(() => (daylight.value ? sunTimesOf(daylight.value, moment.perDay.value) : null))
  const day = computed(() => Math.floor(moment.interval.value / moment.perDay.value))

  /** Energy [kWh] of whole days, the last one included. */
  function energyOf(firstDay: number, lastDay: number) {
    const delivered = column('delivered')
    const per = moment.perDay.value
    return delivered ? energyBetween(delivered, firstDay * per, (lastDay + 1) * per, moment.step.value) : 0
  }
  const dayEnergy = computed(() => energyOf(day.value, day.value))
  const range = computed(() => {
    if (!moment.range.value || !columns.value) return null
    const [from, to] = [moment.range.value.from, moment.range.value.to].map((at) =>
      Math.floor(at / moment.perDay.value),
    )
    return { days: to! - from! + 1, energy: energyOf(from!, to!) }
  })
  const words = computed(() => {
    const value = values.value?.[moment.interval.value]
    if (value === undefined) return ''
    return info.value?.unit === 'W' ? power(value) : `${plain(value)} ${info.value?.unit ?? ''}`
  })
  return { values, daylight, info, bounds, sunTimes, day, dayEnergy, range, words, fault }
}
