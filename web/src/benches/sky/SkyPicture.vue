<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import type { ObstaclesAnswer, SunPathsAnswer } from '@/api/client'
import { rampCss } from '@/theme/ramp'
import { azimuthWords, MONTHS, number } from '@/theme/format'
import {
  DAYS_21,
  fieldsOf,
  groundUnder,
  pathOf,
  planeEdge,
  shapeOf,
  sunAt,
  turn,
  wholeLine,
  worthCells,
  type Point,
  type Direction,
  type Field,
  type Projection,
} from './skyGeometry'
import type { PlacedPhoto } from './lens'

/** The sky over the site: the sun's paths, what hides it, the hours by what they bring, and the moment's sun. */
const props = defineProps<{
  projection: Projection
  paths: SunPathsAnswer
  horizon: Direction[]
  obstacles: ObstaclesAnswer['obstacles']
  names: Record<string, string>
  picked: string
  /** Plane-of-array irradiance of every interval, or none. */
  irradiance: ArrayLike<number> | null
  surface: { tilt: number; azimuth: number; motion: string | null } | null
  layers: Record<'hours' | 'irradiation' | 'horizon' | 'plane', boolean>
  clock: 'clock' | 'solar'
  day: number
  hour: number
  mode: 'look' | 'draw' | 'fields'
  /** Fields counted as shaded, by band and hour. */
  isShaded: (field: Field) => boolean
  photo: PlacedPhoto | null
}>()
const emit = defineEmits<{
  scrub: [hour: number]
  step: [days: number, hours: number]
  draw: [line: Direction[]]
  pick: [id: string]
  move: [id: string, change: { turn: number; rise: number }]
  moved: [id: string]
  field: [field: Field]
}>()
const svg = useTemplateRef<SVGSVGElement>('svg')
defineExpose({ svg })
const days = computed(() => props.paths.noon.length)
const start = computed(() => (props.projection.kind === 'unrolled' ? props.projection.under([26.01, 100])!.azimuth : 0))

const cells = computed(() => {
  if (!props.layers.irradiation || !props.irradiance) return []
  const found = worthCells(props.paths, props.irradiance)
  const most = Math.max(1, ...found.map((c) => c.value))
  return found
    .map((c) => ({ d: shapeOf(c.corners, props.projection), fill: rampCss(c.value / most), value: c.value }))
    .filter((c) => c.d)
})
const most = computed(() => Math.max(0, ...cells.value.map((c) => c.value)))
/** The sun crosses the same sky twice: seven paths stand for the year. Those at the solstices keep their words where room is short. */
const months = computed(() => {
  const taken: Point[] = []
  const isPolar = props.projection.kind === 'polar'
  return [5, 11, 2, 3, 1, 4, 0].map((m) => {
    const day = DAYS_21[m]!
    const directions = Array.from({ length: 145 }, (_, i) => sunAt(props.paths, day, i / 6))
    const words = m === 11 || m === 5 ? `21 ${MONTHS[m]}` : `21 ${MONTHS[m]}, ${MONTHS[(22 - m) % 12]}`
    const up = directions.filter((d) => d.elevation > 0)
    // Polar words stand where the sun sets, clear of the west itself; unrolled ones under the top of the path.
    const at = isPolar ? up.at(-1) : up[Math.floor(up.length / 2)]
    let label: Point | null = null
    if (at) {
      const [x, y] = props.projection.place(isPolar ? { ...at, elevation: 0 } : at)
      const isWest = isPolar && Math.abs(at.azimuth - 270) < 4
      const free: Point = isPolar ? [x - 6, y + (isWest ? 18 : 3)] : [x, y + 12]
      if (taken.every(([tx, ty]) => Math.abs(ty - free[1]) > 11 || Math.abs(tx - free[0]) > 90)) {
        label = free
        taken.push(free)
      }
    }
    return { path: pathOf(directions, props.projection), words, label }
  })
})
const hours = computed(() => {
  if (!props.layers.hours) return []
  const shift = (day: number) => (props.clock === 'solar' ? props.paths.noon[day]! - 12 : 0)
  return Array.from({ length: 24 }, (_, h) => {
    const directions: Direction[] = []
    for (let d = 0; d <= days.value; d += 4) {
      const day = d % days.value
      directions.push(sunAt(props.paths, day, Math.max(0, Math.min(23.99, h + shift(day)))))
    }
    const summit = directions.reduce((a, b) => (b.elevation > a.elevation ? b : a))
    return {
      h,
      path: pathOf(directions, props.projection),
      label:
        summit.elevation > 2
          ? props.projection.place({ ...summit, elevation: Math.min(summit.elevation + 3, 89) })
          : null,
    }
  }).filter((line) => line.path)
})
const dayPath = computed(() =>
  pathOf(
    Array.from({ length: 145 }, (_, i) => sunAt(props.paths, props.day, i / 6)),
    props.projection,
  ),
)
const sun = computed(() => sunAt(props.paths, props.day, props.hour))
const sunPoint = computed(() => props.projection.place({ ...sun.value, elevation: Math.max(0, sun.value.elevation) }))
const ground = computed(() => groundUnder(wholeLine(props.horizon, start.value), props.projection))
const edge = computed(() =>
  props.layers.plane && props.surface && !props.surface.motion
    ? pathOf(planeEdge(props.surface.tilt, props.surface.azimuth), props.projection)
    : '',
)
const directionsOf = (line: { azimuths: number[]; elevations: number[] }): Direction[] =>
  line.azimuths.map((azimuth, i) => ({ azimuth: turn(azimuth), elevation: line.elevations[i]! }))
