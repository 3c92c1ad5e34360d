<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { SceneAnswer } from '@/api/client'
import { useTheme } from '@/theme/useTheme'
import DimensionLabel from './DimensionLabel.vue'
import { middleOf, type Dimension, type Handle, type Point } from './dimensions'
import type { Level } from './placing'
import { SheetView, type Inks, type Insets, type Piece, type Sun } from './sheetView'
import { useLaying } from './useLaying'
import { useStringDrawing } from './useStringDrawing'
import { useTracing } from './useTracing'

/** The drafting sheet: the scene in axonometry, its shadows, and the dimensions of what is picked. */
const props = defineProps<{
  scene: SceneAnswer
  picked: string
  sun: Sun | null
  /** Of the Tideline's moment, from 0: trees have their leaves of it. */
  month: number
  colourOf: (surface: string, module: string) => string | null
  colourKey: string
  dimensions: (Dimension & { value: number })[]
  handles: Handle[]
  /** What a thing that is moved or turned has snapped to. */
  lock: string
  hidden: Set<string>
  pieces: Piece[]
  /** Texts on the drawing, such as the numbers of strings. */
  marks: { text: string; at: [number, number, number] }[]
  movable: boolean
  /** The user's own picture on the ground. */
  picture: { url: string; corners: Level[] } | null
  /** Whether clicks on the ground trace an outline. */
  tracing: boolean
  /** The face on which clicks and drags lay modules, and its axes. */
  laying: { face: string; axes: [Point, Point] } | null
  /** The surface on which drags draw strings. */
  stringing: string | null
  /** The ways of strings over their modules. */
  lines: Point[][]
  /** What lies over the edges of the drawing. */
  insets: Insets
}>()
const emit = defineEmits<{
  pick: [hit: { solid: string; face: string; module?: string; surface?: string } | null, adds: boolean]
  grab: []
  drag: [dx: number, dy: number, isFree: boolean, reach: number]
  turn: [azimuth: number, isFree: boolean]
  raise: [pointer: string, value: number, isFree: boolean]
  drop: []
  hover: [hit: { surface: string; module: string } | null]
  resize: [pointer: string, value: number]
  trace: [corners: Level[] | null]
  lay: [area: [Point, Point]]
  string: [modules: string[]]
}>()
const theme = useTheme()
const host = ref<HTMLDivElement>()
const canvas = ref<HTMLCanvasElement>()
const view = shallowRef<SheetView | null>(null)
const places = ref<
  {
    pointer: string
    label: string
    unit: 'm' | '°'
    value: number
    from: [number, number]
    to: [number, number]
    at: [number, number]
  }[]
>([])
/** Counts the drawings: what lies over them is placed anew. */
const turned = ref(0)
const texts = ref<{ text: string; x: number; y: number }[]>([])
const north = ref(0)
const fault = ref('')
let frame = 0
let isFirst = true
let observer: ResizeObserver | null = null

const inks = (): Inks => {
  const style = getComputedStyle(document.documentElement)
  const of = (name: string) => style.getPropertyValue(name).trim()
  const isDark = document.documentElement.dataset.theme === 'dark'
  return {
    sheet: of('--sheet'),
    paper: of('--paper'),
    ink: of('--ink'),
    rule: of('--rule'),
    loss: of('--loss'),
    current: of('--current'),
    wall: isDark ? '#22323e' : '#efe6d3',
    tan: isDark ? '#8a7a5c' : '#d9c6a0',
    leaf: of('--yield'),
  }
}
function draw() {
  if (frame) return
  frame = requestAnimationFrame(() => {
    frame = 0
    const v = view.value
    if (!v) return
    v.render()
    north.value = v.north()
    turned.value++
    texts.value = props.marks.map((m) => {
      const [x, y] = v.project(m.at)
      return { text: m.text, x, y }
    })
    const found = props.dimensions.map((d) => ({ ...d, from: v.project(d.from), to: v.project(d.to) }))
    places.value = spread(areApart(found.filter((d) => d.isPoint)) ? found : found.filter((d) => !d.isPoint))
  })
}
/** Texts that stand at one point are drawn where all of them can be read: else one looks closer first. */
const areApart = (some: { from: [number, number] }[]) =>
  some.every((a, i) =>
    some.slice(i + 1).every((b) => Math.abs(a.from[0] - b.from[0]) > 46 || Math.abs(a.from[1] - b.from[1]) > 17),
  )
