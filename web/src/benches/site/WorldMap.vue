<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { geoGraticule10, geoPath, type GeoPermissibleObjects } from 'd3-geo'
import { feature, mesh } from 'topojson-client'
import type { GeometryCollection, Topology } from 'topojson-specification'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { latitudeText, longitudeText } from '@/theme/format'
import { draggedBy, MAP, placeUnder, projectionOf, WHOLE_WORLD, zoomedAt, type MapView, type Pixel } from './mapView'
import { useTowns } from './useTowns'

/** The world, offline: a click sets the site. Wheel and buttons zoom in; zoomed in, towns have names. */
const props = defineProps<{ latitude: number; longitude: number }>()
const emit = defineEmits<{ place: [latitude: number, longitude: number] }>()
const NEAR = 24
const STEP = 1.6
const CLICK_REACH = 4
const land = shallowRef<GeoPermissibleObjects | null>(null)
const borders = shallowRef<GeoPermissibleObjects | null>(null)
const view = ref<MapView>(WHOLE_WORLD)
const svg = ref<SVGSVGElement | null>(null)
/** Names on a map that is drawn small are drawn larger in it. */
const drawn = useDrawnWidth(svg, MAP.width)
const enlarged = computed(() => Math.max(1, MAP.width / drawn.value))
const towns = useTowns(view)
let drag: { from: Pixel; view: MapView; moved: boolean } | null = null

onMounted(async () => {
  const world = (await import('world-atlas/countries-50m.json')).default as unknown as Topology<{
    countries: GeometryCollection
    land: GeometryCollection
  }>
  land.value = feature(world, world.objects.land) as GeoPermissibleObjects
  borders.value = mesh(world, world.objects.countries, (a, b) => a !== b)
})
const path = computed(() => geoPath(projectionOf(view.value)))
const point = computed(() => projectionOf(view.value)([props.longitude, props.latitude]))
const isWhole = computed(() => view.value.zoom <= 1)
// A site that moves out of sight takes the view with it.
watch([() => props.latitude, () => props.longitude], ([latitude, longitude]) => {
  const [x, y] = point.value ?? [-1, -1]
  const isSeen = x > 0 && x < MAP.width && y > 0 && y < MAP.height
  if (!isWhole.value && !isSeen) view.value = { ...view.value, latitude, longitude }
})

function pixel(event: MouseEvent): Pixel {
  const box = svg.value!.getBoundingClientRect()
  return [((event.clientX - box.left) / box.width) * MAP.width, ((event.clientY - box.top) / box.height) * MAP.height]
}
const lean = (factor: number) => {
  const middle: Pixel = [MAP.width / 2, MAP.height / 2]
  view.value = isWhole.value ? onSite(factor) : zoomedAt(view.value, middle, factor)
}
const onSite = (zoom: number): MapView => ({
  latitude: props.latitude,
  longitude: props.longitude,
  zoom: Math.max(1, zoom),
})
function wheel(event: WheelEvent) {
  // Where the map cannot go further out, the wheel belongs to the page again.
  if (isWhole.value && event.deltaY > 0) return
  event.preventDefault()
  view.value = zoomedAt(view.value, pixel(event), Math.exp(-event.deltaY / 400))
}
function down(event: PointerEvent) {
  svg.value!.setPointerCapture(event.pointerId)
  drag = { from: pixel(event), view: view.value, moved: false }
}
function move(event: PointerEvent) {
  if (!drag) return
  const to = pixel(event)
  if (Math.hypot(to[0] - drag.from[0], to[1] - drag.from[1]) > CLICK_REACH) drag.moved = true
  if (drag.moved) view.value = draggedBy(drag.view, drag.from, to)
}
function up(event: PointerEvent) {
  const was = drag
  drag = null
  if (!was || was.moved) return
  const place = placeUnder(view.value, pixel(event))
  const digits = view.value.zoom > 20 ? 1000 : 100
  const round = (value: number) => Math.round(value * digits) / digits
  if (place) emit('place', round(place.latitude), round(place.longitude))
}
</script>
<template>
  <div class="place">
    <svg
      ref="svg"
      :viewBox="`0 0 ${MAP.width} ${MAP.height}`"
      width="100%"
      class="map"
      :class="{ near: !isWhole }"
      role="img"
      :aria-label="`World map; the site is at ${latitudeText(latitude)}, ${longitudeText(longitude)}. A click moves it; coordinates can be typed beside it.`"
      @wheel="wheel"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="drag = null"
    >
      <path :d="path({ type: 'Sphere' }) ?? ''" class="sea" />
      <path :d="path(geoGraticule10()) ?? ''" class="grid" />
      <path v-if="land" :d="path(land) ?? ''" class="land" />
      <path v-if="borders" :d="path(borders) ?? ''" class="borders" />
      <g v-for="{ town, at } in towns" :key="`${town.name} ${town.latitude}`" class="town">
        <circle :cx="at[0]" :cy="at[1]" r="1.7" />
        <text :x="at[0] + 5" :y="at[1] + 3.5" :font-size="11 * enlarged">{{ town.name }}</text>
      </g>
      <g v-if="point" :transform="`translate(${point[0]} ${point[1]})`" class="site">
        <circle r="11" fill="none" stroke="var(--loss)" stroke-width="1.2" />
        <circle r="3.6" fill="var(--loss)" />
        <path d="M-17 0h8M9 0h8M0 -17v8M0 9v8" stroke="var(--loss)" stroke-width="1.2" />
      </g>
    </svg>
    <p class="lean">
      <button type="button" class="button quiet" aria-label="Zoom in" title="Zoom in" @click="lean(STEP)">+</button>
      <button
        type="button"
        class="button quiet"
        aria-label="Zoom out"
        title="Zoom out"
        :disabled="isWhole"
        @click="lean(1 / STEP)"
      >
        −
      </button>
      <button type="button" class="button quiet" @click="view = onSite(NEAR)">At the site</button>
      <button v-if="!isWhole" type="button" class="button quiet" @click="view = WHOLE_WORLD">Whole world</button>
    </p>
  </div>
</template>
<style scoped>
.place {
  position: relative;
}
.map {
  cursor: crosshair;
  display: block;
  border-radius: 6px;
  touch-action: none;
}
.near {
  background: var(--paper);
}
.lean {
  position: absolute;
  left: 8px;
  bottom: 8px;
  display: flex;
  gap: 5px;
}
.lean .button {
  background: var(--sheet);
  padding: 2px 9px;
  font-size: 12px;
}
.sea {
  fill: var(--paper);
}
.grid {
  fill: none;
  stroke: var(--rule);
  stroke-width: 0.5;
}
.land {
  fill: var(--night);
  stroke: var(--haze);
  stroke-width: 0.6;
}
.borders {
  fill: none;
  stroke: var(--rule-strong);
  stroke-width: 0.5;
}
.town,
.site {
  pointer-events: none;
}
.town circle {
  fill: var(--ink);
}
.town text {
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--night);
  stroke-width: 2.5px;
  stroke-linejoin: round;
}
[data-theme='dark'] .land {
  fill: #263743;
}
[data-theme='dark'] .town text {
  stroke: #263743;
}
</style>
