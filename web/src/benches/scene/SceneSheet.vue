<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { SceneAnswer } from '@/api/client'
import { useTheme } from '@/theme/useTheme'
import DimensionLabel from './DimensionLabel.vue'
import type { Dimension } from './dimensions'
import { snapped, type Level } from './placing'
import { SheetView, type Inks, type Piece, type Sun } from './sheetView'

/** The drafting sheet: the scene in axonometry, its shadows, and the dimensions of what is picked. */
const props = defineProps<{
  scene: SceneAnswer
  picked: string
  sun: Sun | null
  colourOf: (surface: string, module: string) => string | null
  colourKey: string
  dimensions: (Dimension & { value: number })[]
  hidden: Set<string>
  pieces: Piece[]
  /** Texts on the drawing, such as the numbers of strings. */
  marks: { text: string; at: [number, number, number] }[]
  movable: boolean
  /** The user's own picture on the ground. */
  picture: { url: string; corners: Level[] } | null
  /** Whether clicks on the ground trace an outline. */
  tracing: boolean
}>()
const emit = defineEmits<{
  pick: [hit: { solid: string; face: string; module?: string; surface?: string } | null, adds: boolean]
  grab: []
  drag: [dx: number, dy: number, fine: boolean]
  drop: []
  hover: [hit: { surface: string; module: string } | null]
  resize: [pointer: string, value: number]
  trace: [corners: Level[] | null]
}>()
const theme = useTheme()
const host = ref<HTMLDivElement>()
const canvas = ref<HTMLCanvasElement>()
const view = shallowRef<SheetView | null>(null)
const places = ref<
  { pointer: string; label: string; unit: 'm' | '°'; value: number; from: [number, number]; to: [number, number] }[]
