<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { pathThrough } from '@/charts/picture'
import type { ReadingAnswer } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { number } from '@/theme/format'

/** Whether the time fits the sun: the clearest days against the clear sky, and how well they agree for every shift. */
const props = defineProps<{ fit: NonNullable<ReadingAnswer['fit']> }>()
const H = 104
const width = useDrawnWidth(useTemplateRef('chart'), 704, 420)
const half = computed(() => width.value * 0.47)
const right = computed(() => width.value * 0.53)
const lit = computed(() => {
  const up = props.fit.hours.filter((_, i) => props.fit.sky[i]! > 0.005 || props.fit.light[i]! > 0.005)
  const first = Math.max(0, Math.floor(Math.min(...up, 6)) - 1)
  const last = Math.min(24, Math.ceil(Math.max(...up, 18)) + 1)
  return { first, last }
})
const x = (hour: number) => ((hour - lit.value.first) / (lit.value.last - lit.value.first)) * half.value
const bars = computed(() => {
  const wide = 24 / props.fit.hours.length
  return props.fit.hours.flatMap((hour, i) =>
    hour > lit.value.first && hour < lit.value.last
      ? [
          {
            x: x(hour - wide / 2) + 0.5,
            w: Math.max(1, x(hour + wide / 2) - x(hour - wide / 2) - 1),
            h: props.fit.light[i]! * H,
          },
        ]
      : [],
  )
})
const sky = computed(() =>
  pathThrough(
    props.fit.hours
      .map((hour, i) => [hour, props.fit.sky[i]!] as const)
      .filter(([hour]) => hour > lit.value.first && hour < lit.value.last)
      .map(([hour, v]) => [x(hour), H - v * H]),
  ),
)
const hours = computed(() =>
  [0, 4, 8, 12, 16, 20, 24].filter((hour) => hour >= lit.value.first && hour <= lit.value.last),
)
const worst = computed(() => Math.max(...props.fit.misfit, 1e-6))
const near = computed(() => props.fit.shifts[props.fit.misfit.indexOf(Math.min(...props.fit.misfit))])
const columns = computed(() => {
  const wide = (width.value - right.value) / props.fit.shifts.length
  return props.fit.shifts.map((shift, i) => ({
    shift,
    x: right.value + i * wide + 1,
    w: Math.max(1, wide - 2),
    h: Math.max(1.5, (props.fit.misfit[i]! / worst.value) * H),
  }))
})
const isFine = computed(() => Math.abs(props.fit.best) < 25)
const verdict = computed(() =>
  isFine.value
    ? 'the time fits the sun'
    : `${props.fit.best > 0 ? '+' : '−'}${number(Math.abs(props.fit.best))} min fits best`,
)
</script>
<template>
  <svg
    ref="chart"
    :viewBox="`0 -26 ${width} ${H + 46}`"
    width="100%"
    role="img"
    :aria-label="`The ${fit.days} clearest days against the clear sky: ${verdict}`"
  >
    <text x="0" y="-12" font-size="11.5" style="fill: var(--ink)">
      {{ fit.days }} clearest days by the file’s clock, and the clear sky
    </text>
    <rect
      v-for="(bar, i) in bars"
      :key="i"
      :x="bar.x"
      :y="H - bar.h"
      :width="bar.w"
      :height="bar.h"
      fill="var(--sun)"
      opacity=".5"
    />
    <path :d="sky" fill="none" stroke="var(--ink)" stroke-width="1.4" />
    <line x1="0" :x2="half" :y1="H" :y2="H" stroke="var(--ink)" stroke-width=".8" />
    <text
      v-for="hour in hours"
      :key="hour"
      :x="x(hour)"
      :y="H + 15"
      font-size="11"
      :text-anchor="hour === lit.first ? 'start' : 'middle'"
      style="fill: var(--soft)"
    >
      {{ hour }} h
    </text>
    <text :x="right" y="-12" font-size="11.5" style="fill: var(--ink)">
      Misfit to the sun by shift [min]:
      <tspan font-weight="600" :style="{ fill: isFine ? 'var(--yield-text)' : 'var(--caution-text)' }">
        {{ verdict }}
      </tspan>
    </text>
    <g v-for="column in columns" :key="column.shift">
      <title>{{ column.shift }} min</title>
      <rect
        :x="column.x"
        :y="H - column.h"
        :width="column.w"
        :height="column.h"
        :fill="column.shift === near ? 'var(--yield)' : 'var(--haze)'"
        :opacity="column.shift === near ? 1 : 0.5"
      />
      <text
        v-if="column.shift % (columns.length > 40 ? 240 : 60) === 0"
        :x="Math.min(column.x + column.w / 2, width - 15)"
        :y="H + 15"
        font-size="11"
        text-anchor="middle"
        style="fill: var(--soft)"
      >
        {{ column.shift > 0 ? '+' : column.shift < 0 ? '−' : '' }}{{ Math.abs(column.shift) }}
      </text>
    </g>
    <line :x1="right" :x2="width" :y1="H" :y2="H" stroke="var(--ink)" stroke-width=".8" />
  </svg>
</template>
