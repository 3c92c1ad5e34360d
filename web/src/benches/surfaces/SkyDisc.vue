<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { contours } from 'd3-contour'
import type { OrientationAnswer } from '@/api/client'
import type { SurfaceView } from '@/stores/useScheme'
import { rampColour } from '@/theme/ramp'
import { facing, number, signed } from '@/theme/format'

/** The disc of facings: tilt outward, azimuth round; what each is worth, and the surfaces as handles to drag. */
const props = defineProps<{
  map: OrientationAnswer | null
  worth: (tilt: number, azimuth: number) => number
  surfaces: SurfaceView[]
  picked: string
  horizon: { azimuth: number; elevation: number }[]
}>()
const emit = defineEmits<{ pick: [id: string]; turn: [id: string, tilt: number, azimuth: number]; done: [] }>()
const R = 196,
  C = 262,
  CY = 252
const LEVELS = [-0.02, -0.05, -0.1, -0.2, -0.35, -0.5]
const canvas = ref<HTMLCanvasElement>()
const dragging = ref<string | null>(null)
const at = (tilt: number, azimuth: number): [number, number] => {
  const a = (azimuth * Math.PI) / 180
  return [C + ((R * tilt) / 90) * Math.sin(a), CY - ((R * tilt) / 90) * Math.cos(a)]
}
const share = (value: number) => (props.map ? (value / props.map.best - 0.3) / 0.7 : 0)

function paint() {
  const g = canvas.value?.getContext('2d')
  if (!g || !props.map) return
  const size = 2 * R
  const image = new ImageData(size, size)
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const [dx, dy] = [x + 0.5 - R, R - y - 0.5]
      const r = Math.hypot(dx, dy)
      if (r > R) continue
      const colour = rampColour(share(props.worth((r / R) * 90, (Math.atan2(dx, dy) * 180) / Math.PI)))
      image.data.set([...colour, r > R - 1 ? 255 * (R - r) : 255], (y * size + x) * 4)
    }
  }
  g.putImageData(image, 0, 0)
}
watch(() => props.map, paint)
onMounted(paint)

/** Isolines are found on the grid of tilt and azimuth, wrapped once over north, and bent onto the disc. */
const lines = computed(() => {
  const m = props.map
  if (!m) return []
  const width = m.azimuths.length + 1
  const values = m.irradiation.flatMap((row) => [...row, row[0]!].map((v) => v / m.best - 1))
  const found = contours().size([width, m.tilts.length]).smooth(true).thresholds(LEVELS)(values)
  const [dt, da] = [m.tilts[1]! - m.tilts[0]!, m.azimuths[1]! - m.azimuths[0]!]
  return found.map((contour) => {
    const level = contour.value
    let label: { x: number; y: number } | null = null
    let path = ''
    let nearest = 0.3
    for (const polygon of contour.coordinates)
      for (const ring of polygon) {
        let pen = false
        for (const [gx, gy] of ring as [number, number][]) {
          const [tilt, azimuth] = [(gy - 0.5) * dt, (gx - 0.5) * da]
          const inside = tilt > 0.4 && tilt < 89.6 && azimuth > 0.01 && azimuth < 359.99
          if (!inside) {
            pen = false
            continue
          }
          const [x, y] = at(tilt, azimuth)
          path += `${pen ? 'L' : 'M'}${x.toFixed(1)} ${y.toFixed(1)}`
          pen = true
          // Labels stand in a row from the best facing outward, away from the handles' own.
          const [bx, by] = at(m.best_tilt, m.best_azimuth)
          const off = Math.abs(Math.atan2(y - by, x - bx) - (by < CY ? -0.9 : 0.9))
          if (off < nearest && Math.hypot(x - bx, y - by) > 12) {
            nearest = off
            label = { x, y }
          }
        }
      }
    return { level, path, label: label as { x: number; y: number } | null }
  })
})
const skyline = computed(() => {
  const points = [...props.horizon].sort((a, b) => a.azimuth - b.azimuth)
  if (!points.length) return ''
  const height = (azimuth: number) => {
    const next = points.findIndex((p) => p.azimuth >= azimuth)
    const b = points[next < 0 ? 0 : next]!
    const a = points[next <= 0 ? points.length - 1 : next - 1]!
    const span = (b.azimuth - a.azimuth + 360) % 360 || 360
    return a.elevation + ((b.elevation - a.elevation) * ((azimuth - a.azimuth + 360) % 360)) / span
  }
  let path = ''
  for (let azimuth = 0; azimuth <= 360; azimuth += 3) {
    const r = R + 5 + height(azimuth % 360) * 1.6
    const a = (azimuth * Math.PI) / 180
    path += `${azimuth ? 'L' : 'M'}${(C + r * Math.sin(a)).toFixed(1)} ${(CY - r * Math.cos(a)).toFixed(1)}`
  }
  return `${path}Z M${C} ${CY - R - 5}A${R + 5} ${R + 5} 0 1 0 ${C + 0.01} ${CY - R - 5}Z`
})
const pins = computed(() => {
  const placed: { y: number; left: boolean }[] = []
  return props.surfaces.map((surface) => {
    const [x, y] = at(surface.tilt, surface.azimuth)
    const left = x < C
    let ly = y - 26
    for (const other of placed.filter((p) => p.left === left).sort((a, b) => b.y - a.y))
      if (Math.abs(ly - other.y) < 18) ly = other.y - 19
    placed.push({ y: ly, left })
    return { surface, x, y, lx: left ? x - 34 : x + 34, ly, left }
  })
})

