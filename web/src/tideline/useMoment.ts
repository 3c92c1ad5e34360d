import { computed, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'

const NOON_IN_JUNE = 171 * 24 + 12
const MOMENT = new Intl.DateTimeFormat('en-GB', {
  timeZone: 'UTC',
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
})

/** What was picked while the router is still on its way there: a held arrow key is faster than it. */
const ahead = shallowRef<Record<string, string | undefined>>({})

/** The picked moment, range and quantity; they live in the address. */
export function useMoment() {
  const route = useRoute()
  const router = useRouter()
  const store = useSchemeStore()
  const step = computed(() => store.evaluation?.weather?.step ?? 60)
  const year = computed(() => store.evaluation?.weather?.year ?? 2026)
  const perDay = computed(() => 1440 / step.value)
  const days = computed(() => (new Date(Date.UTC(year.value, 1, 29)).getUTCMonth() === 1 ? 366 : 365))
  const intervals = computed(() => days.value * perDay.value)
  const query = computed(() => ({ ...route.query, ...ahead.value }))
  const whole = (value: unknown, fallback: number) =>
    typeof value === 'string' && /^\d+$/.test(value) ? Math.min(Number(value), intervals.value - 1) : fallback

  const interval = computed(() => whole(query.value.at, (NOON_IN_JUNE * 60) / step.value))
  const quantity = computed(() => (typeof query.value.show === 'string' ? query.value.show : 'delivered'))
  const range = computed(() => {
    const from = whole(query.value.from, -1)
    const to = whole(query.value.to, -1)
    return from >= 0 && to > from ? { from, to } : null
  })
  function put(change: Record<string, string | undefined>) {
    const mine = { ...ahead.value, ...change }
    ahead.value = mine
    void router.replace({ query: { ...route.query, ...mine } }).finally(() => {
      if (ahead.value === mine) ahead.value = {}
    })
  }
  const clampTo = (value: number) => String(Math.max(0, Math.min(intervals.value - 1, Math.round(value))))

  function timeOf(at: number): Date {
    return new Date(Date.UTC(year.value, 0, 1) + at * step.value * 60_000)
  }
  function words(at: number): string {
    return MOMENT.format(timeOf(at)).replace(',', '')
  }
  return {
    interval,
    quantity,
    range,
    perDay,
    days,
    intervals,
    step,
    year,
    timeOf,
    words,
    pick: (at: number) => put({ at: clampTo(at) }),
    pickRange: (from: number, to: number) =>
      put({ from: clampTo(Math.min(from, to)), to: clampTo(Math.max(from, to)) }),
    clearRange: () => put({ from: undefined, to: undefined }),
    show: (key: string) => put({ show: key === 'delivered' ? undefined : key }),
  }
}