/** Labels stand at the middle of their lines, or where there is room beside it: none covers another. */
function spread<T extends { from: [number, number]; to: [number, number] }>(
  some: T[],
): (T & { at: [number, number] })[] {
  const taken: [number, number][] = []
  return some.map((one) => {
    const middle: [number, number] = [(one.from[0] + one.to[0]) / 2, (one.from[1] + one.to[1]) / 2]
    const steps = [0, 1, -1, 2, -2, 3, -3]
    const at = steps
      .map((k): [number, number] => [middle[0] + k * 4, middle[1] + k * LABEL.height])
      .find(([x, y]) => taken.every(([u, v]) => Math.abs(u - x) > LABEL.width || Math.abs(v - y) >= LABEL.height))
    taken.push(at ?? middle)
    return { ...one, at: at ?? middle }
  })
}
const LABEL = { width: 52, height: 19 }
function show() {
  view.value?.show(
    props.scene,
    inks(),
    props.picked,
    props.colourOf,
    props.hidden,
    props.pieces,
    isFirst && props.scene.faces.length > 0,
    props.month,
  )
  if (props.scene.faces.length) isFirst = false
  view.value?.light(props.sun)
  draw()
}
onMounted(() => {
  try {
    view.value = new SheetView(canvas.value!)
  } catch {
    fault.value = 'This browser draws no WebGL2. The plan and the elevation below show the scene.'
    return
  }
  observer = new ResizeObserver(([entry]) => {
    view.value?.resize(entry!.contentRect.width, entry!.contentRect.height)
    draw()
  })
  observer.observe(host.value!)
  view.value.insets = props.insets
  view.value.resize(host.value!.clientWidth, host.value!.clientHeight)
  show()
  if (props.picture) void view.value.picture(props.picture.url, props.picture.corners).then(draw)
})
onBeforeUnmount(() => {
  observer?.disconnect()
  cancelAnimationFrame(frame)
  view.value?.close()
})
watch(
  () => [
    props.scene,
    props.month,
    props.picked,
    props.colourKey,
    props.pieces,
    theme.dark.value,
    [...props.hidden].join(),
  ],
  show,
)
watch(
  () => props.sun,
  () => {
    view.value?.light(props.sun)
    draw()
  },
)
watch(() => [props.dimensions, props.handles, props.marks, props.lines], draw)

watch(
  () => props.picture?.url,
  async (url) => {
    await view.value?.picture(url ?? null, props.picture?.corners ?? [])
    draw()
  },
)
const { line, hint, isClicking, over, click } = useTracing(
  view,
  () => props.tracing,
  turned,
  (corners) => emit('trace', corners),
)
watch(
  () => props.tracing,
  (isOn) => isOn && look(180, 89),
)
const laid = useLaying(view, () => props.laying, turned)
const drawn = useStringDrawing(view, () => props.stringing)
const middleOfModule = (id: string) => {
  const layout = props.scene.layouts.find((l) => l.surface === props.stringing)
  return middleOf(layout?.modules.find((m) => m.id === id)?.corners ?? [])
}
const ways = computed(() => {
  if (!view.value || turned.value < 0) return []
  const some = drawn.path.value.length ? [...props.lines, drawn.path.value.map(middleOfModule)] : props.lines
  return some.map((points) => points.map((p) => view.value!.project(p).join()).join(' '))
})

