<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { geoGraticule10, geoPath, type GeoPermissibleObjects } from 'd3-geo'
import { feature, mesh } from 'topojson-client'
import type { GeometryCollection, Topology } from 'topojson-specification'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { latitudeText, longitudeText, number, quantity } from '@/theme/format'
import { RAMP_GRADIENT, rampCss } from '@/theme/ramp'
import { api } from '@/api/client'
import {
  draggedBy,
  MAP,
  placeUnder,
  projectionOf,
  scaleBar,
  viewOf,
  WHOLE_WORLD,
  zoomedAt,
  type MapView,
  type Pixel,
} from './mapView'
import { cornersOf, matrixOf, type Plan } from './planPicture'
import { spanOf, type RegionSite } from './region'
import { useTowns } from './useTowns'

/** The land around the site, with the world as an inset, offline: a click sets the site. Wheel and buttons zoom; near by, towns have names. */
const props = defineProps<{
  latitude: number
  longitude: number
  /** Other sites of the region, coloured by their irradiation where it is known. */
  sites?: RegionSite[]
  plan?: Plan
}>()
const emit = defineEmits<{ place: [latitude: number, longitude: number] }>()
const NEAR = 24
/** On opening: the neighbouring towns and borders. */
const AROUND = 12
const STEP = 1.6
const CLICK_REACH = 4
const land = shallowRef<GeoPermissibleObjects | null>(null)
const borders = shallowRef<GeoPermissibleObjects | null>(null)
const view = ref<MapView>({ latitude: props.latitude, longitude: props.longitude, zoom: AROUND })
const whole = computed(() => geoPath(projectionOf(WHOLE_WORLD)))
const inWorld = computed(() => projectionOf(WHOLE_WORLD)([props.longitude, props.latitude]))
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
const bar = computed(() => scaleBar(view.value))
const barText = computed(() =>
  !bar.value
    ? ''
    : bar.value.metres >= 1000
      ? quantity(bar.value.metres / 1000, 'km')
      : quantity(bar.value.metres, 'm'),
)
/** A picture of some metres is drawn once it is larger than a point. */
const picture = computed(() => {
  if (!props.plan || isWhole.value) return null
  const corners = cornersOf(props.plan).map((place) => projectionOf(view.value)(place))
  if (corners.some((corner) => !corner)) return null
  const [o, right] = corners as Pixel[]
  return Math.hypot(right![0] - o![0], right![1] - o![1]) > 2 ? matrixOf(corners as Pixel[]) : null
})
const span = computed(() => spanOf(props.sites ?? []))
const others = computed(() =>
  (props.sites ?? []).flatMap((site) => {
    const at = projectionOf(view.value)([site.longitude, site.latitude])
    const isSeen = at && at[0] >= 0 && at[0] <= MAP.width && at[1] >= 0 && at[1] <= MAP.height
    return isSeen ? [{ site, at }] : []
  }),
)
/** Towns give way to the sites of the region. */
const namedTowns = computed(() =>
  towns.value.filter(
    ({ at }) => !others.value.some((o) => Math.abs(o.at[0] - at[0]) < 90 && Math.abs(o.at[1] - at[1]) < 14),
  ),
)
function fill(site: RegionSite): string {
  if (site.annual_ghi == null || !span.value) return 'var(--sheet)'
  return rampCss((site.annual_ghi - span.value.low) / Math.max(1e-9, span.value.high - span.value.low))
}
const words = (site: RegionSite) =>
  `${site.name || 'A site'}${site.annual_ghi == null ? '' : `: ${number(site.annual_ghi)} kWh/m²`}`
