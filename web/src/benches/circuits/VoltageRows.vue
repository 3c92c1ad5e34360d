<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { VoltageAnswer } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { number, quantity } from '@/theme/format'

/** One row a possible string length: the year's own voltages on the inverter's scale. What fits is seen. */
const props = defineProps<{ data: VoltageAnswer; chosen: number }>()
const emit = defineEmits<{ choose: [length: number] }>()
const LEFT = 118,
  TOP = 52,
  ROW = 38
const width = useDrawnWidth(useTemplateRef('chart'), 720, 440)
const right = computed(() => width.value - 16)
/** On a narrow page the key takes two lines. */
const isNarrow = computed(() => width.value < 640)
const span = computed(() => {
  const d = props.data
  const low = Math.min(d.lowest, d.start, ...d.rows.map((r) => r.hot_working)) * 0.82
  return { low: Math.max(0, low), high: d.limit * 1.16 }
})
const x = (volts: number) =>
  LEFT +
  ((Math.min(Math.max(volts, span.value.low), span.value.high) - span.value.low) / (span.value.high - span.value.low)) *
    (right.value - LEFT)
const foot = computed(() => TOP + props.data.rows.length * ROW)
const bands = computed(() => {
  const d = props.data
  return [
    { from: span.value.low, to: d.lowest, fill: 'var(--haze)', opacity: 0.13 },
    { from: d.lowest, to: d.full_power, fill: 'var(--current)', opacity: 0.06 },
    { from: d.full_power, to: d.highest, fill: 'var(--current)', opacity: 0.14 },
    { from: d.highest, to: d.limit, fill: 'var(--sun)', opacity: 0.1 },
    { from: d.limit, to: span.value.high, fill: 'var(--loss)', opacity: 0.16 },
  ]
})
const marks = computed(() => {
  const d = props.data
  const every = [
    { v: d.lowest, text: isNarrow.value ? 'MPP from' : 'MPP window from', anchor: 'start', tone: 'var(--soft)' },
    {
      v: d.full_power,
      text: isNarrow.value ? 'full power' : 'full power from',
      anchor: 'start',
      tone: 'var(--current-text)',
    },
    { v: d.highest, text: isNarrow.value ? 'MPP to' : 'MPP window to', anchor: 'end', tone: 'var(--current-text)' },
    {
      v: d.limit,
      text: d.limit_of === 'inverter' ? (isNarrow.value ? 'max. DC' : 'max. DC voltage') : 'module limit',
      anchor: 'start',
      tone: 'var(--loss-text)',
    },
  ] as const
  // Where full power begins with the window, one word is enough.
  return every.filter((_, i) => i !== 0 || d.lowest < d.full_power)
})
function area(values: number[], top: number, base: number): string {
  const d = props.data
  let path = ''
  let last = 0
  values.forEach((hours, i) => {
    if (!hours && !last) return
    const middle = (d.edges[i]! + d.edges[i + 1]!) / 2
    if (!path) path = `M${x(d.edges[i]!)} ${base}`
    path += `L${x(middle).toFixed(1)} ${(base - (hours / top) * (ROW - 10)).toFixed(1)}`
    last = hours
    if (!values.slice(i + 1).some(Boolean)) path += `L${x(d.edges[i + 1]!)} ${base}Z`
  })
  return path
}
const rows = computed(() =>
  props.data.rows.map((row, i) => {
    const base = TOP + (i + 1) * ROW - 6
    return {
      ...row,
      base,
      working: area(row.working, Math.max(...row.working, 1), base),
      open: area(row.open_circuit, Math.max(...row.working, 1), base),
    }
  }),
)
const say = (
  row: Pick<VoltageAnswer['rows'][number], 'length' | 'fits' | 'why' | 'cold_open_circuit' | 'hot_working'>,
) =>
  `${row.length} modules: ${row.fits ? 'fits' : row.why}; open at the coldest ${number(row.cold_open_circuit)} volts, working at the hottest ${number(row.hot_working)} volts`
