<script setup lang="ts">
import { computed } from 'vue'
import { azimuthWords, number } from '@/theme/format'
import type { Direction } from './skyGeometry'

/** What azimuth and elevation are and how they are measured, drawn for one direction of the site. */
const props = defineProps<{ direction: Direction; subject: string }>()
const emit = defineEmits<{ close: [] }>()
const RADIUS = 92
const CENTRE = { x: 130, y: 124 }
const EYE = { x: 46, y: 196 }
const REACH = 220
const DEGREES = Math.PI / 180
const elevation = computed(() => Math.max(4, Math.min(60, props.direction.elevation)))
const round = (azimuth: number, radius: number) => ({
  x: CENTRE.x + radius * Math.sin(azimuth * DEGREES),
  y: CENTRE.y - radius * Math.cos(azimuth * DEGREES),
})
const end = computed(() => round(props.direction.azimuth, RADIUS))
const arc = computed(() => {
  const to = round(Math.min(359.9, props.direction.azimuth), 38)
  return `M${CENTRE.x} ${CENTRE.y - 38}A38 38 0 ${props.direction.azimuth > 180 ? 1 : 0} 1 ${to.x} ${to.y}`
})
const label = computed(() => round(props.direction.azimuth / 2, 56))
const POINTS = [
  { text: 'N 0°', azimuth: 0 },
  { text: 'E 90°', azimuth: 90 },
  { text: 'S 180°', azimuth: 180 },
  { text: 'W 270°', azimuth: 270 },
]
/** The thing stands where the line of sight, whatever its angle, fits into the picture. */
const stand = computed(() => Math.min(REACH, 168 / Math.tan(elevation.value * DEGREES)))
const top = computed(() => EYE.y - stand.value * Math.tan(elevation.value * DEGREES))
const rise = computed(() => {
  const r = 46
  return `M${EYE.x + r} ${EYE.y}A${r} ${r} 0 0 0 ${EYE.x + r * Math.cos(elevation.value * DEGREES)} ${EYE.y - r * Math.sin(elevation.value * DEGREES)}`
})
</script>
<template>
  <div class="directions" role="dialog" aria-label="Azimuth and elevation">
    <h3>Azimuth and elevation, for {{ subject }}</h3>
    <div class="pictures">
      <figure>
        <svg
          viewBox="0 0 260 248"
          role="img"
          :aria-label="`Seen from above: the azimuth of ${number(direction.azimuth)} degrees is turned clockwise from north`"
        >
          <circle :cx="CENTRE.x" :cy="CENTRE.y" :r="RADIUS" class="rim" />
          <path
            v-for="a in 36"
            :key="a"
            class="rim"
            :d="`M${round(a * 10, RADIUS).x} ${round(a * 10, RADIUS).y}L${round(a * 10, RADIUS - (a % 9 ? 4 : 9)).x} ${round(a * 10, RADIUS - (a % 9 ? 4 : 9)).y}`"
          />
          <text
            v-for="p in POINTS"
            :key="p.text"
            :x="round(p.azimuth, RADIUS + 23).x"
            :y="round(p.azimuth, RADIUS + 15).y + 4"
            text-anchor="middle"
          >
            {{ p.text }}
          </text>
          <path :d="`M${CENTRE.x} ${CENTRE.y}V${CENTRE.y - RADIUS}`" class="zero" />
          <path :d="arc" class="angle" />
          <path :d="`M${CENTRE.x} ${CENTRE.y}L${end.x} ${end.y}`" class="sight" />
          <circle :cx="end.x" :cy="end.y" r="6" class="thing" />
          <circle :cx="CENTRE.x" :cy="CENTRE.y" r="3.5" class="eye" />
          <text :x="label.x" :y="label.y + 4" text-anchor="middle" class="value">{{ number(direction.azimuth) }}°</text>
        </svg>
        <figcaption>
          From above. <b>Azimuth {{ number(direction.azimuth) }}°</b> ({{
            azimuthWords(Math.round(direction.azimuth))
          }}): turned clockwise from true north.
        </figcaption>
      </figure>
      <figure>
        <svg
          viewBox="0 0 300 248"
          role="img"
          :aria-label="`Seen from the side: the elevation of ${number(direction.elevation, 1)} degrees is the angle over the level line of the eye`"
        >
          <path :d="`M10 ${EYE.y + 30}H290`" class="ground" />
          <path :d="`M${EYE.x} ${EYE.y}H284`" class="zero" />
          <path :d="rise" class="angle" />
          <path :d="`M${EYE.x} ${EYE.y}L${EYE.x + stand} ${top}`" class="sight" />
          <path :d="`M${EYE.x + stand} ${EYE.y + 30}V${top}`" class="tall" />
          <path :d="`M${EYE.x} ${EYE.y + 30}V${EYE.y}`" class="post" />
          <circle :cx="EYE.x" :cy="EYE.y" r="3.5" class="eye" />
          <text :x="EYE.x + 56" :y="EYE.y - 8 - elevation / 6" class="value">
            {{ number(direction.elevation, 1) }}°
          </text>
          <text :x="EYE.x + stand / 2" :y="EYE.y + 15" text-anchor="middle">distance d</text>
          <text :x="EYE.x + stand + 7" :y="(EYE.y + top) / 2 + 4">h</text>
          <text :x="EYE.x" :y="EYE.y + 46" text-anchor="middle">array</text>
        </svg>
        <figcaption>
          From the side. <b>Elevation {{ number(direction.elevation, 1) }}°</b>: the angle over the level of the array,
          tan(elevation) = h / d, with h counted from the array’s lower edge.
        </figcaption>
      </figure>
    </div>
    <ul>
      <li>
        Measure from where the array will be, from its lowest corner and its ends: near things look different from each.
      </li>
      <li>
        A compass shows magnetic north: add the declination of the place (east positive) to get the true azimuth. Steel
        roofs turn the needle.
      </li>
      <li>
        A clinometer, or a level app held along the edge, gives the elevation. A fist at arm’s length is about 10°, a
        finger about 2°.
      </li>
      <li>Where the distance is known, a height is enough: an oak 8 m over the array, 14 m away, reaches 30° up.</li>
    </ul>
    <p class="acts"><button type="button" class="button" @click="emit('close')">Close</button></p>
  </div>
</template>
<style scoped>
.directions {
  background: var(--sheet);
  padding: 16px 22px;
  border-radius: 12px;
  display: grid;
  gap: 10px;
  font-size: 13px;
}
.pictures {
  display: grid;
  grid-template-columns: 260fr 300fr;
  gap: 18px;
}
figure {
  margin: 0;
}
figcaption {
  font-size: 12.5px;
}
text {
  font-size: 11.5px;
  fill: var(--soft);
}
.value {
  font-weight: 700;
  fill: var(--loss-text);
  font-size: 13px;
}
path,
circle {
  fill: none;
}
.rim {
  stroke: var(--rule-strong);
}
.ground {
  stroke: var(--ink);
  stroke-width: 1.4;
}
.zero {
  stroke: var(--haze);
  stroke-dasharray: 4 3;
}
.angle {
  stroke: var(--loss);
  stroke-width: 2;
}
.sight {
  stroke: var(--sun);
  stroke-width: 1.6;
}
.thing,
.eye {
  fill: var(--ink);
}
.tall {
  stroke: var(--ink);
  stroke-width: 5;
}
.post {
  stroke: var(--ink);
  stroke-width: 1.4;
}
ul {
  margin: 0;
  padding-left: 18px;
  display: grid;
  gap: 3px;
}
</style>