>([])
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
    if (props.tracing) drawLine()
    texts.value = props.marks.map((m) => {
      const [x, y] = v.project(m.at)
      return { text: m.text, x, y }
    })
    places.value = props.dimensions.map((d) => ({ ...d, from: v.project(d.from), to: v.project(d.to) }))
  })
}
function show() {
  view.value?.show(
    props.scene,
    inks(),
    props.picked,
    props.colourOf,
    props.hidden,
    props.pieces,
    isFirst && props.scene.faces.length > 0,
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
  () => [props.scene, props.picked, props.colourKey, props.pieces, theme.dark.value, [...props.hidden].join()],
  show,
)
watch(
  () => props.sun,
  () => {
    view.value?.light(props.sun)
    draw()
  },
)
watch(() => [props.dimensions, props.marks], draw)

watch(
  () => props.picture?.url,
  async (url) => {
    await view.value?.picture(url ?? null, props.picture?.corners ?? [])
    draw()
  },
)
const traced = ref<Level[]>([])
const ahead = ref<Level | null>(null)
const lock = ref('')
const line = ref('')
/** Length of the edge under the pointer and area of what is traced so far, so that tracing measures too. */
const measured = ref('')
watch(
  () => props.tracing,
  (isOn) => {
    traced.value = []
    ahead.value = null
    if (isOn) look(180, 89)
    else drawLine()
  },
)
function drawLine() {
  const v = view.value
  const points = [...traced.value, ...(ahead.value && traced.value.length ? [ahead.value] : [])]
  const [from, to] = points.slice(-2)
  const edge = from && to ? `edge ${Math.hypot(to[0] - from[0], to[1] - from[1]).toFixed(2)} m` : ''
  const area = Math.abs(
    points.reduce((sum, [x, y], i) => {
      const [nx, ny] = points[(i + 1) % points.length]!
      return sum + (x * ny - nx * y) / 2
    }, 0),
  )
  measured.value = [edge, points.length > 2 ? `area ${area.toFixed(1)} m²` : ''].filter(Boolean).join(', ')
  line.value = v
    ? points
        .map(([x, y]) =>
          v
            .project([x, y, 0])
            .map((p) => p.toFixed(1))
            .join(),
        )
        .join(' ')
    : ''
}
/** How near in metres counts as on a corner. */
const reach = () => {
  const v = view.value!
  const [a, b] = [v.level(0, 0, 0), v.level(12, 0, 0)]
  return Math.hypot(b[0] - a[0], b[1] - a[1])
}
function traceTo(x: number, y: number, isClick: boolean) {
  const found = snapped(traced.value, view.value!.level(x, y, 0), reach())
  lock.value = found.lock
  ahead.value = found.corner
  if (isClick) {
    if (found.isClosed) return finish()
    traced.value = [...traced.value, found.corner]
  }
  drawLine()
}
function finish() {
  emit('trace', traced.value.length > 2 ? traced.value : null)
}
function traceKey(event: KeyboardEvent) {
  if (!props.tracing) return
  if (event.key === 'Enter') finish()
  else if (event.key === 'Escape') emit('trace', null)
  else if (event.key === 'Backspace') traced.value = traced.value.slice(0, -1)
  else return
  drawLine()
  event.preventDefault()
  event.stopPropagation()
}
onMounted(() => window.addEventListener('keydown', traceKey, true))
onBeforeUnmount(() => window.removeEventListener('keydown', traceKey, true))

let held: {
  x: number
  y: number
  mode: 'turn' | 'pan' | 'move' | 'press'
  z: number
  start: [number, number]
  hit: ReturnType<SheetView['pick']>
} | null = null
const spot = (event: PointerEvent | WheelEvent): [number, number] => {
  const box = host.value!.getBoundingClientRect()
  return [event.clientX - box.left, event.clientY - box.top]
}
function down(event: PointerEvent) {
  const v = view.value
  if (!v) return
  const [x, y] = spot(event)
  if (props.tracing && event.button === 0 && !event.altKey) {
    traceTo(x, y, true)
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
  if (props.tracing && !held) {
    traceTo(x, y, false)
    return
  }
  if (!held) {
    const hit = v.pick(x, y)
    emit('hover', hit?.module && hit.surface ? { surface: hit.surface, module: hit.module } : null)
    return
  }
  const [dx, dy] = [x - held.x, y - held.y]
  if (held.mode === 'press' && Math.hypot(dx, dy) > 4) held.mode = 'turn'
  if (held.mode === 'turn') {
    v.azimuth = (v.azimuth + dx * 0.35 + 360) % 360
    v.elevation = Math.max(8, Math.min(89, v.elevation + dy * 0.25))
    ;[held.x, held.y] = [x, y]
    draw()
  } else if (held.mode === 'pan') {
    v.pan(dx, dy)
    ;[held.x, held.y] = [x, y]
    draw()
  } else if (held.mode === 'move') {
    const now = v.level(x, y, held.z)
    emit('drag', now[0] - held.start[0], now[1] - held.start[1], event.altKey)
  }
}
function up(event: PointerEvent) {
  if (!held) return
  if (held.mode === 'press') emit('pick', held.hit, event.shiftKey || event.ctrlKey || event.metaKey)
  if (held.mode === 'move') emit('drop')
  held = null
}
function wheel(event: WheelEvent) {
  if (!view.value) return
  event.preventDefault()
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
const save = () => {
  const link = document.createElement('a')
  link.href = view.value?.asImage() ?? ''
  link.download = 'scene.png'
  link.click()
}
defineExpose({
  turn,
  look,
  save,
  offset: (ids: string[], dx: number, dy: number) => (view.value?.offset(ids, dx, dy), draw()),
})
const arrow = computed(() => `rotate(${north.value})`)
</script>
<template>
  <div
    ref="host"
    class="sheet"
    @pointerdown="down"
    @pointermove="moved"
    @pointerup="up"
    @pointercancel="held = null"
    @wheel="wheel"
    @contextmenu.prevent
  >
    <canvas ref="canvas" role="img" :aria-label="`Axonometric drawing of the scene, ${scene.faces.length} faces`" />
    <p v-if="fault" class="soft fault">{{ fault }}</p>
    <svg class="over" aria-hidden="true">
      <polyline v-if="tracing" :points="line" />
      <text v-for="(t, i) in texts" :key="i" :x="t.x" :y="t.y + 3">{{ t.text }}</text>
      <g v-for="d in places" :key="d.pointer">
        <path :d="`M${d.from}L${d.to}`" />
        <circle :cx="d.from[0]" :cy="d.from[1]" r="2.2" />
        <circle :cx="d.to[0]" :cy="d.to[1]" r="2.2" />
      </g>
    </svg>
    <DimensionLabel
      v-for="d in places"
      :key="d.pointer"
      :label="d.label"
      :pointer="d.pointer"
      :value="d.value"
      :unit="d.unit"
      :x="(d.from[0] + d.to[0]) / 2"
      :y="(d.from[1] + d.to[1]) / 2"
      @change="emit('resize', d.pointer, $event)"
    />
    <p v-if="tracing" class="hint" role="status">
      Click the corners of the outline{{ traced.length ? ` (${traced.length})` : '' }}; the first corner or Enter closes
      it, Backspace takes one back, Esc leaves.
      <b>{{ [measured, lock].filter(Boolean).join(', ') }}</b>
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
.over polyline {
  fill: none;
  stroke: var(--current);
  stroke-width: 1.6px;
}
.hint {
  position: absolute;
  left: 0;
  top: 0;
  margin: 0;
  background: var(--sheet);
  padding: 2px 6px;
  font-size: 12px;
}
.over circle {
  fill: var(--current);
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
