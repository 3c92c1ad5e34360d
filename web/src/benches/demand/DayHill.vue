<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { scale } from '@/charts/picture'
import type { DemandAnswer } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { MONTHS, number, plain } from '@/theme/format'
import { axisStep, axisText, stepBand, stepPath } from '@/charts/dayShape'
import { toneOf } from './sourceTones'

/** The average day of a month: the sources stacked as a hill, the sun drawn through it. */
const props = defineProps<{ demand: DemandAnswer; month: number; kind: number; picked: string; left: number }>()
const emit = defineEmits<{ pick: [key: string] }>()
const HEIGHT = 176
const [TOP, BASE] = [14, 156]
const width = useDrawnWidth(useTemplateRef('chart'), 700, 320)
const order = computed(() => props.demand.sources.map((s) => s.key).filter((key) => !key.includes('/')))
const sun = computed(() => props.demand.produced[props.month]![props.kind]!)
const slots = computed(() => sun.value.length)
const layers = computed(() => {
  let low = Array.from({ length: slots.value }, () => 0)
  return props.demand.sources.map((source) => {
    const from = low
    low = source.days[props.month]![props.kind]!.map((v, i) => v + from[i]!)
    return { source, low: from, high: low }
  })
})
const total = computed(() => layers.value.at(-1)?.high ?? [])
const met = computed(() => total.value.map((v, i) => Math.min(v, sun.value[i]!)))
const top = computed(() => Math.max(...total.value, ...sun.value, 1e-6) * 1.06)
const step = computed(() => axisStep(top.value))
const lines = computed(() => {
  return Array.from({ length: Math.floor(top.value / step.value) }, (_, i) => (i + 1) * step.value)
})
const along = computed(() => scale([0, 1], [props.left, width.value - 12]))
const x = (share: number) => along.value(share)
const up = computed(() => scale([0, top.value], [BASE, TOP]))
const y = (value: number) => up.value(Math.max(0, value))
const peak = computed(() => sun.value.indexOf(Math.max(...sun.value)))
const hours = computed(() => 24 / slots.value)
const sum = (values: number[]) => values.reduce((a, b) => a + b, 0) * hours.value
const direct = computed(() => sum(props.demand.direct[props.month]![props.kind]!))
const used = computed(() => sum(total.value))
const words = computed(
  () =>
    `Average ${props.demand.groups[props.kind]} of ${MONTHS[props.month]}: ${plain(used.value)} kWh used, ${plain(direct.value)} kWh of it as the sun gives it`,
)
const KEYS = computed(() => [
  { tone: 'var(--yield-text)', text: 'used as it comes', value: direct.value },
  {
    tone: 'var(--sun-text)',
    text: 'to the grid',
    value: Math.max(0, sum(sun.value.map((v) => Math.max(0, v))) - direct.value),
  },
  { tone: 'var(--current-text)', text: 'from the grid', value: Math.max(0, used.value - direct.value) },
])
</script>
<template>
  <svg ref="chart" :viewBox="`0 0 ${width} ${HEIGHT}`" width="100%" :height="HEIGHT" role="img" :aria-label="words">
    <defs>
      <pattern id="margin" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="2" height="5" fill="var(--current)" />
      </pattern>
    </defs>
    <g font-size="11">
      <template v-for="v in lines" :key="v">
        <line :x1="x(0)" :x2="x(1)" :y1="y(v)" :y2="y(v)" stroke="var(--rule)" />
        <text :x="x(0) - 6" :y="y(v) + 4" text-anchor="end" style="fill: var(--soft)">{{ axisText(v, step) }} kW</text>
      </template>
    </g>
    <path
      v-for="layer in layers"
      :key="layer.source.key"
      class="layer"
      :d="stepBand(layer.low, layer.high, x, y)"
      :fill="layer.source.key.includes('/') ? 'url(#margin)' : toneOf(layer.source.key, order)"
      :opacity="
        picked && picked !== layer.source.key.split('/')[0] ? 0.16 : layer.source.key.includes('/') ? 0.6 : 0.42
      "
      @click="emit('pick', layer.source.key.split('/')[0]!)"
    >
      <title>{{ layer.source.title }}: {{ plain(sum(layer.source.days[month]![kind]!)) }} kWh on this day</title>
    </path>
    <path
      class="lit"
      :d="
        stepBand(
          Array.from({ length: slots }, () => 0),
          met,
          x,
          y,
        )
      "
      fill="var(--yield)"
    />
    <path :d="stepPath(total, x, y)" fill="none" stroke="var(--current)" stroke-width="1.5" />
    <path :d="stepPath(sun, x, y)" fill="none" stroke="var(--sun)" stroke-width="1.9" />
    <text
      v-if="sun[peak]! > 0.02 * top"
      :x="x((peak + 0.5) / slots)"
      :y="Math.max(11, y(sun[peak]!) - 5)"
      font-size="11.5"
      text-anchor="middle"
      style="fill: var(--sun-text)"
    >
      sun of {{ MONTHS[month] }}
    </text>
    <line :x1="x(0)" :x2="x(1)" :y1="BASE" :y2="BASE" stroke="var(--rule-strong)" />
    <text
      v-for="h in [0, 3, 6, 9, 12, 15, 18, 21, 24]"
      :key="h"
      :x="x(h / 24)"
      :y="BASE + 15"
      font-size="11"
      text-anchor="middle"
      style="fill: var(--soft)"
    >
      {{ h }}
    </text>
    <g font-size="12">
      <template v-for="(key, i) in KEYS" :key="key.text">
        <text x="0" :y="34 + i * 36" font-weight="600" :style="{ fill: key.tone }">{{ number(key.value, 1) }} kWh</text>
        <text x="0" :y="48 + i * 36" font-size="11" style="fill: var(--soft)">{{ key.text }}</text>
      </template>
    </g>
  </svg>
</template>
<style scoped>
.layer {
  cursor: pointer;
}
.lit {
  opacity: 0.34;
  pointer-events: none;
}
</style>
