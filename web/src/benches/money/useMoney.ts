import { api, type MoneyAnswer } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** Tariff, bills, purchase and cash of the scheme that is shown. */
export function useMoney() {
  const store = useSchemeStore()
  return useAnswer<MoneyAnswer>(
    () => (store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision}` : null),
    (signal) => api.money(store.shown!.id, signal),
  )
}

/** Colours of the periods of a tariff, the dearest first in the strongest. */
const TONES = [
  'var(--current)',
  'color-mix(in oklab, var(--current) 52%, var(--sheet))',
  'color-mix(in oklab, var(--haze) 34%, var(--sheet))',
  'color-mix(in oklab, var(--loss) 60%, var(--sheet))',
  'color-mix(in oklab, var(--sun) 55%, var(--sheet))',
  'color-mix(in oklab, var(--yield) 50%, var(--sheet))',
]
export function periodTones(periods: Record<string, { price: number }>): Record<string, string> {
  const dear = Object.entries(periods).toSorted((a, b) => b[1].price - a[1].price)
  return Object.fromEntries(dear.map(([key], i) => [key, TONES[i % TONES.length]!]))
}
