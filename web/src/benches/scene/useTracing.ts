import { quantity } from '@/theme/format'
import { computed, onBeforeUnmount, onMounted, ref, watch, type Ref, type ShallowRef } from 'vue'
import { snapped, type Level } from './placing'
import type { SheetView } from './sheetView'

/** Tracing an outline on the ground by clicks, with right angles, lengths and the area; it measures, too. */
export function useTracing(
  view: ShallowRef<SheetView | null>,
  isOn: () => boolean,
  /** Counts the drawings, since the line lies over them. */
  drawn: Ref<number>,
  done: (corners: Level[] | null) => void,
) {
  const traced = ref<Level[]>([])
  const ahead = ref<Level | null>(null)
  const lock = ref('')
  watch(isOn, () => {
    traced.value = []
    ahead.value = null
  })
  const points = computed<Level[]>(() => [
    ...traced.value,
    ...(ahead.value && traced.value.length ? [ahead.value] : []),
  ])
  const measured = computed(() => {
    const some = points.value
    const [from, to] = some.slice(-2)
    const edge = from && to ? `edge ${quantity(Math.hypot(to[0] - from[0], to[1] - from[1]), 'm', 2)}` : ''
    const area = Math.abs(
      some.reduce((sum, [x, y], i) => {
        const [nx, ny] = some[(i + 1) % some.length]!
        return sum + (x * ny - nx * y) / 2
      }, 0),
    )
    return [edge, some.length > 2 ? `area ${quantity(area, 'm²', 1)}` : ''].filter(Boolean).join(', ')
  })
  const line = computed(() => {
    const v = view.value
    if (!v || drawn.value < 0) return ''
    const corner = ([x, y]: Level) =>
      v
        .project([x, y, 0])
        .map((p) => p.toFixed(1))
        .join()
    return points.value.map(corner).join(' ')
  })
  const hint = computed(() => ({
    words: `Click the corners of the outline${traced.value.length ? ` (${traced.value.length})` : ''}; the first corner or Enter closes it, Backspace takes one back, Esc leaves.`,
    measured: [measured.value, lock.value].filter(Boolean).join(', '),
  }))
  /** How near in metres counts as on a corner. */
  const reach = () => {
    const v = view.value!
    const [a, b] = [v.level(0, 0, 0), v.level(12, 0, 0)]
    return Math.hypot(b[0] - a[0], b[1] - a[1])
  }
  function over(x: number, y: number) {
    const found = snapped(traced.value, view.value!.level(x, y, 0), reach())
    lock.value = found.lock
    ahead.value = found.corner
    return found
  }
  function click(x: number, y: number) {
    const found = over(x, y)
    if (found.isClosed) finish()
    else traced.value = [...traced.value, found.corner]
  }
  const finish = () => done(traced.value.length > 2 ? traced.value : null)
  function key(event: KeyboardEvent) {
    if (!isOn()) return
    if (event.key === 'Enter') finish()
    else if (event.key === 'Escape') done(null)
    else if (event.key === 'Backspace') traced.value = traced.value.slice(0, -1)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
  onMounted(() => window.addEventListener('keydown', key, true))
  onBeforeUnmount(() => window.removeEventListener('keydown', key, true))
  return { line, hint, over, click }
}
