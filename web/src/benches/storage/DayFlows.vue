<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { DayFlows } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { number } from '@/theme/format'
import { axisStep, axisText, stepBand, stepPath } from '@/charts/dayShape'

/** A day as flows laid on one another along 24 hours: what is used above the line, what is stored and given below it; the charge beneath. */
const props = defineProps<{ flows: DayFlows; energy: number; title: string; isOffGrid: boolean }>()
const LEFT = 190
const [HEIGHT, TOP, ZERO, LOW, CHARGE] = [286, 12, 132, 206, 258]
const width = useDrawnWidth(useTemplateRef('chart'), 700, 320)
type Key = Exclude<keyof DayFlows, 'stored'>
const ABOVE: { key: Key; tone: string; text: string }[] = [
  { key: 'sun_use', tone: 'var(--yield)', text: 'sun to use' },
  { key: 'battery_use', tone: 'var(--sun)', text: 'battery to use' },
  { key: 'grid_use', tone: 'var(--current)', text: 'grid to use' },
]
const BELOW: { key: Key; tone: string; text: string }[] = [
  { key: 'sun_battery', tone: 'var(--sun)', text: 'sun to battery' },
  { key: 'grid_battery', tone: 'var(--current)', text: 'grid to battery' },
  { key: 'sun_grid', tone: 'var(--haze)', text: 'sun to grid' },
]
const slots = computed(() => props.flows.stored.length)
const hours = computed(() => 24 / slots.value)
const sum = (key: Key) => props.flows[key].reduce((a, b) => a + b, 0) * hours.value
function layersOf(kinds: typeof ABOVE) {
  let low = Array.from({ length: slots.value }, () => 0)
  return kinds.map((kind) => {
    const from = low
    low = props.flows[kind.key].map((v, i) => v + from[i]!)
    return { ...kind, low: from, high: low }
  })
}
const above = computed(() => layersOf(ABOVE))
const below = computed(() => layersOf(BELOW))
const top = computed(() => Math.max(...above.value.at(-1)!.high, 1e-6) * 1.05)
const deep = computed(() => Math.max(...below.value.at(-1)!.high, 1e-6) * 1.05)
/** One scale for both halves, so that a kW is as tall above as below. */
const scale = computed(() => Math.min((ZERO - TOP) / top.value, (LOW - ZERO) / deep.value))
const step = computed(() => axisStep(Math.max(top.value, deep.value), 3))
const x = (share: number) => LEFT + share * (width.value - LEFT - 12)
const up = (value: number) => ZERO - value * scale.value
const down = (value: number) => ZERO + value * scale.value
const level = (value: number) => CHARGE - (value / Math.max(props.energy, 1e-9)) * (CHARGE - LOW - 14)
const lines = computed(() =>
  Array.from({ length: Math.floor(Math.max(top.value, deep.value) / step.value) }, (_, i) => (i + 1) * step.value),
)
/** Without a grid a generator stands in its place, and nothing is given. */
const told = (text: string) => (props.isOffGrid ? text.replace('grid', 'generator') : text)
const keys = computed(() =>
  [...ABOVE, ...BELOW]
    .filter((kind) => !props.isOffGrid || kind.key !== 'sun_grid')
    .map((kind) => ({ ...kind, text: told(kind.text), value: sum(kind.key) })),
)
const words = computed(
  () => `${props.title}: ${keys.value.map((k) => `${number(k.value, 1)} kWh ${k.text}`).join(', ')}`,
)
const zero = computed(() => props.flows.stored.map(() => 0))
</script>
<template>
  <svg ref="chart" :viewBox="`0 0 ${width} ${HEIGHT}`" width="100%" :height="HEIGHT" role="img" :aria-label="words">
    <g font-size="11">
      <template v-for="v in lines" :key="v">
        <template v-if="up(v) > TOP - 4">
          <line :x1="x(0)" :x2="x(1)" :y1="up(v)" :y2="up(v)" stroke="var(--rule)" />
          <text :x="x(0) - 6" :y="up(v) + 4" text-anchor="end" style="fill: var(--soft)">
            {{ axisText(v, step) }} kW
          </text>
        </template>
        <line v-if="down(v) < LOW" :x1="x(0)" :x2="x(1)" :y1="down(v)" :y2="down(v)" stroke="var(--rule)" />
      </template>
    </g>
    <path
      v-for="layer in above"
      :key="layer.key"
      :d="stepBand(layer.low, layer.high, x, up)"
      :fill="layer.tone"
      opacity="0.62"
    >
      <title>{{ told(layer.text) }}: {{ number(sum(layer.key), 2) }} kWh</title>
    </path>
    <path
      v-for="layer in below"
      :key="layer.key"
      :d="stepBand(layer.low, layer.high, x, down)"
      :fill="layer.tone"
      :opacity="layer.key === 'sun_grid' ? 0.45 : 0.62"
    >
      <title>{{ told(layer.text) }}: {{ number(sum(layer.key), 2) }} kWh</title>
    </path>
    <line :x1="x(0)" :x2="x(1)" :y1="ZERO" :y2="ZERO" stroke="var(--ink)" />
    <path :d="stepBand(zero, flows.stored, x, level)" fill="var(--yield)" opacity="0.16" />
    <path :d="stepPath(flows.stored, x, level)" fill="none" stroke="var(--yield)" stroke-width="1.8" />
    <line :x1="x(0)" :x2="x(1)" :y1="CHARGE" :y2="CHARGE" stroke="var(--rule-strong)" />
    <line
      :x1="x(0)"
      :x2="x(1)"
      :y1="level(energy)"
      :y2="level(energy)"
      stroke="var(--rule-strong)"
      stroke-dasharray="2 3"
    />
    <g font-size="11">
      <text :x="x(0) - 6" :y="level(energy) + 4" text-anchor="end" style="fill: var(--soft)">
        {{ number(energy, 1) }} kWh
      </text>
      <text :x="x(0) - 6" :y="CHARGE + 4" text-anchor="end" style="fill: var(--soft)">charge 0</text>
      <text
        v-for="h in [0, 3, 6, 9, 12, 15, 18, 21, 24]"
        :key="h"
        :x="x(h / 24)"
        :y="CHARGE + 16"
        text-anchor="middle"
        style="fill: var(--soft)"
      >
        {{ h }}
      </text>
    </g>
    <g font-size="12">
      <template v-for="(key, i) in keys" :key="key.key">
        <rect x="0" :y="8 + i * 31 + (i > 2 ? 12 : 0)" width="4" height="24" :fill="key.tone" opacity="0.75" />
        <text x="9" :y="19 + i * 31 + (i > 2 ? 12 : 0)" font-weight="600" style="fill: var(--ink)">
          {{ number(key.value, 1) }} kWh
        </text>
        <text x="9" :y="31 + i * 31 + (i > 2 ? 12 : 0)" font-size="11" style="fill: var(--soft)">{{ key.text }}</text>
      </template>
    </g>
  </svg>
</template>
