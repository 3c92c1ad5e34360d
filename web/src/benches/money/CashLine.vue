<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { axisLines, pathThrough, scale } from '@/charts/picture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { number } from '@/theme/format'

/** The sum of the flows over the years, drawn with the year in which they are paid back. */
const props = defineProps<{ total: number[]; running: number[]; payback: number | null; currency: string }>()
const [HEIGHT, LEFT, TOP, BASE] = [214, 62, 26, 186]
const width = useDrawnWidth(useTemplateRef('chart'), 700, 300)
const years = computed(() => props.running.length - 1)
const span = computed(() => ({ low: Math.min(0, ...props.running), high: Math.max(0, ...props.running, 1e-6) }))
const x = computed(() => scale([0, Math.max(1, years.value)], [LEFT, width.value - 16]))
const y = computed(() => scale([span.value.low, span.value.high], [BASE, TOP]))
const lines = computed(() => axisLines(span.value.low, span.value.high, 4))
const path = computed(() => pathThrough(props.running.map((v, i) => [x.value(i), y.value(v)])))
const marks = computed(() => Array.from({ length: Math.floor(years.value / 5) + 1 }, (_, i) => i * 5))
/** Years in which more is paid than received after the first: something is replaced. */
const dips = computed(() => props.total.map((v, i) => ({ v, i })).filter(({ v, i }) => i > 0 && v < 0))
</script>
<template>
  <figure>
    <figcaption>Cash over {{ years }} years [{{ currency }}]</figcaption>
    <svg
      ref="chart"
      :viewBox="`0 0 ${width} ${HEIGHT}`"
      width="100%"
      :height="HEIGHT"
      role="img"
      :aria-label="`Cash over ${years} years: ${number(running[0]!)} at once, ${number(running.at(-1)!)} at the end; ${payback === null ? 'never paid back' : `paid back after ${number(payback, 1)} years`}`"
    >
      <g font-size="11">
        <template v-for="v in lines" :key="v">
          <line :x1="LEFT" :x2="x(years)" :y1="y(v)" :y2="y(v)" :stroke="v === 0 ? 'var(--ink)' : 'var(--rule)'" />
          <text :x="LEFT - 7" :y="y(v) + 4" text-anchor="end" style="fill: var(--soft)">{{ number(v) }}</text>
        </template>
        <text v-for="m in marks" :key="m" :x="x(m)" :y="HEIGHT - 8" text-anchor="middle" style="fill: var(--soft)">
          {{ m }}
        </text>
      </g>
      <path :d="`${path}V${y(0)}H${x(0)}Z`" fill="var(--yield)" opacity="0.14" />
      <path :d="path" fill="none" stroke="var(--yield)" stroke-width="2" />
      <circle v-for="dip in dips" :key="dip.i" :cx="x(dip.i)" :cy="y(running[dip.i]!)" r="3" fill="var(--loss)">
        <title>Year {{ dip.i }}: {{ number(dip.v) }} {{ currency }}</title>
      </circle>
      <template v-if="payback !== null && payback > 0">
        <line :x1="x(payback)" :x2="x(payback)" :y1="y(0) - 8" :y2="y(0) + 8" stroke="var(--sun)" stroke-width="3" />
        <text
          :x="x(payback) + (payback > years * 0.75 ? -7 : 7)"
          :y="y(0) + 18"
          font-size="12"
          :text-anchor="payback > years * 0.75 ? 'end' : 'start'"
          font-weight="600"
          style="fill: var(--sun-text)"
        >
          paid back after {{ number(payback, 1) }} years
        </text>
      </template>
    </svg>
  </figure>
</template>
<style scoped>
figure {
  margin: 0;
}
figcaption {
  font: 600 13.5px var(--serif);
}
</style>
