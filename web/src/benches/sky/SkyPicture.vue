<script setup lang="ts">
import { useTemplateRef } from 'vue'
import { number } from '@/theme/format'
import type { Direction, Field } from './skyGeometry'
import { useSkyPointer } from './useSkyPointer'
import { useSkyShapes, type SkyContent } from './useSkyShapes'

/** The sky over the site: the sun's paths, what hides it, the hours by what they bring, and the moment's sun. */
const props = defineProps<SkyContent>()
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
const {
  start,
  cells,
  most,
  months,
  hours,
  dayPath,
  sun,
  sunPoint,
  sunWords,
  ground,
  edge,
  things,
  fields,
  rings,
  level,
  compass,
} = useSkyShapes(props)
const { drawn, take, go, leave, keys } = useSkyPointer(props, svg, {
  scrub: (hour) => emit('scrub', hour),
  step: (...by) => emit('step', ...by),
  draw: (line) => emit('draw', line),
  pick: (id) => emit('pick', id),
  move: (...by) => emit('move', ...by),
  moved: (id) => emit('moved', id),
})
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