</script>
<template>
  <svg ref="chart" :viewBox="`0 0 ${width} ${foot + (isNarrow ? 48 : 30)}`" width="100%" class="rows">
    <rect
      v-for="band in bands"
      :key="band.from"
      :x="x(band.from)"
      :y="TOP - 8"
      :width="Math.max(0, x(band.to) - x(band.from))"
      :height="foot - TOP + 8"
      :fill="band.fill"
      :opacity="band.opacity"
    />
    <g v-for="mark in marks" :key="mark.text">
      <path
        :d="`M${x(mark.v)} ${TOP - 13}V${foot}`"
        :stroke="mark.tone"
        :stroke-dasharray="mark.v === data.limit ? '' : '2 3'"
        :stroke-width="mark.v === data.limit ? 1.6 : 1"
      />
      <text
        :x="x(mark.v) + (mark.anchor === 'end' ? -4 : 4)"
        :y="TOP - 30"
        font-size="11"
        :text-anchor="mark.anchor"
        :style="{ fill: mark.tone }"
      >
        {{ mark.text }}
      </text>
      <text
        :x="x(mark.v) + (mark.anchor === 'end' ? -4 : 4)"
        :y="TOP - 17"
        font-size="11"
        font-weight="600"
        :text-anchor="mark.anchor"
        :style="{ fill: mark.tone }"
      >
        {{ number(mark.v) }} V
      </text>
    </g>
    <g v-for="row in rows" :key="row.length" class="row">
      <rect
        x="4"
        :y="row.base - ROW + 8"
        :width="width - 8"
        :height="ROW - 3"
        rx="6"
        :class="{ on: row.length === chosen }"
        class="frame"
        role="button"
        tabindex="0"
        :aria-pressed="row.length === chosen"
        :aria-label="say(row)"
        @click="emit('choose', row.length)"
        @keydown.enter="emit('choose', row.length)"
        @keydown.space.prevent="emit('choose', row.length)"
      >
        <title>{{ say(row) }}</title>
      </rect>
      <g aria-hidden="true" class="drawn">
        <path :d="row.open" fill="none" :stroke="row.fits ? 'var(--haze)' : 'var(--loss)'" />
        <path
          :d="row.working"
          :fill="row.fits ? 'var(--current)' : 'var(--loss)'"
          :opacity="row.length === chosen ? 0.95 : 0.45"
        />
        <path
          :d="`M${x(row.cold_open_circuit)} ${row.base}v-17`"
          :stroke="row.cold_open_circuit > data.limit ? 'var(--loss)' : 'var(--ink)'"
          stroke-width="2"
        />
        <path :d="`M${x(row.hot_working)} ${row.base}v-17`" stroke="var(--sun)" stroke-width="2" />
        <template v-if="row.length === chosen || !row.fits">
          <text
            :x="x(row.cold_open_circuit) + (x(row.cold_open_circuit) > width - 60 ? -5 : 5)"
            :y="row.base - 8"
            font-size="11"
            font-weight="600"
            :text-anchor="x(row.cold_open_circuit) > width - 60 ? 'end' : 'start'"
            :style="{ fill: row.cold_open_circuit > data.limit ? 'var(--loss-text)' : 'var(--ink)' }"
          >
            {{ number(row.cold_open_circuit) }} V
          </text>
          <text
            :x="x(row.hot_working) - 5"
            :y="row.base - 8"
            font-size="11"
            font-weight="600"
            text-anchor="end"
            style="fill: var(--sun-text)"
          >
            {{ number(row.hot_working) }} V
          </text>
        </template>
        <text x="16" :y="row.base - 8" font-size="16" font-weight="600" style="font-family: var(--serif)">
          {{ row.length }}
        </text>
        <text x="40" :y="row.base - 9" font-size="11" :style="{ fill: row.fits ? 'var(--soft)' : 'var(--loss-text)' }">
          {{ row.fits ? (row.length === chosen ? 'chosen' : 'fits') : 'does not fit' }}
        </text>
      </g>
    </g>
    <text x="16" :y="TOP - 30" font-size="11" style="fill: var(--soft)">modules</text>
    <text x="16" :y="TOP - 17" font-size="11" style="fill: var(--soft)">per string</text>
    <g :transform="`translate(118 ${foot + 20})`" font-size="11" class="key">
      <rect y="-9" width="12" height="9" fill="var(--current)" />
      <text x="17">Vmp, hours of the year</text>
      <path d="M176 -4h12" stroke="var(--haze)" />
      <text x="193">Voc</text>
      <g :transform="isNarrow ? 'translate(0 18)' : 'translate(240 0)'">
        <path d="M1 -10v10" stroke="var(--ink)" stroke-width="2" />
        <text x="8">Voc at {{ quantity(data.coldest, '°C') }}</text>
        <path d="M109 -10v10" stroke="var(--sun)" stroke-width="2" />
        <text x="116">Vmp at {{ quantity(data.hottest_cell, '°C') }} cell temperature</text>
      </g>
    </g>
  </svg>
</template>
<style scoped>
.frame {
  fill: transparent;
  stroke: transparent;
}
.frame.on {
  stroke: var(--ink);
  stroke-width: 1.4;
}
.frame {
  cursor: pointer;
}
.frame:hover {
  fill: var(--wash);
}
.drawn {
  pointer-events: none;
}
.frame:focus-visible {
  outline: none;
  stroke: var(--current);
  stroke-width: 2.5;
}
.key text {
  fill: var(--soft);
}
</style>
