import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDesign } from '@/stores/design'

const NOON_IN_JUNE = 171 * 24 + 12

/** The picked moment, range and quantity; they live in the address. */
export function useMoment() {
  const route = useRoute()
  const router = useRouter()
  const design = useDesign()
  const step = computed(() => design.evaluation?.weather?.step ?? 60)
  const year = computed(() => design.evaluation?.weather?.year ?? 2026)
  const perDay = computed(() => 1440 / step.value)
  const days = computed(() => (new Date(Date.UTC(year.value, 1, 29)).getUTCMonth() === 1 ? 366 : 365))
  const intervals = computed(() => days.value * perDay.value)
  const whole = (value: unknown, fallback: number) => (typeof value === 'string' && /^\d+$/.test(value) ? Math.min(Number(value), intervals.value - 1) : fallback)

  const interval = computed(() => whole(route.query.at, (NOON_IN_JUNE * 60) / step.value))
  const quantity = computed(() => (typeof route.query.show === 'string' ? route.query.show : 'delivered'))
  const range = computed(() => {
    const from = whole(route.query.from, -1)
    const to = whole(route.query.to, -1)
    return from >= 0 && to > from ? { from, to } : null
  })
  const put = (query: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...query } })
  const clampTo = (value: number) => String(Math.max(0, Math.min(intervals.value - 1, Math.round(value))))

  function timeOf(at: number): Date {
    return new Date(Date.UTC(year.value, 0, 1) + at * step.value * 60_000)
  }
  function words(at: number): string {
    return timeOf(at).toLocaleString('en-GB', { timeZone: 'UTC', day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }).replace(',', '')
  }
  return {
    interval, quantity, range, perDay, days, intervals, step, year, timeOf, words,
    pick: (at: number) => put({ at: clampTo(at) }),
    pickRange: (from: number, to: number) => put({ from: clampTo(Math.min(from, to)), to: clampTo(Math.max(from, to)) }),
    clearRange: () => put({ from: undefined, to: undefined }),
    show: (key: string) => put({ show: key === 'delivered' ? undefined : key }),
  }
}
