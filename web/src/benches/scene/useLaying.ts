import { computed, ref, type Ref, type ShallowRef } from 'vue'
import type { Point } from './dimensions'
import type { SheetView } from './sheetView'

const dot = (a: Point, b: Point) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const less = (a: Point, b: Point): Point => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
const along = (from: Point, axis: Point, by: number): Point => [
  from[0] + axis[0] * by,
  from[1] + axis[1] * by,
  from[2] + axis[2] * by,
]

/** Laying modules by hand: a press on the face begins an area, and where it is let go it ends. */
export function useLaying(
  view: ShallowRef<SheetView | null>,
  on: () => { face: string; axes: [Point, Point] } | null,
  drawn: Ref<number>,
) {
  const area = ref<[Point, Point] | null>(null)
  /** The pointer on the face, also where another thing stands before it. */
  const at = (x: number, y: number) => {
    const hit = view.value?.pick(x, y)
    return hit && hit.face === on()?.face ? hit.point : null
  }
  function begin(x: number, y: number) {
    const point = on() && at(x, y)
    if (!point) return false
    area.value = [point, point]
    return true
  }
  function go(x: number, y: number) {
    if (!area.value) return false
    const point = at(x, y)
    if (point) area.value = [area.value[0], point]
    return true
  }
  function end() {
    const found = area.value
    area.value = null
    return found
  }
  const corners = computed(() => {
    const axes = on()?.axes
    if (!area.value || !axes || !view.value || drawn.value < 0) return ''
    const [from, to] = area.value
    const [u, v] = axes.map((axis) => dot(less(to, from), axis)) as [number, number]
    const right = along(from, axes[0], u)
    return [from, right, along(right, axes[1], v), along(from, axes[1], v)]
      .map((p) => view.value!.project(p).join())
      .join(' ')
  })
  return { begin, go, end, corners }
}
