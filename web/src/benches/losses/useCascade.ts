import { computed, ref } from 'vue'
import type { CascadeAnswer, CascadeLine } from '@/api/client'
import { useDesign } from '@/stores/design'

export const GROUPS = [
  { key: 'sunlight', title: 'Sunlight' },
  { key: 'modules', title: 'Modules' },
  { key: 'strings', title: 'Strings and wires' },
  { key: 'grid', title: 'Inverter and grid' },
] as const
/** Lines that many designs have nothing in; they are left out until they are asked for. */
const OFTEN_NOTHING = ['horizon', 'rows', 'partial_shade', 'quality', 'parallel', 'window', 'current_limit', 'clipping']
const NOTHING = 5e-6

export const isNothing = (share: number) => Math.abs(share) < NOTHING

/** The rated conversion parts the account in two: before it light is counted, after it electricity. */
export function conversionOf(cascade: CascadeAnswer) {
  const at = cascade.lines.findIndex((line) => line.key === 'conversion')
  const line = cascade.lines[at]
  return {
    line,
    efficiency: line ? 1 + line.share : 1,
    after: new Set(at < 0 ? [] : cascade.lines.slice(at).map((l) => l.key)),
  }
}

/** What is left before and after a line, over the light on the flat, or over what that is worth at the rated efficiency. */
export function leftAround(cascade: CascadeAnswer, line: CascadeLine): { before: number; after: number } {
  const { efficiency, after } = conversionOf(cascade)
  const start = cascade.start * (after.has(line.key) ? efficiency : 1)
  return { before: line.before / start, after: (line.before + line.energy) / start }
}

/** The open scheme's Cascade beside the pinned one's, with the lines that are worth showing. */
export function useCascade() {
  const design = useDesign()
  const showsAll = ref(false)
  const cascade = computed(() => design.evaluation?.cascade ?? null)
  const base = computed(() => design.against?.cascade ?? null)
  const baseShare = (key: string) => base.value?.lines.find((line) => line.key === key)?.share ?? 0
  const isSilent = (line: CascadeLine) =>
    OFTEN_NOTHING.includes(line.key) && isNothing(line.share) && isNothing(baseShare(line.key))

  const losses = computed(() => cascade.value?.lines.filter((line) => line.key !== 'conversion') ?? [])
  const lines = computed(() => losses.value.filter((line) => showsAll.value || !isSilent(line)))
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
  const x = (value: number) => ((value - span.value.low) / (span.value.high - span.value.low)) * 100

  return { cascade, base, lines, hidden, showsAll, change, span, x }
}
