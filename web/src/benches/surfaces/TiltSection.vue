<script setup lang="ts">
import { computed } from 'vue'
import { number, quantity } from '@/theme/format'

/** Side view of a surface, or of two of its rows with the lowest sun that clears them. */
const props = defineProps<{ tilt: number; rows: { pitch: number; width: number } | null }>()
const rad = computed(() => (props.tilt * Math.PI) / 180)
const drawn = computed(() => {
  if (!props.rows) return null
  const { width } = props.rows
  const scale = 176 / (props.rows.pitch + width)
  const [w, p] = [width * scale, props.rows.pitch * scale]
  const clear = Math.atan2(width * Math.sin(rad.value), props.rows.pitch - width * Math.cos(rad.value))
  return { w, p, clear: (clear * 180) / Math.PI, dx: w * Math.cos(rad.value), dy: w * Math.sin(rad.value) }
})
/** As high as the drawing needs: a low roof leaves no sky empty. */
const tall = computed(() =>
  drawn.value
    ? Math.max(44, drawn.value.dy + 30)
    : Math.max(58, 120 * Math.sin(rad.value) + 12, 60 * Math.sin(rad.value) + 40 * Math.cos(rad.value) + 12),
)
</script>
<template>
  <svg
    :viewBox="`0 ${-tall} 200 ${tall + 22}`"
    width="100%"
    role="img"
    :aria-label="rows ? `Rows ${quantity(rows.pitch, 'm', 2)} apart at ${tilt}°` : `A surface at ${tilt}°`"
  >
    <line x1="0" y1="0" x2="200" y2="0" stroke="var(--ink)" />
    <template v-if="drawn && rows">
      <line
        x1="8"
        y1="0"
        :x2="8 + drawn.dx"
        :y2="-drawn.dy"
        stroke="var(--current)"
        stroke-width="5"
        stroke-linecap="round"
      />
      <line
        :x1="8 + drawn.p"
        y1="0"
        :x2="8 + drawn.p + drawn.dx"
        :y2="-drawn.dy"
        stroke="var(--current)"
        stroke-width="5"
        stroke-linecap="round"
      />
      <line :x1="8 + drawn.dx" :y1="-drawn.dy" :x2="8 + drawn.p" y2="0" stroke="var(--sun)" stroke-dasharray="4 3" />
      <path :d="`M8 7h${drawn.p}M8 4v6M${8 + drawn.p} 4v6`" stroke="var(--haze)" />
      <text :x="8 + drawn.p / 2" y="19" font-size="12" text-anchor="middle">{{ quantity(rows.pitch, 'm', 2) }}</text>
      <text x="196" :y="14 - tall" font-size="12" text-anchor="end" style="fill: var(--sun-text)">
        unshaded above {{ number(drawn.clear, 0) }}° sun elevation
      </text>
    </template>
    <template v-else>
      <line
        x1="24"
        y1="0"
        :x2="24 + 120 * Math.cos(rad)"
        :y2="-120 * Math.sin(rad)"
        stroke="var(--current)"
        stroke-width="6"
        stroke-linecap="round"
      />
      <path
        :d="`M76 0A52 52 0 0 0 ${24 + 52 * Math.cos(rad)} ${-52 * Math.sin(rad)}`"
        fill="none"
        stroke="var(--ink)"
      />
      <text
        :x="30 + 60 * Math.cos(rad / 2)"
        :y="tilt < 16 ? 17 : -60 * Math.sin(rad / 2) + 4"
        font-size="13"
        font-weight="600"
      >
        {{ number(tilt) }}°
      </text>
      <g :transform="`translate(${24 + 60 * Math.cos(rad)} ${-60 * Math.sin(rad)})`">
        <line
          x1="0"
          y1="0"
          :x2="-34 * Math.sin(rad)"
          :y2="-34 * Math.cos(rad)"
          stroke="var(--sun)"
          stroke-width="1.4"
          stroke-dasharray="4 3"
        />
        <circle :cx="-40 * Math.sin(rad)" :cy="-40 * Math.cos(rad)" r="5" fill="var(--sun)" />
      </g>
    </template>
  </svg>
</template>