const things = computed(() =>
  Object.entries(props.obstacles).map(([id, lines]) => {
    const high = dense(directionsOf(lines.highest))
    const summit = high.reduce((a, b) => (b.elevation > a.elevation ? b : a), { azimuth: 0, elevation: 0 })
    return {
      id,
      shape: groundUnder(high, props.projection),
      low: lines.is_near ? groundUnder(dense(directionsOf(lines.lowest)), props.projection) : '',
      isNear: lines.is_near,
      label: props.projection.place({ azimuth: summit.azimuth, elevation: Math.min(86, summit.elevation + 3) }),
      words: `${props.names[id] ?? id}: up to ${number(summit.elevation, 1)}° at ${azimuthWords(Math.round(summit.azimuth))}`,
    }
  }),
)
/** Long edges bend in the polar picture. */
function dense(line: Direction[]): Direction[] {
  return line.flatMap((p, i) => {
    const next = line[i + 1]
    if (!next) return [p]
    const span = ((next.azimuth - p.azimuth + 540) % 360) - 180
    const steps = Math.max(1, Math.ceil(Math.abs(span) / 3))
    return Array.from({ length: steps }, (_, k) => ({
      azimuth: turn(p.azimuth + (span * k) / steps),
      elevation: p.elevation + ((next.elevation - p.elevation) * k) / steps,
    }))
  })
}
const fields = computed(() =>
  props.mode === 'fields'
    ? fieldsOf(props.paths)
        .map((field) => ({ field, d: shapeOf(field.corners, props.projection) }))
        .filter((f) => f.d)
    : [],
)
const rings = computed(() => {
  const circle = (elevation: number) =>
    Array.from({ length: 121 }, (_, i) => ({ azimuth: turn(start.value + Math.min(359.99, i * 3)), elevation }))
  return [15, 30, 45, 60, 75]
    .filter((e) => e < props.projection.top)
    .map((elevation) => ({ elevation, path: pathOf(circle(elevation), props.projection) }))
})
const level = computed(() =>
  pathOf(
    Array.from({ length: 181 }, (_, i) => ({ azimuth: turn(start.value + Math.min(359.99, i * 2)), elevation: 0 })),
    props.projection,
  ),
)
const compass = computed(() =>
  ['N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW'].map((name, i) => {
    const [x, y] = props.projection.place({ azimuth: i * 45, elevation: props.projection.kind === 'polar' ? -8 : 0 })
    return { name, x: Math.max(x, 6), y: props.projection.kind === 'polar' ? y + 4 : y + 16, isMain: i % 2 === 0 }
  }),
)