const lookAtRegion = () => {
  const places = props.sites!.map((site): [number, number] => [site.longitude, site.latitude])
  view.value = viewOf([...places, [props.longitude, props.latitude]])
}
const lookAtPlan = () => {
  const [a, b, c] = cornersOf(props.plan!)
  view.value = viewOf([a, b, c, [b[0] + c[0] - a[0], b[1] + c[1] - a[1]]])
}
defineExpose({ lookAtPlan, lookAtRegion })
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
  const digits = view.value.zoom > 2000 ? 1e6 : view.value.zoom > 200 ? 1e4 : view.value.zoom > 20 ? 1000 : 100
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
      <image
        v-if="picture"
        :href="api.picture(plan!.digest)"
        width="1"
        height="1"
        preserveAspectRatio="none"
        :transform="picture"
      />
      <g v-for="({ site, at }, i) in others" :key="i" class="other">
        <circle :cx="at[0]" :cy="at[1]" r="5" :fill="fill(site)">
          <title>{{ words(site) }}</title>
        </circle>
        <text v-if="view.zoom > 3 && others.length < 25" :x="at[0] + 8" :y="at[1] + 4" :font-size="11 * enlarged">
          {{ site.name }}
        </text>
      </g>
      <g v-for="{ town, at } in namedTowns" :key="`${town.name} ${town.latitude}`" class="town">
        <circle :cx="at[0]" :cy="at[1]" r="1.7" />
        <text :x="at[0] + 5" :y="at[1] + 3.5" :font-size="11 * enlarged">{{ town.name }}</text>
      </g>
      <g v-if="point" :transform="`translate(${point[0]} ${point[1]})`" class="site">
        <circle r="11" fill="none" stroke="var(--loss)" stroke-width="1.2" />
        <circle r="3.6" fill="var(--loss)" />
        <path d="M-17 0h8M9 0h8M0 -17v8M0 9v8" stroke="var(--loss)" stroke-width="1.2" />
      </g>
    </svg>
    <p v-if="bar" class="bar" :style="{ width: `${(bar.pixels / MAP.width) * 100}%` }">{{ barText }}</p>
    <p v-if="span && span.count > 1" class="ramp soft">
      {{ number(span.low) }} <i :style="{ background: RAMP_GRADIENT }" /> {{ number(span.high) }} kWh/m²
    </p>
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
      <button v-if="sites?.length" type="button" class="button quiet" @click="lookAtRegion">The region</button>
      <button v-if="plan" type="button" class="button quiet" @click="lookAtPlan">The picture</button>
    </p>
    <button
      v-if="!isWhole"
      type="button"
      class="world"
      aria-label="Whole world"
      title="Whole world"
      @click="view = WHOLE_WORLD"
    >
      <svg :viewBox="`0 0 ${MAP.width} ${MAP.height}`" aria-hidden="true">
        <path :d="whole({ type: 'Sphere' }) ?? ''" class="sea" />
        <path v-if="land" :d="whole(land) ?? ''" class="land" />
        <circle v-if="inWorld" :cx="inWorld[0]" :cy="inWorld[1]" r="22" fill="var(--loss)" />
      </svg>
    </button>
  </div>
</template>
<style scoped>
.world {
  position: absolute;
  right: 8px;
  top: 8px;
  width: 116px;
  padding: 3px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 5px;
}
.world svg {
  display: block;
  width: 100%;
}
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
.bar {
  position: absolute;
  right: 12px;
  bottom: 10px;
  border: 1px solid var(--ink);
  border-top: 0;
  height: 7px;
  font-size: 11px;
  text-align: center;
  line-height: 1;
  display: flex;
  align-items: end;
  justify-content: center;
  padding-bottom: 9px;
  box-sizing: border-box;
  white-space: nowrap;
}
.ramp {
  position: absolute;
  right: 136px;
  top: 8px;
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 11px;
  background: var(--sheet);
  padding: 1px 8px;
  border-radius: 4px;
}
.ramp i {
  width: 70px;
  height: 7px;
}
.other circle {
  stroke: var(--ink);
  stroke-width: 1;
}
.other text {
  fill: var(--ink);
  font-weight: 600;
  pointer-events: none;
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