const svg = ref<SVGSVGElement>()
function fromPointer(event: PointerEvent): [number, number] {
  const box = svg.value!.getBoundingClientRect()
  const scale = 524 / box.width
  const [dx, dy] = [(event.clientX - box.left) * scale - C, CY - (event.clientY - box.top) * scale]
  const tilt = Math.min(90, Math.round((Math.hypot(dx, dy) / R) * 90))
  let azimuth = Math.round(((Math.atan2(dx, dy) * 180) / Math.PI + 360) % 360) % 360
  const snap = [0, 90, 180, 270].find((a) => Math.abs(a - azimuth) <= 2)
  if (snap !== undefined) azimuth = snap
  return [tilt, azimuth]
}
function down(event: PointerEvent, id: string) {
  dragging.value = id
  svg.value!.setPointerCapture(event.pointerId)
  emit('pick', id)
}
function move(event: PointerEvent) {
  if (dragging.value) emit('turn', dragging.value, ...fromPointer(event))
}
function up() {
  if (dragging.value) emit('done')
  dragging.value = null
}
function keys(event: KeyboardEvent, surface: SurfaceView) {
  const by = event.shiftKey ? 10 : 1
  const turn = { ArrowUp: [by, 0], ArrowDown: [-by, 0], ArrowLeft: [0, -by], ArrowRight: [0, by] }[event.key]
  if (!turn) return
  event.preventDefault()
  emit('turn', surface.id, Math.max(0, Math.min(90, surface.tilt + turn[0]!)), (surface.azimuth + turn[1]! + 360) % 360)
  emit('done')
}
</script>
<template>
  <div class="disc">
    <canvas
      ref="canvas"
      :width="2 * R"
      :height="2 * R"
      :style="{
        left: `${((C - R) / 524) * 100}%`,
        top: `${((CY - R) / 500) * 100}%`,
        width: `${((2 * R) / 524) * 100}%`,
      }"
      aria-hidden="true"
    />
    <svg ref="svg" viewBox="0 0 524 500" @pointermove="move" @pointerup="up" @pointercancel="up">
      <circle
        v-for="tilt in [30, 60, 90]"
        :key="tilt"
        :cx="C"
        :cy="CY"
        :r="(R * tilt) / 90"
        fill="none"
        stroke="#fff"
        stroke-opacity=".4"
        stroke-dasharray="1.5 4"
      />
      <text
        v-for="tilt in [30, 60]"
        :key="`t${tilt}`"
        :x="C + 4"
        :y="CY - (R * tilt) / 90 + 11"
        font-size="10"
        style="fill: #fff"
        opacity=".85"
      >
        {{ tilt }}°
      </text>
      <g v-for="line in lines" :key="line.level">
        <path :d="line.path" fill="none" stroke="#12222e" stroke-opacity=".6" stroke-width=".9" />
        <g v-if="line.label">
          <rect
            :x="line.label.x - 17"
            :y="line.label.y - 8"
            width="34"
            height="14"
            rx="3"
            fill="#fffdf8"
            opacity=".85"
          />
          <text :x="line.label.x" :y="line.label.y + 3" font-size="10" text-anchor="middle" style="fill: #1b2a3a">
            {{ signed(line.level * 100) }} %
          </text>
        </g>
      </g>
      <path v-if="skyline" :d="skyline" fill="var(--haze)" fill-opacity=".6" fill-rule="evenodd">
        <title>The horizon: height of the skyline</title>
      </path>
      <text
        v-for="(name, i) in ['N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW']"
        :key="name"
        :x="C + 230 * Math.sin((i * Math.PI) / 4)"
        :y="CY - 230 * Math.cos((i * Math.PI) / 4) + 4"
        text-anchor="middle"
        :font-size="i % 2 ? 10.5 : 13"
        :font-weight="i % 2 ? 400 : 600"
      >
        {{ name }}
      </text>
      <g v-if="map">
        <path
          :d="`M${at(map.best_tilt, map.best_azimuth)[0] - 7} ${at(map.best_tilt, map.best_azimuth)[1]}h14m-7 -7v14`"
          stroke="#12222e"
          stroke-width="1.7"
        />
        <title>The best facing: {{ number(map.best_tilt) }}°, {{ facing(map.best_azimuth) }}</title>
      </g>
      <g v-for="pin in pins" :key="pin.surface.id">
        <path :d="`M${pin.x} ${pin.y}L${pin.lx} ${pin.ly}`" stroke="#12222e" />
        <g
          tabindex="0"
          role="slider"
          class="handle"
          :aria-label="`${pin.surface.name}: arrow keys change tilt and facing`"
          aria-valuemin="0"
          aria-valuemax="90"
          :aria-valuenow="pin.surface.tilt"
          :aria-valuetext="`tilt ${pin.surface.tilt}°, facing ${facing(pin.surface.azimuth)}`"
          @pointerdown.prevent="down($event, pin.surface.id)"
          @keydown="keys($event, pin.surface)"
          @focus="emit('pick', pin.surface.id)"
        >
          <circle :cx="pin.x" :cy="pin.y" r="15" fill="transparent" />
          <circle
            :cx="pin.x"
            :cy="pin.y"
            :r="pin.surface.id === picked ? 9 : 7.5"
            :fill="pin.surface.id === picked ? '#2F5D8C' : '#1b2a3a'"
            stroke="#fffdf8"
            stroke-width="2"
          />
        </g>
        <g class="tag">
          <rect
            :x="pin.left ? pin.lx - pin.surface.name.length * 6.4 - 10 : pin.lx"
            :y="pin.ly - 9"
            :width="pin.surface.name.length * 6.4 + 10"
            height="18"
            rx="4"
            fill="#fffdf8"
            opacity=".9"
          />
          <text
            :x="pin.left ? pin.lx - 5 : pin.lx + 5"
            :y="pin.ly + 4"
            font-size="11.5"
            font-weight="600"
            :text-anchor="pin.left ? 'end' : 'start'"
            style="fill: #1b2a3a"
          >
            {{ pin.surface.name }}
          </text>
        </g>
      </g>
    </svg>
  </div>
</template>
<style scoped>
.disc {
  position: relative;
  width: 100%;
  max-width: 524px;
  aspect-ratio: 524 / 500;
}
canvas {
  position: absolute;
  aspect-ratio: 1;
}
svg {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
}
.handle {
  cursor: grab;
}
.handle:focus-visible {
  outline: none;
}
.handle:focus-visible circle:last-child {
  stroke: #e3ac3b;
  stroke-width: 3;
}
.tag {
  pointer-events: none;
}
</style>
