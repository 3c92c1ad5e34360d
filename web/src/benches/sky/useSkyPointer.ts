import { computed, ref, type Ref } from 'vue'
import { pathOf, sunAt, type Direction } from './skyGeometry'
import type { SkyContent } from './useSkyShapes'

/** What pointer and keys do in the picture. */
export interface SkyActs {
  scrub: (hour: number) => void
  step: (days: number, hours: number) => void
  draw: (line: Direction[]) => void
  pick: (id: string) => void
  move: (id: string, change: { turn: number; rise: number }) => void
  moved: (id: string) => void
}
type Drag = { kind: 'sun' } | { kind: 'draw'; line: Direction[] } | { kind: 'thing'; id: string; from: Direction }

/** Drags in the picture: the sun along its day, a horizon that is drawn, an obstacle that is moved. */
export function useSkyPointer(props: SkyContent, svg: Readonly<Ref<SVGSVGElement | null>>, acts: SkyActs) {
  const drag = ref<Drag | null>(null)
  const drawn = computed(() => (drag.value?.kind === 'draw' ? pathOf(drag.value.line, props.projection) : ''))
  function under(event: PointerEvent): Direction | null {
    const box = svg.value!.getBoundingClientRect()
    const scale = props.projection.width / box.width
    return props.projection.under([(event.clientX - box.left) * scale, (event.clientY - box.top) * scale])
  }
  /** The hour of the day whose sun stands nearest to a direction. */
  function nearestHour({ azimuth, elevation }: Direction): number {
    let [best, least] = [12, Infinity]
    for (let i = 0; i < 144; i++) {
      const s = sunAt(props.paths, props.day, i / 6)
      if (s.elevation < -1) continue
      const off = ((s.azimuth - azimuth + 540) % 360) - 180
      const distance = Math.hypot(off * Math.cos((elevation * Math.PI) / 180), s.elevation - elevation)
      if (distance < least) [best, least] = [i / 6, distance]
    }
    return best
  }
  function take(event: PointerEvent, id = '') {
    const at = under(event)
    if (!at || props.mode === 'fields') return
    svg.value!.setPointerCapture(event.pointerId)
    if (props.mode === 'draw') drag.value = { kind: 'draw', line: [at] }
    else if (id) {
      acts.pick(id)
      drag.value = { kind: 'thing', id, from: at }
    } else {
      drag.value = { kind: 'sun' }
      acts.scrub(nearestHour(at))
    }
  }
  function go(event: PointerEvent) {
    const at = drag.value && under(event)
    if (!at || !drag.value) return
    if (drag.value.kind === 'draw') drag.value = { kind: 'draw', line: [...drag.value.line, at] }
    else if (drag.value.kind === 'sun') acts.scrub(nearestHour(at))
    else {
      const { from, id } = drag.value
      acts.move(id, { turn: ((at.azimuth - from.azimuth + 540) % 360) - 180, rise: at.elevation - from.elevation })
    }
  }
  function leave() {
    if (drag.value?.kind === 'draw') acts.draw(drag.value.line)
    if (drag.value?.kind === 'thing') acts.moved(drag.value.id)
    drag.value = null
  }
  function keys(event: KeyboardEvent) {
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [1, 0], ArrowDown: [-1, 0] }[event.key]
    if (!step) return
    event.preventDefault()
    acts.step(step[0]! * (event.shiftKey ? 10 : 1), step[1]!)
  }

  return { drawn, take, go, leave, keys }
}
