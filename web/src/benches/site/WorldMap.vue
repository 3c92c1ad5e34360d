<script setup lang="ts">
import { computed, onMounted, shallowRef } from 'vue'
import { geoGraticule10, geoNaturalEarth1, geoPath, type GeoPermissibleObjects } from 'd3-geo'
import { feature, mesh } from 'topojson-client'
import type { GeometryCollection, Topology } from 'topojson-specification'
import { latitudeText, longitudeText } from '@/theme/format'

/** The world, offline: a click says where. The view leans in on the site when asked. */
const props = defineProps<{ latitude: number; longitude: number; near: boolean }>()
const emit = defineEmits<{ place: [latitude: number, longitude: number] }>()
const W = 700,
  H = 356
const land = shallowRef<GeoPermissibleObjects | null>(null)
const borders = shallowRef<GeoPermissibleObjects | null>(null)
onMounted(async () => {
  const world = (await import('world-atlas/countries-50m.json')).default as unknown as Topology<{
    countries: GeometryCollection
    land: GeometryCollection
  }>
  land.value = feature(world, world.objects.land) as GeoPermissibleObjects
  borders.value = mesh(world, world.objects.countries, (a, b) => a !== b)
})
const projection = computed(() => {
  const whole = geoNaturalEarth1().fitSize([W, H], { type: 'Sphere' })
  if (!props.near) return whole
  return geoNaturalEarth1()
    .rotate([-props.longitude, 0])
    .scale(whole.scale() * 7)
    .center([0, props.latitude])
    .translate([W / 2, H / 2])
    .clipExtent([
      [0, 0],
      [W, H],
    ])
})
const path = computed(() => geoPath(projection.value))
const point = computed(() => projection.value([props.longitude, props.latitude]))
function click(event: MouseEvent) {
  const box = (event.currentTarget as SVGElement).getBoundingClientRect()
  const found = projection.value.invert?.([
    ((event.clientX - box.left) / box.width) * W,
    ((event.clientY - box.top) / box.height) * H,
  ])
  if (found && Math.abs(found[1]) <= 90 && Math.abs(found[0]) <= 180)
    emit('place', Math.round(found[1] * 100) / 100, Math.round(found[0] * 100) / 100)
}
</script>
<template>
  <svg
    :viewBox="`0 0 ${W} ${H}`"
    width="100%"
    class="map"
    role="img"
    :aria-label="`World map; the site lies at ${latitudeText(latitude)}, ${longitudeText(longitude)}. A click moves it; coordinates can be typed beside it.`"
    @click="click"
  >
    <path :d="path({ type: 'Sphere' }) ?? ''" class="sea" />
    <path :d="path(geoGraticule10()) ?? ''" class="grid" />
    <path v-if="land" :d="path(land) ?? ''" class="land" />
    <path v-if="borders" :d="path(borders) ?? ''" class="borders" />
    <g v-if="point" :transform="`translate(${point[0]} ${point[1]})`">
      <circle r="11" fill="none" stroke="var(--loss)" stroke-width="1.2" />
      <circle r="3.6" fill="var(--loss)" />
      <path d="M-17 0h8M9 0h8M0 -17v8M0 9v8" stroke="var(--loss)" stroke-width="1.2" />
    </g>
  </svg>
</template>
<style scoped>
.map {
  cursor: crosshair;
  display: block;
  border-radius: 6px;
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
[data-theme='dark'] .land {
  fill: #263743;
}
</style>
