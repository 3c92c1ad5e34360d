import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useTrials } from '@/stores/useTrials'

export type RunView = 'table' | 'map' | 'front' | 'effects' | 'steps'
export const RUN_VIEWS: { key: RunView; title: string }[] = [
  { key: 'table', title: 'Table' },
  { key: 'map', title: 'Map' },
  { key: 'front', title: 'Front' },
  { key: 'effects', title: 'Effects' },
  { key: 'steps', title: 'Steps of the inputs' },
]

/** What all pictures of the runs share: which one is pointed at, which is selected, and what is drawn; kept in the address. */
const hovered = ref<number | null>(null)
const selected = ref<number | null>(null)

export function useRuns() {
  const trials = useTrials()
  const [route, router] = [useRoute(), useRouter()]
  const of = (name: string) => (typeof route.query[name] === 'string' ? (route.query[name] as string) : '')
  const go = (query: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...query } })

  const view = computed<RunView>(() => RUN_VIEWS.find((one) => one.key === of('view'))?.key ?? 'table')
  const columns = computed(() => trials.chosen?.figures ?? [])
  const loose = computed(() => trials.chosen?.loose ?? [])
  const aim = computed(
    () => trials.chosen?.study?.aim as { figure: string; better: 'more' | 'less' } | null | undefined,
  )
  const known = (key: string) => columns.value.some((one) => one.key === key)
  /** The figure that is looked at: one that was chosen, else what is aimed at, else the first. */
  const figure = computed(() => {
    const asked = of('figure')
    if (known(asked)) return asked
    return aim.value && known(aim.value.figure) ? aim.value.figure : (columns.value[0]?.key ?? '')
  })
  const column = computed(() => columns.value.find((one) => one.key === figure.value) ?? null)
  /** Changes with every piece of runs that comes. */
  const stamp = computed(() =>
    trials.chosen && trials.chosen.done ? `${trials.chosen.id} ${trials.chosen.done} ${trials.chosen.kept}` : null,
  )
  watch(
    () => trials.chosen?.id,
    () => {
      hovered.value = null
      selected.value = null
    },
  )
  return { view, figure, column, columns, loose, aim, stamp, hovered, selected, of, go, known }
}
