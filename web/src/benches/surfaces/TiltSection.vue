<script setup lang="ts">
import { computed } from 'vue'
import { number } from '@/theme/format'

/** Side view of a surface, or of two of its rows with the lowest sun that clears them. */
const props = defineProps<{ tilt: number; rows: { pitch: number; width?: number } | null }>()
const rad = computed(() => (props.tilt * Math.PI) / 180)
const drawn = computed(() => {
  if (!props.rows) return null
  const width = props.rows.width ?? 2
  const scale = 176 / (props.rows.pitch + width)
  const [w, p] = [width * scale, props.rows.pitch * scale]
  const clear = Math.atan2(width * Math.sin(rad.value), props.rows.pitch - width * Math.cos(rad.value))
  return { w, p, clear: (clear * 180) / Math.PI, dx: w * Math.cos(rad.value), dy: w * Math.sin(rad.value) }
})
</script>
<template>
  <svg viewBox="0 -96 200 118" width="100%" role="img" :aria-label="rows ? `Rows ${rows.pitch} m apart at ${tilt}°` : `A surface at ${tilt}°`">
    <line x1="0" y1="0" x2="200" y2="0" stroke="var(--ink)" />
    <template v-if="drawn && rows">
      <line x1="8" y1="0" :x2="8 + drawn.dx" :y2="-drawn.dy" stroke="var(--current)" stroke-width="5" stroke-linecap="round" />
      <line :x1="8 + drawn.p" y1="0" :x2="8 + drawn.p + drawn.dx" :y2="-drawn.dy" stroke="var(--current)" stroke-width="5" stroke-linecap="round" />
      <line :x1="8 + drawn.dx" :y1="-drawn.dy" :x2="8 + drawn.p" y2="0" stroke="var(--sun)" stroke-dasharray="4 3" />
      <path :d="`M8 7h${drawn.p}M8 4v6M${8 + drawn.p} 4v6`" stroke="var(--haze)" />
      <text :x="8 + drawn.p / 2" y="19" font-size="11" text-anchor="middle">{{ number(rows.pitch, 2) }} m</text>
      <text x="196" y="-82" font-size="11" text-anchor="end" style="fill: var(--sun-text)">clear from {{ number(drawn.clear, 0) }}° of sun</text>
    </template>
    <template v-else>
      <line x1="10" y1="0" :x2="10 + 118 * Math.cos(rad)" :y2="-88 * Math.sin(rad)" stroke="var(--current)" stroke-width="6" stroke-linecap="round" />
      <path :d="`M52 0A42 42 0 0 0 ${10 + 42 * Math.cos(Math.atan2(88 * Math.sin(rad), 118 * Math.cos(rad)))} ${-42 * Math.sin(Math.atan2(88 * Math.sin(rad), 118 * Math.cos(rad)))}`" fill="none" stroke="var(--ink)" />
      <text x="150" y="-8" font-size="12" font-weight="600">{{ number(tilt) }}°</text><circle cx="182" cy="-78" r="7" fill="var(--sun)" />
    </template>
  </svg>
</template>