type Drag = { kind: 'sun' } | { kind: 'draw'; line: Direction[] } | { kind: 'thing'; id: string; from: Direction }
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
    emit('pick', id)
    drag.value = { kind: 'thing', id, from: at }
  } else {
    drag.value = { kind: 'sun' }
    emit('scrub', nearestHour(at))
  }
}
function go(event: PointerEvent) {
  const at = drag.value && under(event)
  if (!at || !drag.value) return
  if (drag.value.kind === 'draw') drag.value = { kind: 'draw', line: [...drag.value.line, at] }
  else if (drag.value.kind === 'sun') emit('scrub', nearestHour(at))
  else {
    const { from, id } = drag.value
    emit('move', id, { turn: ((at.azimuth - from.azimuth + 540) % 360) - 180, rise: at.elevation - from.elevation })
  }
}
function leave() {
  if (drag.value?.kind === 'draw') emit('draw', drag.value.line)
  if (drag.value?.kind === 'thing') emit('moved', drag.value.id)
  drag.value = null
}
function keys(event: KeyboardEvent) {
  const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [1, 0], ArrowDown: [-1, 0] }[event.key]
  if (!step) return
  event.preventDefault()
  emit('step', step[0]! * (event.shiftKey ? 10 : 1), step[1]!)
}
const sunWords = computed(
  () =>
    `${number(sun.value.elevation)}° ${sun.value.elevation < 0 ? 'below the horizon' : 'up'}, ${azimuthWords(Math.round(sun.value.azimuth))}`,
)
</script>
<template>
  <svg
    ref="svg"
    :viewBox="`0 0 ${projection.width} ${projection.height}`"
    :class="mode"
    role="group"
    aria-label="The sky over the site"
    @pointerdown.prevent="take($event)"
    @pointermove="go"
    @pointerup="leave"
    @pointercancel="leave"
  >
    <rect :width="projection.width" :height="projection.height" fill="transparent" />
    <g v-if="photo && projection.kind === 'unrolled'">
      <image
        :href="photo.url"
        :x="photo.x"
        :y="photo.y"
        :width="photo.width"
        :height="photo.height"
        preserveAspectRatio="none"
        opacity=".8"
      />
      <line
        v-for="(mark, i) in photo.marks"
        :key="i"
        :x1="mark"
        :x2="mark"
        :y1="photo.y"
        :y2="photo.y + photo.height"
        stroke="var(--loss)"
      />
    </g>
    <g aria-hidden="true">
      <path
        v-for="(cell, i) in cells"
        :key="`c${i}`"
        :d="cell.d"
        :fill="cell.fill"
        :stroke="cell.fill"
        stroke-width=".6"
      >
        <title>{{ number(cell.value) }} W/m² on the plane, mean of the days</title>
      </path>
    </g>
    <g fill="none" stroke="var(--rule-strong)" stroke-dasharray="1.5 4">
      <path v-for="ring in rings" :key="ring.elevation" :d="ring.path" />
    </g>
    <path :d="level" fill="none" stroke="var(--ink)" />
    <g fill="none" stroke="var(--ink)" stroke-width=".8">
      <path v-for="month in months" :key="month.words" :d="month.path" stroke-opacity=".75" />
    </g>
    <g fill="none" stroke="var(--ink)" stroke-width=".7" stroke-opacity=".55">
      <path v-for="line in hours" :key="line.h" :d="line.path" />
    </g>
    <path v-if="edge" :d="edge" fill="none" stroke="var(--current)" stroke-dasharray="5 4">
      <title>Behind this line the sun stands behind the surface</title>
    </path>
    <path
      v-if="layers.horizon && ground"
      :d="ground"
      fill="var(--haze)"
      fill-opacity=".62"
      stroke="var(--ink)"
      stroke-width=".8"
    />
    <g v-if="layers.horizon">
      <g
        v-for="thing in things"
        :key="thing.id"
        class="thing"
        tabindex="0"
        role="button"
        :aria-label="thing.words"
        :aria-pressed="thing.id === picked"
        @pointerdown.stop.prevent="take($event, thing.id)"
        @focus="emit('pick', thing.id)"
      >
        <path
          :d="thing.shape"
          fill="var(--ink)"
          :fill-opacity="thing.isNear ? 0.22 : 0.42"
          :stroke="thing.id === picked ? 'var(--current)' : 'var(--ink)'"
          :stroke-width="thing.id === picked ? 2 : 0.8"
          :stroke-dasharray="thing.isNear ? '3 2' : undefined"
        />
        <path v-if="thing.low" :d="thing.low" fill="var(--ink)" fill-opacity=".3" />
        <title>{{ thing.words }}</title>
      </g>
      <text
        v-for="thing in things"
        :key="`n${thing.id}`"
        :x="thing.label[0]"
        :y="thing.label[1]"
        font-size="11"
        text-anchor="middle"
        class="halo"
        :font-weight="thing.id === picked ? 600 : 400"
      >
        {{ names[thing.id] }}
      </text>
    </g>
    <g v-if="fields.length">
      <path
        v-for="{ field, d } in fields"
        :key="`${field.band}.${field.hour}`"
        :d="d"
        class="field-cell"
        tabindex="0"
        role="checkbox"
        :aria-checked="isShaded(field)"
        :aria-label="`${field.hour}:00, band ${field.band + 1}: ${isShaded(field) ? 'shaded' : 'clear'}`"
        :fill="isShaded(field) ? 'var(--loss)' : 'transparent'"
        :fill-opacity="isShaded(field) ? 0.55 : 0"
        stroke="var(--ink)"
        stroke-width=".8"
        @click="emit('field', field)"
        @keydown.enter.space.prevent="emit('field', field)"
      />
    </g>
    <g font-size="10.5">
      <text
        v-for="ring in rings"
        :key="ring.elevation"
        :x="projection.kind === 'polar' ? projection.place({ azimuth: 0, elevation: ring.elevation })[0] + 3 : 2"
        :y="
          projection.place({ azimuth: start + 0.01, elevation: ring.elevation })[1] +
          (projection.kind === 'polar' ? 10 : 4)
        "
        style="fill: var(--soft)"
      >
        {{ ring.elevation }}°
      </text>
      <text
        v-for="line in hours.filter((l) => l.label)"
        :key="`h${line.h}`"
        :x="line.label![0]"
        :y="line.label![1] + 3"
        text-anchor="middle"
        class="halo"
      >
        {{ line.h }}
      </text>
      <text
        v-for="month in months.filter((m) => m.label)"
        :key="`m${month.words}`"
        :x="month.label![0]"
        :y="month.label![1]"
        :text-anchor="projection.kind === 'polar' ? 'end' : 'middle'"
        class="halo"
        style="fill: var(--soft)"
      >
        {{ month.words }}
      </text>
    </g>
    <text
      v-for="point in compass"
      :key="point.name"
      :x="point.x"
      :y="point.y"
      text-anchor="middle"
      :font-size="point.isMain ? 13 : 11"
      :font-weight="point.isMain ? 600 : 400"
    >
      {{ point.name }}
    </text>
    <path :d="dayPath" fill="none" stroke="var(--sun)" stroke-width="2.4" />
    <path v-if="drawn" :d="drawn" fill="none" stroke="var(--loss)" stroke-width="2" />
    <g
      class="sun"
      tabindex="0"
      role="slider"
      aria-label="The sun: arrow keys change hour and day"
      :aria-valuenow="Math.round(hour * 60)"
      :aria-valuetext="sunWords"
      @keydown="keys"
    >
      <circle :cx="sunPoint[0]" :cy="sunPoint[1]" r="14" fill="transparent" />
      <circle
        :cx="sunPoint[0]"
        :cy="sunPoint[1]"
        r="7"
        :fill="sun.elevation > 0 ? 'var(--sun)' : 'var(--sheet)'"
        stroke="var(--ink)"
        stroke-width="1.5"
      />
      <title>{{ sunWords }}</title>
    </g>
    <text
      v-if="most"
      :x="projection.width - 4"
      :y="projection.height - 4"
      font-size="10.5"
      text-anchor="end"
      style="fill: var(--soft)"
    >
      colour: 0 to {{ number(most) }} W/m² on the plane
    </text>
  </svg>
</template>
<style scoped>
svg {
  display: block;
  width: 100%;
  height: auto;
  touch-action: none;
  cursor: default;
}
svg.draw {
  cursor: crosshair;
}
.thing {
  cursor: grab;
}
.thing:focus-visible,
.sun:focus-visible {
  outline: none;
}
.sun {
  cursor: grab;
}
.sun:focus-visible circle:last-of-type {
  stroke: var(--current);
  stroke-width: 3;
}
.field-cell {
  cursor: pointer;
}
.field-cell:focus-visible {
  outline: none;
  stroke: var(--current);
  stroke-width: 2;
}
.halo {
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 2.5px;
  stroke-linejoin: round;
  pointer-events: none;
}
</style>