/** Within so many pixels things snap to one another. */
const SNAP_PX = 9
/** A press that moves less is a click. */
const CLICK_PX = 4
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
  if (isClicking(event)) {
    click(x, y)
    return
  }
  if (event.button === 0 && !event.altKey && (drawn.begin(x, y) || laid.begin(x, y))) {
    ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
    return
  }
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
  if (mode === 'move') emit('grab')
}
function moved(event: PointerEvent) {
  const v = view.value
  if (!v) return
  const [x, y] = spot(event)
  if (drawn.go(x, y) || laid.go(x, y)) return
  if (props.tracing && !held) {
    over(x, y)
    return
  }
  if (!held) {
    const hit = v.pick(x, y)
    emit('hover', hit?.module && hit.surface ? { surface: hit.surface, module: hit.module } : null)
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
    emit('drag', now[0] - held.start[0], now[1] - held.start[1], event.altKey, SNAP_PX * v.metresPerPixel())
  } else if (held.handle?.kind === 'turn') {
    const now = v.level(x, y, held.z)
    const { centre } = held.handle
    // The handle lies behind the thing: its front faces the other way.
    emit('turn', (Math.atan2(centre[0] - now[0], centre[1] - now[1]) * 180) / Math.PI, event.altKey)
  } else if (held.handle) {
    const [px, py, pz] = held.handle.at
    const up = v.project([px, py, pz])[1] - v.project([px, py, pz + 1])[1]
    emit('raise', held.handle.pointer, held.handle.value - dy / Math.max(up, 1), event.altKey)
  }
}
/** A handle is taken hold of: what it changes follows the pointer. */
function take(event: PointerEvent, handle: Handle) {
  if (!view.value || event.button !== 0) return
  const [x, y] = spot(event)
  held = { x, y, mode: 'handle', handle, z: handle.at[2], start: [0, 0], hit: null }
  host.value!.setPointerCapture(event.pointerId)
  emit('grab')
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
  const modules = drawn.end()
  if (modules.length) emit('string', modules)
  const area = laid.end()
  if (area) emit('lay', area)
  if (!held) return
  if (held.mode === 'press' || (held.mode === 'move' && !held.isDragged))
    emit('pick', held.hit, event.shiftKey || event.ctrlKey || event.metaKey)
  if (held.mode === 'move' || held.mode === 'handle') emit('drop')
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
function turn(by: number) {
  if (!view.value) return
  view.value.azimuth = (view.value.azimuth + by + 360) % 360
  draw()
}
function look(azimuth: number, elevation: number) {
  if (!view.value) return
  view.value.azimuth = azimuth
  view.value.elevation = elevation
  view.value.frame()
  draw()
}
/** Square to a face, which fills the sheet. */
function lookAt(face: SceneAnswer['faces'][number]) {
  view.value?.frameFace(face.outline as Point[], face.tilt < 1 ? 180 : face.azimuth, Math.min(89, 90 - face.tilt))
  draw()
}
const save = () => {
  const link = document.createElement('a')
  link.href = view.value?.asImage() ?? ''
  link.download = 'scene.png'
  link.click()
}
/** The whole scene, as one looks at it now. */
function fit() {
  view.value?.frame()
  draw()
}
watch(
  () => props.insets,
  (insets) => {
    if (!view.value) return
    view.value.insets = insets
    if (view.value.isFitted) fit()
  },
)
defineExpose({ turn, look, lookAt, fit, save })
const arrow = computed(() => `rotate(${north.value})`)
</script>
<template>
  <div
    ref="host"
    class="sheet"
    @pointerdown="down"
    @pointermove="moved"
    @pointerup="up"
    @pointercancel="(rest(), laid.end(), drawn.end())"
    @wheel="wheel"
    @contextmenu.prevent
  >
    <canvas ref="canvas" role="img" :aria-label="`Axonometric drawing of the scene, ${scene.faces.length} faces`" />
    <p v-if="fault" class="soft fault">{{ fault }}</p>
    <svg class="over">
      <polyline v-if="tracing" :points="line" />
      <polygon :points="laid.corners.value" />
      <polyline v-for="(way, i) in ways" :key="i" :points="way" class="way" />
      <text v-for="(t, i) in texts" :key="i" :x="t.x" :y="t.y + 3">{{ t.text }}</text>
      <g v-for="d in places" :key="d.pointer">
        <path :d="`M${d.from}L${d.to}`" />
        <circle :cx="d.from[0]" :cy="d.from[1]" r="2.2" />
        <circle :cx="d.to[0]" :cy="d.to[1]" r="2.2" />
      </g>
      <g
        v-for="g in grips"
        :key="g.handle.kind"
        class="grip"
        :class="g.handle.kind"
        @pointerdown.stop="take($event, g.handle)"
      >
        <title>
          {{ g.handle.kind === 'turn' ? 'Drag to turn; [ and ] turn by 5°' : 'Drag to raise; Page Up and Page Down' }}
        </title>
        <path v-if="g.handle.kind === 'turn'" :d="`M${g.from}L${g.at}`" class="stem" />
        <circle :cx="g.at[0]" :cy="g.at[1]" r="11" class="area" />
        <path
          :d="
            g.handle.kind === 'turn'
              ? `M${g.at[0] - 5},${g.at[1] + 3}a5.5,5.5 0 1 1 10,0m0,0l-3.4,-1m3.4,1l.6,-3.6`
              : `M${g.at[0]},${g.at[1] + 7}v-14m-3.2,3.6l3.2,-3.8l3.2,3.8m-6.4,6.8l3.2,3.8l3.2,-3.8`
          "
        />
      </g>
    </svg>
    <DimensionLabel
      v-for="d in places"
      :key="d.pointer"
      :label="d.label"
      :pointer="d.pointer"
      :value="d.value"
      :unit="d.unit"
      :x="d.at[0]"
      :y="d.at[1]"
      @change="emit('resize', d.pointer, $event)"
    />
    <p v-if="tracing" class="hint" role="status">
      {{ hint.words }} <b>{{ hint.measured }}</b>
    </p>
    <p v-else-if="lock" class="hint" role="status">{{ lock }}</p>
    <p v-else-if="stringing" class="hint" role="status">
      Draw from module to module{{ drawn.path.value.length ? ` (${drawn.path.value.length})` : '' }}: the first has the
      positive end. Esc leaves.
    </p>
    <p v-else-if="props.laying" class="hint" role="status">
      Click the face for one module, drag along it for a row, drag over an area to fill it. Esc leaves.
    </p>
    <button
      type="button"
      class="north"
      aria-label="North arrow: turn the sheet by 45°"
      title="Turn the sheet"
      @pointerdown.stop
      @click="turn(45)"
    >
      <svg width="34" height="34" viewBox="-17 -17 34 34">
        <g :transform="arrow">
          <path d="M0 13V-12M-4.5 -4 0 -13 4.5 -4" fill="none" stroke="currentColor" stroke-width="1.3" />
          <path d="M-5 6H5" stroke="currentColor" />
        </g>
      </svg>
      <span>N</span>
    </button>
  </div>
</template>
<style scoped>
.sheet {
  position: relative;
  touch-action: none;
  overflow: hidden;
  cursor: grab;
}
.sheet:active {
  cursor: grabbing;
}
canvas {
  width: 100%;
  height: 100%;
  display: block;
}
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.over path {
  stroke: var(--current);
  fill: none;
}
.over text {
  font-size: 9.5px;
  font-weight: 600;
  text-anchor: middle;
  fill: #1b2a3a;
}
.over polyline,
.over polygon {
  fill: none;
  stroke: var(--current);
  stroke-width: 1.6px;
}
.hint {
  position: absolute;
  left: 50%;
  transform: translateX(-50%);
  bottom: 6px;
  white-space: nowrap;
  border-radius: 5px;
  box-shadow: var(--shadow);
  margin: 0;
  background: var(--sheet);
  padding: 2px 6px;
  font-size: 12px;
}
.over .way {
  stroke: #1b2a3a;
  stroke-width: 1px;
  opacity: 0.6;
}
.over circle {
  fill: var(--current);
}
.grip {
  pointer-events: auto;
  cursor: grab;
}
.grip .area {
  fill: transparent;
}
.grip path {
  stroke-width: 1.5px;
}
.grip .stem {
  stroke-dasharray: 2 3;
  stroke-width: 1px;
}
.grip:hover .area {
  fill: var(--sheet);
}
.north {
  position: absolute;
  right: 4px;
  bottom: 4px;
  color: var(--ink);
  display: grid;
  justify-items: center;
  font-size: 10px;
  line-height: 1;
  cursor: pointer;
}
.fault {
  position: absolute;
  inset: 40% 10% auto;
  text-align: center;
}
</style>
