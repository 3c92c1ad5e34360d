import { scale } from '@/charts/picture'
import { computed, ref } from 'vue'
import type { CascadeAnswer, CascadeLine } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'

export const GROUPS = [
  { key: 'sunlight', title: 'Sunlight' },
  { key: 'modules', title: 'Modules' },
  { key: 'strings', title: 'Strings and wires' },
  { key: 'grid', title: 'Inverter and grid' },
] as const
/** Lines that are zero in many designs; they are hidden until they are asked for. */
const OFTEN_ZERO = ['horizon', 'rows', 'partial_shade', 'quality', 'parallel', 'window', 'current_limit', 'clipping']
const ZERO = 5e-6

export const isZero = (share: number) => Math.abs(share) < ZERO

/** The rated conversion splits the energy balance: before it light is counted, after it electricity. */
export function conversionOf(cascade: CascadeAnswer) {
  const at = cascade.lines.findIndex((line) => line.key === 'conversion')
  const line = cascade.lines[at]
  return {
    line,
    efficiency: line ? 1 + line.share : 1,
    after: new Set(at < 0 ? [] : cascade.lines.slice(at).map((l) => l.key)),
  }
}

/** Energy before and after a line, over the horizontal irradiation, or over what that gives at the rated efficiency. */
export function leftAround(cascade: CascadeAnswer, line: CascadeLine): { before: number; after: number } {
  const { efficiency, after } = conversionOf(cascade)
  const start = cascade.start * (after.has(line.key) ? efficiency : 1)
  return { before: line.before / start, after: (line.before + line.energy) / start }
}

/** The open scheme's Cascade beside the pinned one's, with the lines that are shown. */
export function useCascade() {
  const store = useSchemeStore()
  const showsAll = ref(false)
  const cascade = computed(() => store.evaluation?.cascade ?? null)
  const base = computed(() => store.pinnedEvaluation?.cascade ?? null)
  const baseShare = (key: string) => base.value?.lines.find((line) => line.key === key)?.share ?? 0
  const isHidden = (line: CascadeLine) =>
    OFTEN_ZERO.includes(line.key) && isZero(line.share) && isZero(baseShare(line.key))

  const losses = computed(() => cascade.value?.lines.filter((line) => line.key !== 'conversion') ?? [])
  const lines = computed(() => losses.value.filter((line) => showsAll.value || !isHidden(line)))
  const hidden = computed(() => losses.value.length - lines.value.length)
  /** Change against the pinned scheme in the share that a line takes; null where that is nothing to speak of. */
  function change(line: CascadeLine) {
    const difference = line.share - baseShare(line.key)
    return Math.abs(difference) < 0.0005 ? null : difference
  }
  /** The bars' scale: from a little under the least that is left, so that the losses can be seen. */
  const span = computed(() => {
    const left = cascade.value ? lines.value.map((line) => leftAround(cascade.value!, line)) : []
    const values = left.flatMap(({ before, after }) => [before, after])
    const low = Math.min(...values, 1)
    return { low: Math.max(0, Math.floor((low - 0.05) * 20) / 20), high: Math.max(...values, 1) + 0.01 }
  })
  const along = computed(() => scale([span.value.low, span.value.high], [0, 100]))
  const x = (value: number) => along.value(value)

  return { cascade, base, lines, hidden, showsAll, change, span, x }
}
