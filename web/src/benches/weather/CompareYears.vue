<script setup lang="ts">
import { computed, ref } from 'vue'
import { pathThrough } from '@/charts/picture'
import { api, type WeatherAnswer } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CopyTable from '@/tables/CopyTable.vue'
import { MONTHS, distanceKm, number, quantity, signed } from '@/theme/format'
import { differenceShown, shownUnit, toShown } from '@/theme/habits'

/** Years side by side, month by month: irradiation and temperature, each against the first. */
const props = defineProps<{
  years: WeatherAnswer[]
  site: { latitude: number; longitude: number; elevation: number }
}>()
const emit = defineEmits<{ choose: [year: WeatherAnswer]; close: [] }>()
const TONES = ['var(--sun)', 'var(--current)', 'var(--yield)', 'var(--loss)', 'var(--haze)']
const store = useSchemeStore()
const { answer: details } = useAnswer(
  () =>
    store.saved ? `${store.saved.id}:${props.years.map((y) => y.digest).join(':')} ${store.saved.revision}` : null,
  (signal) =>
    api.compareWeather(
      store.saved!.id,
      props.years.map((y) => y.digest),
      signal,
    ),
)
const detailOf = (digest: string) => details.value?.years.find((y) => y.digest === digest)
const VIEWS = [
  { key: 'months', text: 'months' },
  { key: 'hours', text: 'hours of the day' },
  { key: 'duration', text: 'duration' },
  { key: 'days', text: 'day by day' },
] as const
const view = ref<(typeof VIEWS)[number]['key']>('months')
/** Curves over a drawing of 600 by 112: of hours or of shares of the time. */
const curves = computed(() => {
  if (view.value !== 'hours' && view.value !== 'duration') return []
  const rows = props.years.map((y) => {
    const detail = detailOf(y.digest)
    return (view.value === 'hours' ? detail?.hour_of_day : detail?.duration) ?? []
  })
  const top = Math.max(1, ...rows.flat())
  return rows.map((row, i) => ({
    fill: TONES[i % TONES.length]!,
    top,
    path: pathThrough(row.map((v, k) => [4 + (k / (row.length - 1)) * 592, H + 4 - (v / top) * H])),
  }))
})
/** Each day of the others against the same day of the first [kWh/m2]. */
const scatter = computed(() => {
  if (view.value !== 'days') return null
  const days = props.years.map((y) => detailOf(y.digest)?.daily ?? [])
  const top = Math.max(1, ...days.flat())
  const dots = days.slice(1).flatMap((row, i) =>
    row.map((v, d) => ({
      key: `${i}.${d}`,
      x: 40 + ((days[0]![d] ?? 0) / top) * 220,
      y: 204 - (v / top) * 196,
      fill: TONES[(i + 1) % TONES.length]!,
    })),
  )
  return { top, dots }
})
const first = computed(() => props.years[0]!)
const most = computed(() => Math.max(1, ...props.years.flatMap((y) => y.summary.monthly_ghi)))
const change = (value: number, of: number) => (of > 0 ? `${signed((value / of - 1) * 100, 0)} %` : '–')
const H = 92
/** Bars of each month side by side, in a drawing of 600 by 112. */
const bars = computed(() => {
  const each = 50 / (props.years.length + 1)
  return props.years.flatMap((year, i) =>
    year.summary.monthly_ghi.map((value, m) => ({
      key: `${year.digest}${m}`,
      x: m * 50 + 4 + i * each,
      width: Math.max(2, each - 1.5),
      height: (value / most.value) * H,
      fill: TONES[i % TONES.length]!,
      words: `${year.title}, ${MONTHS[m]}: ${number(value, 1)} kWh/m²`,
    })),
  )
})
</script>
<template>
  <div class="compare" role="dialog" aria-label="Years compared">
    <header>
      <h3>{{ years.length }} years compared</h3>
      <CopyTable within=".compare" />
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <div class="tools soft">
      <button
        v-for="v in VIEWS"
        :key="v.key"
        type="button"
        class="link"
        :aria-pressed="view === v.key"
        @click="view = v.key"
      >
        {{ v.text }}
      </button>
    </div>
    <svg v-if="curves.length" viewBox="0 0 600 112" width="100%" role="img" :aria-label="`GHI by ${view}`">
      <path v-for="(c, i) in curves" :key="i" :d="c.path" fill="none" :stroke="c.fill" stroke-width="1.8" />
      <line x1="0" x2="600" :y1="H + 4" :y2="H + 4" stroke="var(--ink)" />
      <text x="4" y="12" font-size="10.5">{{ number(curves[0]!.top) }} W/m²</text>
      <template v-if="view === 'hours'">
        <text
          v-for="h in [0, 6, 12, 18, 23]"
          :key="h"
          :x="4 + (h / 23) * 592"
          y="109"
          font-size="10.5"
          text-anchor="middle"
        >
          {{ h }}:00
        </text>
      </template>
      <template v-else>
        <text
          v-for="p in [0, 25, 50, 75, 100]"
          :key="p"
          :x="4 + p * 5.92"
          y="109"
          font-size="10.5"
          text-anchor="middle"
        >
          {{ p }} %
        </text>
      </template>
    </svg>
    <svg v-else-if="scatter" viewBox="0 0 300 226" class="scatter" role="img" aria-label="GHI day by day">
      <path d="M40 8V204H260" fill="none" stroke="var(--ink)" />
      <line x1="40" y1="204" x2="260" y2="8" stroke="var(--haze)" stroke-dasharray="3 3" />
      <circle v-for="dot in scatter.dots" :key="dot.key" :cx="dot.x" :cy="dot.y" r="1.6" :fill="dot.fill" />
      <text x="260" y="220" font-size="10" text-anchor="end">
        {{ first.title }}, 0 to {{ number(scatter.top, 1) }} kWh/m² a day
      </text>
      <text x="36" y="14" font-size="10" text-anchor="end">{{ number(scatter.top, 1) }}</text>
    </svg>
    <svg v-else viewBox="0 0 600 112" width="100%" role="img" aria-label="Global horizontal irradiation by month">
      <rect
        v-for="bar in bars"
        :key="bar.key"
        :x="bar.x"
        :y="H + 4 - bar.height"
        :width="bar.width"
        :height="bar.height"
        :fill="bar.fill"
      >
        <title>{{ bar.words }}</title>
      </rect>
      <line x1="0" x2="600" :y1="H + 4" :y2="H + 4" stroke="var(--ink)" />
      <text v-for="(month, m) in MONTHS" :key="month" :x="m * 50 + 22" y="109" font-size="10.5" text-anchor="middle">
        {{ month }}
      </text>
    </svg>
    <div class="wide">
      <table class="ledger">
        <thead>
          <tr>
            <th>GHI [kWh/m²]</th>
            <th v-for="(year, i) in years" :key="year.digest" class="num">
              <i :style="{ background: TONES[i % TONES.length] }" />{{ year.title }}
            </th>
          </tr>
          <tr>
            <th scope="col"><span class="sr">Acts</span></th>
            <th v-for="year in years" :key="year.digest" class="num">
              <button type="button" class="button" @click="emit('choose', year)">Use this</button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(month, m) in MONTHS" :key="month">
            <td>{{ month }}</td>
            <td v-for="(year, i) in years" :key="year.digest" class="num">
              {{ number(year.summary.monthly_ghi[m]!, 1)
              }}<span v-if="i" class="soft">
                {{ change(year.summary.monthly_ghi[m]!, first.summary.monthly_ghi[m]!) }}</span
              >
            </td>
          </tr>
          <tr class="sum">
            <td>Year</td>
            <td v-for="(year, i) in years" :key="year.digest" class="num">
              <b>{{ number(year.summary.annual_ghi) }}</b><span v-if="i" class="soft">
                {{ change(year.summary.annual_ghi, first.summary.annual_ghi) }}</span
              >
            </td>
          </tr>
          <tr>
            <td>This scheme [kWh]</td>
            <td v-for="(year, i) in years" :key="year.digest" class="num">
              <template v-if="detailOf(year.digest)?.energy != null">
                <b>{{ number(detailOf(year.digest)!.energy!) }}</b><span
                  v-if="i && detailOf(first.digest)?.energy"
                  class="soft"
                >
                  {{ change(detailOf(year.digest)!.energy!, detailOf(first.digest)!.energy!) }}</span
                >
              </template>
              <span v-else class="soft">{{ details ? '–' : '…' }}</span>
            </td>
          </tr>
          <tr>
            <td>Diffuse</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ number((year.summary.annual_dhi / Math.max(1, year.summary.annual_ghi)) * 100) }} %
            </td>
          </tr>
          <tr>
            <td>Temperature [{{ shownUnit('°C') }}]</td>
            <td v-for="(year, i) in years" :key="year.digest" class="num">
              {{ number(toShown(year.summary.mean_temperature, '°C'), 1)
              }}<span v-if="i" class="soft">
                {{ signed(year.summary.mean_temperature - first.summary.mean_temperature, 1) }} K</span
              >
            </td>
          </tr>
          <tr>
            <td>Lowest, highest [{{ shownUnit('°C') }}]</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ number(toShown(year.summary.lowest_temperature, '°C')) }},
              {{ number(toShown(year.summary.highest_temperature, '°C')) }}
            </td>
          </tr>
          <tr>
            <td>Wind [m/s]</td>
            <td v-for="year in years" :key="year.digest" class="num">{{ number(year.summary.mean_wind, 1) }}</td>
          </tr>
          <tr>
            <td>From the site</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ quantity(distanceKm(site, year), 'km') }},
              {{ signed(differenceShown(year.elevation - site.elevation, 'm')) }} {{ shownUnit('m') }}
            </td>
          </tr>
          <tr>
            <td>Year</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ year.is_typical ? 'typical' : year.year }}, {{ year.step }} min
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
<style scoped>
.compare {
  background: var(--sheet);
  padding: 16px 20px;
  border-radius: 12px;
  display: grid;
  gap: 8px;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h3 {
  margin-right: auto;
}
.tools {
  display: flex;
  gap: 14px;
  font-size: 12px;
}
.scatter {
  height: 230px;
  justify-self: center;
}
.wide {
  overflow-x: auto;
  max-height: 52vh;
}
td,
th {
  padding: 2px 8px;
}
th i {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 5px;
}
td .soft {
  display: inline-block;
  min-width: 42px;
}
.sum td {
  border-top: 1px solid var(--rule-strong);
}
</style>
