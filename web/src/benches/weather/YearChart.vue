<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { pathThrough, scale, type Place } from '@/charts/picture'
import type { WeatherAnswer } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { MONTHS, number, quantity } from '@/theme/format'
import { shownUnit, toShown } from '@/theme/habits'

/** Light by month, diffuse inside global, over a band of temperature. */
const props = defineProps<{ year: WeatherAnswer }>()
const s = computed(() => props.year.summary)
const width = useDrawnWidth(useTemplateRef('chart'), 690, 360)
const W = computed(() => width.value - 50)
const step = computed(() => W.value / 12)
const LIGHT = 168,
  BAND = 96
const top = computed(() => Math.ceil(Math.max(...s.value.monthly_ghi) / 50) * 50)
const y = (v: number) => 18 + LIGHT - (v / top.value) * LIGHT
const warm = computed(() => ({
  low: Math.floor((toShown(Math.min(...s.value.monthly_lowest), '°C') - 1) / 5) * 5,
  high: Math.ceil((toShown(Math.max(...s.value.monthly_highest), '°C') + 1) / 5) * 5,
}))
const t = computed(() => scale([warm.value.low, warm.value.high], [240 + BAND, 240]))
const mid = (i: number) => 36 + (i + 0.5) * step.value
const places = (values: number[]) => values.map((v, i): Place => [mid(i), t.value(toShown(v, '°C'))])
const line = (values: number[]) => pathThrough(places(values))
const band = computed(
  () => `${pathThrough([...places(s.value.monthly_highest), ...places(s.value.monthly_lowest).toReversed()])}Z`,
)
const steps = computed(() => {
  const apart = top.value > 200 ? 100 : 50
  return Array.from({ length: Math.floor(top.value / apart) + 1 }, (_, i) => i * apart)
})
</script>
<template>
  <svg
    ref="chart"
    :viewBox="`0 -5 ${width} 352`"
    width="100%"
    role="img"
    :aria-label="`Irradiation and temperature by month: ${s.monthly_ghi.map((v, i) => `${MONTHS[i]} ${number(v)} kWh/m² and ${quantity(s.monthly_temperature[i]!, '°C')}`).join(', ')}`"
  >
    <text x="36" y="8" font-size="11" style="fill: var(--soft)">
      Monthly irradiation [kWh/m²]: global, of which diffuse (dark)
    </text>
    <g v-for="v in steps" :key="v">
      <line x1="36" :x2="36 + W" :y1="y(v)" :y2="y(v)" stroke="var(--rule)" />
      <text x="30" :y="y(v) + 4" font-size="11" text-anchor="end" style="fill: var(--soft)">{{ number(v) }}</text>
    </g>
    <g v-for="(v, i) in s.monthly_ghi" :key="i">
      <title>
        {{ MONTHS[i] }}: {{ number(v, 1) }} kWh/m², of which {{ number(s.monthly_dhi[i]!, 1) }} diffuse;
        {{ quantity(s.monthly_temperature[i]!, '°C', 1) }}
      </title>
      <rect
        :x="mid(i) - step * 0.33"
        :y="y(v)"
        :width="step * 0.66"
        :height="18 + LIGHT - y(v)"
        fill="var(--sun)"
        opacity=".85"
      />
      <rect
        :x="mid(i) - step * 0.33"
        :y="y(s.monthly_dhi[i]!)"
        :width="step * 0.66"
        :height="18 + LIGHT - y(s.monthly_dhi[i]!)"
        fill="var(--ink)"
        opacity=".28"
      />
      <text :x="mid(i)" :y="y(v) - 5" font-size="11" text-anchor="middle">{{ number(v) }}</text>
      <text :x="mid(i)" y="204" font-size="11" text-anchor="middle" style="fill: var(--soft)">{{ MONTHS[i] }}</text>
    </g>
    <text x="36" y="229" font-size="11" style="fill: var(--soft)">
      Air temperature [{{ shownUnit('°C') }}]: monthly mean, with mean daily minimum and maximum
    </text>
    <g
      v-for="v in [warm.low, 0, warm.high].filter(
        (v, i, all) => all.indexOf(v) === i && v >= warm.low && v <= warm.high,
      )"
      :key="`t${v}`"
    >
      <line x1="36" :x2="36 + W" :y1="t(v)" :y2="t(v)" stroke="var(--rule)" />
      <text x="30" :y="t(v) + 4" font-size="11" text-anchor="end" style="fill: var(--soft)">{{ number(v) }}</text>
    </g>
    <path :d="band" fill="var(--loss)" opacity=".16" />
    <path :d="line(s.monthly_temperature)" fill="none" stroke="var(--loss)" stroke-width="1.6" />
  </svg>
</template>
