<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { pathThrough } from '@/charts/picture'
import type { OrientationAnswer } from '@/api/client'
import type { Direction } from '@/charts/horizonLine'
import type { SurfaceView } from '@/stores/schemeLists'
import { azimuthWords, number, signed } from '@/theme/format'
import { DISC, fromDisc, isolines, onDisc, barePin, placePins, horizonRing, withRoomForLabels } from './discGeometry'
import { paintDisc } from './paintDisc'
import SkyDiscPin from './SkyDiscPin.vue'

/** The disc of orientations: tilt outward, azimuth round; the irradiation of each, and the surfaces as handles to drag. */
const props = defineProps<{
  map: OrientationAnswer | null
  surfaces: SurfaceView[]
  /** The way of those that move over the day. */
  paths: { id: string; points: { tilt: number; azimuth: number }[] }[]
  picked: string
  horizon: Direction[]
}>()
const emit = defineEmits<{
  pick: [id: string]
  grab: [id: string]
  turn: [id: string, tilt: number, azimuth: number]
  done: []
}>()
const { x: C, y: CY, radius: R } = DISC
const canvas = ref<HTMLCanvasElement>()
const svg = ref<SVGSVGElement>()
const dragging = ref<string | null>(null)
/** Where the disc is drawn small, its words are drawn larger in it, so that they can still be read. */
const enlarged = ref(1)
let observer: ResizeObserver | null = null
onMounted(() => {
  observer = new ResizeObserver(([entry]) => {
    enlarged.value = Math.max(1, Math.min(1.7, DISC.width / entry!.contentRect.width))
  })
  observer.observe(svg.value!)
})
onBeforeUnmount(() => observer?.disconnect())
const lines = computed(() => (props.map ? withRoomForLabels(isolines(props.map), enlarged.value) : []))
const horizonShape = computed(() => horizonRing(props.horizon))
/** Names of a few surfaces stand beside them; of many, only that of the one that is picked or approached. */
const MANY = 9
const near = ref('')
const isNamed = (id: string) => props.surfaces.length < MANY || id === props.picked || id === near.value
const pins = computed(() => {
  const named = props.surfaces.filter((s) => isNamed(s.id))
  const places = new Map(placePins(named, enlarged.value).map((pin, i) => [named[i]!.id, pin]))
  return props.surfaces.map((s) => places.get(s.id) ?? barePin(s))
})
/** The picked and the approached one are drawn last, over the others. */
const drawn = computed(() =>
  props.surfaces
    .map((surface, i) => ({ surface, pin: pins.value[i]! }))
    .toSorted((a, b) => Number(isNamed(a.surface.id)) - Number(isNamed(b.surface.id))),
)
const best = computed(() => (props.map ? onDisc(props.map.best_tilt, props.map.best_azimuth) : null))

function paint() {
  if (props.map) canvas.value?.getContext('2d')?.putImageData(paintDisc(props.map, R), 0, 0)
}
watch(
  () => props.map,
  (now, before) => {
    // A surface that turns changes nothing of the disc under it.
    if (String(now?.irradiation) !== String(before?.irradiation)) paint()
  },
)
onMounted(paint)

/** The way over the disc, thinner where the surface is not the picked one. */
const ways = computed(() =>
  props.paths.map(({ id, points }) => ({
    id,
    d: pathThrough(points.map(({ tilt, azimuth }) => onDisc(tilt, azimuth))),
  })),
)
function grab(event: PointerEvent, id: string) {
  if (props.surfaces.find((s) => s.id === id)?.motion) return emit('pick', id)
  dragging.value = id
  svg.value!.setPointerCapture(event.pointerId)
  emit('grab', id)
}
function move(event: PointerEvent) {
  if (!dragging.value) return
  const box = svg.value!.getBoundingClientRect()
  const scale = DISC.width / box.width
  const { tilt, azimuth } = fromDisc([(event.clientX - box.left) * scale, (event.clientY - box.top) * scale])
  emit('turn', dragging.value, tilt, azimuth)
}
function release() {
  if (dragging.value) emit('done')
  dragging.value = null
}
function keys(event: KeyboardEvent, surface: SurfaceView) {
  if (surface.motion) return
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
        left: `${((C - R) / DISC.width) * 100}%`,
        top: `${((CY - R) / DISC.height) * 100}%`,
        width: `${((2 * R) / DISC.width) * 100}%`,
      }"
      aria-hidden="true"
    />
    <svg
      ref="svg"
      :viewBox="`0 0 ${DISC.width} ${DISC.height}`"
      @pointermove="move"
      @pointerup="release"
      @pointercancel="release"
    >
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
        :font-size="11 * enlarged"
        style="fill: #fff"
        opacity=".85"
      >
        {{ tilt }}°
      </text>
      <g v-for="line in lines" :key="line.level">
        <path :d="line.path" fill="none" stroke="#12222e" stroke-opacity=".6" stroke-width=".9" />
        <g v-if="line.label">
          <rect
            :x="line.label.x - 17 * enlarged"
            :y="line.label.y - 8 * enlarged"
            :width="34 * enlarged"
            :height="14 * enlarged"
            rx="3"
            fill="#fffdf8"
            opacity=".85"
          />
          <text
            :x="line.label.x"
            :y="line.label.y + 3 * enlarged"
            :font-size="11 * enlarged"
            text-anchor="middle"
            style="fill: #1b2a3a"
          >
            {{ signed(line.level * 100) }} %
          </text>
        </g>
      </g>
      <path v-if="horizonShape" :d="horizonShape" fill="var(--haze)" fill-opacity=".6" fill-rule="evenodd">
        <title>The horizon by azimuth</title>
      </path>
      <text
        v-for="(name, i) in ['N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW']"
        :key="name"
        :x="C + 230 * Math.sin((i * Math.PI) / 4)"
        :y="CY - 230 * Math.cos((i * Math.PI) / 4) + 4"
        text-anchor="middle"
        :font-size="(i % 2 ? 11 : 13) * enlarged"
        :font-weight="i % 2 ? 400 : 600"
      >
        {{ name }}
      </text>
      <path
        v-for="way in ways"
        :key="way.id"
        :d="way.d"
        fill="none"
        stroke="#2F5D8C"
        :stroke-width="way.id === picked ? 3 : 1.5"
        stroke-linecap="round"
        stroke-linejoin="round"
      >
        <title>How the plane turns over the day</title>
      </path>
      <g v-if="map && best">
        <path :d="`M${best[0] - 7} ${best[1]}h14m-7 -7v14`" stroke="#12222e" stroke-width="1.7" />
        <title>Best orientation: {{ number(map.best_tilt) }}°, {{ azimuthWords(map.best_azimuth) }}</title>
      </g>
      <SkyDiscPin
        v-for="{ surface, pin } in drawn"
        :key="surface.id"
        :surface="surface"
        :pin="pin"
        :is-named="isNamed(surface.id)"
        :is-small="surfaces.length >= MANY"
        :enlarged="enlarged"
        @pointerenter="near = surface.id"
        @pointerleave="near = ''"
        :is-picked="surface.id === picked"
        @grab="grab($event, surface.id)"
        @key="keys($event, surface)"
        @pick="emit('pick', surface.id)"
      />
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
</style>
