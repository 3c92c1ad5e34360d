<script setup lang="ts">
import { computed } from 'vue'
import type { WeatherAnswer } from '@/api/client'
import CopyTable from '@/tables/CopyTable.vue'
import { distanceKm, MONTHS, number, signed } from '@/theme/format'

/** Years side by side, month by month: irradiation and temperature, each against the first. */
const props = defineProps<{
  years: WeatherAnswer[]
  site: { latitude: number; longitude: number; elevation: number }
}>()
const emit = defineEmits<{ choose: [year: WeatherAnswer]; close: [] }>()
const TONES = ['var(--sun)', 'var(--current)', 'var(--yield)', 'var(--loss)', 'var(--haze)']
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
    <svg viewBox="0 0 600 112" width="100%" role="img" aria-label="Global horizontal irradiation by month">
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
            <th />
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
            <td>Diffuse</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ number((year.summary.annual_dhi / Math.max(1, year.summary.annual_ghi)) * 100) }} %
            </td>
          </tr>
          <tr>
            <td>Temperature [°C]</td>
            <td v-for="(year, i) in years" :key="year.digest" class="num">
              {{ number(year.summary.mean_temperature, 1)
              }}<span v-if="i" class="soft">
                {{ signed(year.summary.mean_temperature - first.summary.mean_temperature, 1) }} K</span
              >
            </td>
          </tr>
          <tr>
            <td>Lowest, highest [°C]</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ number(year.summary.lowest_temperature) }}, {{ number(year.summary.highest_temperature) }}
            </td>
          </tr>
          <tr>
            <td>Wind [m/s]</td>
            <td v-for="year in years" :key="year.digest" class="num">{{ number(year.summary.mean_wind, 1) }}</td>
          </tr>
          <tr>
            <td>From the site</td>
            <td v-for="year in years" :key="year.digest" class="num">
              {{ number(distanceKm(site, year)) }} km, {{ signed(year.elevation - site.elevation) }} m
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
