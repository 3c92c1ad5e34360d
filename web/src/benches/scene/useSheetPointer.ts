import { computed, type Ref, type ShallowRef } from 'vue'
import type { Handle } from './dimensions'
import type { SheetView } from './sheetView'
import type { SheetContent } from './useSheetView'

type Hit = ReturnType<SheetView['pick']>
/** What the pointer does on the sheet. */
export interface SheetActs {
  pick: (hit: Hit, adds: boolean) => void
  grab: () => void
  drag: (dx: number, dy: number, isFree: boolean, reach: number) => void
  turn: (azimuth: number, isFree: boolean) => void
  raise: (pointer: string, value: number, isFree: boolean) => void
  drop: () => void
  hover: (hit: { surface: string; module: string } | null) => void
}
/** A tool that takes clicks or drags before anything is picked or turned: it says whether it did. */
export interface SheetTool {
  begin: (x: number, y: number, event: PointerEvent) => boolean
  go: (x: number, y: number, isHeld: boolean) => boolean
  end: () => void
}
/** Within so many pixels things snap to one another. */
const SNAP_PX = 9
/** A press that moves less is a click. */
const CLICK_PX = 4

/** Presses and drags on the sheet: looking round, picking, moving, and taking hold of handles. */
export function useSheetPointer(
  props: SheetContent,
  host: Ref<HTMLElement | undefined>,
  { view, draw, turned }: { view: ShallowRef<SheetView | null>; draw: () => void; turned: Ref<number> },
  tools: SheetTool[],
  acts: SheetActs,
) {
  let held: {
    x: number
    y: number
    mode: 'turn' | 'pan' | 'move' | 'press' | 'handle'
    handle?: Handle
    z: number
    start: [number, number]
    hit: ReturnType<SheetView['pick']>
    isDragged?: boolean
  } | null = null
  const spot = (event: PointerEvent | WheelEvent): [number, number] => {
    const box = host.value!.getBoundingClientRect()
    return [event.clientX - box.left, event.clientY - box.top]
  }
  function down(event: PointerEvent) {
    const v = view.value
    if (!v) return
    const [x, y] = spot(event)
    if (event.button === 0 && !event.altKey && tools.some((tool) => tool.begin(x, y, event))) return
    const hit = event.button === 0 ? v.pick(x, y) : null
    const z = hit?.point[2] ?? 0
    const mode =
      event.button !== 0 || event.altKey
        ? 'pan'
        : hit && hit.solid === props.picked && props.movable && !hit.module
          ? 'move'
          : 'press'
    held = { x, y, mode, z, start: v.level(x, y, z), hit }
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    if (mode === 'move') acts.grab()
  }
  function moved(event: PointerEvent) {
    const v = view.value
    if (!v) return
    const [x, y] = spot(event)
    if (tools.some((tool) => tool.go(x, y, held !== null))) return
    if (!held) {
      const hit = v.pick(x, y)
      acts.hover(hit?.module && hit.surface ? { surface: hit.surface, module: hit.module } : null)
      return
    }
    const [dx, dy] = [x - held.x, y - held.y]
    if (held.mode === 'press' && Math.hypot(dx, dy) > CLICK_PX) held.mode = 'turn'
    if (held.mode === 'turn') {
      v.inMotion = true
      v.azimuth = (v.azimuth + dx * 0.35 + 360) % 360
      v.elevation = Math.max(8, Math.min(89, v.elevation + dy * 0.25))
      ;[held.x, held.y] = [x, y]
      draw()
    } else if (held.mode === 'pan') {
      v.inMotion = true
      v.pan(dx, dy)
      ;[held.x, held.y] = [x, y]
      draw()
    } else if (held.mode === 'move') {
      held.isDragged ||= Math.hypot(dx, dy) > CLICK_PX
      if (!held.isDragged) return
      const now = v.level(x, y, held.z)
      acts.drag(now[0] - held.start[0], now[1] - held.start[1], event.altKey, SNAP_PX * v.metresPerPixel())
    } else if (held.handle?.kind === 'turn') {
      const now = v.level(x, y, held.z)
      const { centre } = held.handle
      // The handle lies behind the thing: its front faces the other way.
      acts.turn((Math.atan2(centre[0] - now[0], centre[1] - now[1]) * 180) / Math.PI, event.altKey)
    } else if (held.handle) {
      const [px, py, pz] = held.handle.at
      const up = v.project([px, py, pz])[1] - v.project([px, py, pz + 1])[1]
      acts.raise(held.handle.pointer, held.handle.value - dy / Math.max(up, 1), event.altKey)
    }
  }
  /** A handle is taken hold of: what it changes follows the pointer. */
  function take(event: PointerEvent, handle: Handle) {
    if (!view.value || event.button !== 0) return
    const [x, y] = spot(event)
    held = { x, y, mode: 'handle', handle, z: handle.at[2], start: [0, 0], hit: null }
    host.value!.setPointerCapture(event.pointerId)
    acts.grab()
  }
  /** The handles on the drawing; one that would have to be dragged toward the eye is left out. */
  const grips = computed(() => {
    const v = view.value
    if (!v || turned.value < 0 || !props.movable) return []
    return props.handles
      .filter((h) => h.kind === 'turn' || v.elevation < 75)
      .map((handle) => ({ handle, at: v.project(handle.at), from: v.project(handle.centre) }))
  })
  function up(event: PointerEvent) {
    tools.forEach((tool) => tool.end())
    if (!held) return
    if (held.mode === 'press' || (held.mode === 'move' && !held.isDragged))
      acts.pick(held.hit, event.shiftKey || event.ctrlKey || event.metaKey)
    if (held.mode === 'move' || held.mode === 'handle') acts.drop()
    rest()
  }
  function rest() {
    held = null
    if (!view.value) return
    view.value.inMotion = false
    draw()
  }
  function wheel(event: WheelEvent) {
    if (!view.value) return
    event.preventDefault()
    view.value.isFitted = false
    view.value.zoom = Math.max(0.2, Math.min(30, view.value.zoom * Math.exp(-event.deltaY * 0.0012)))
    draw()
  }

  return { down, moved, up, rest, wheel, take, grips }
}
