<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import MonthHours from '@/charts/MonthHours.vue'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CopyTable from '@/tables/CopyTable.vue'
import { number, percent } from '@/theme/format'
import { useMoment } from '@/tideline/useMoment'
import { useSeries } from '@/tideline/useSeries'
import { averageDays, irradianceClasses } from './averageDays'

/** The average day of each month, of any quantity, and how much light comes at which strength. */
const store = useSchemeStore()
const moment = useMoment()
const CHOICES = [
  { key: 'ghi', text: 'GHI' },
  { key: 'dni', text: 'DNI' },
  { key: 'dhi', text: 'DHI' },
  { key: 'poa', text: 'on the plane' },
  { key: 'air_temperature', text: 'temperature' },
  { key: 'wind', text: 'wind' },
  { key: 'delivered', text: 'energy delivered' },
] as const
const shown = ref<(typeof CHOICES)[number]['key']>('ghi')
const isSolar = ref(false)
const chosen = ref('')
const subarray = computed(() => store.subarrays.find((s) => s.id === chosen.value)?.id ?? store.subarrays[0]?.id ?? '')
const nameOf = (id: string) => {
  const surface = store.subarrays.find((s) => s.id === id)?.surface
  return `${store.surfaces.find((s) => s.id === surface)?.name ?? surface}, ${id}`
}
const { columns } = useSeries(
  computed(() => [shown.value]),
  subarray,
)
const { answer: paths } = useAnswer(
  () => (isSolar.value && store.saved ? `${store.saved.id} ${store.site.latitude} ${store.site.longitude}` : null),
  (signal) => api.sunPaths(store.saved!.id, signal),
)
const column = computed(() => {
  const found = columns.value?.columns[0]
  return found?.key === shown.value ? found : null
})
const isPower = computed(() => column.value?.unit === 'W')
const unit = computed(() => (isPower.value ? 'kW' : (column.value?.unit ?? '')))
const table = computed(() => {
  if (!column.value || (isSolar.value && !paths.value)) return null
  const days = moment.days.value
  const monthOf = (day: number) => new Date(Date.UTC(moment.year.value, 0, 1 + day)).getUTCMonth()
  const noon = paths.value?.noon
  const shift = (day: number) => (isSolar.value && noon ? 12 - noon[Math.min(day, noon.length - 1)]! : 0)
  return averageDays(column.value.values, { days, monthOf }, shift).map((row) =>
    row.map((v) => (isPower.value ? v / 1000 : v)),
  )
})
const flat = computed(() => table.value?.flat().filter((v) => !Number.isNaN(v)) ?? [])
const isSum = computed(() => unit.value === 'W/m²' || unit.value === 'kW')
const low = computed(() => (isSum.value ? 0 : Math.min(...flat.value)))
const high = computed(() => Math.max(...flat.value, low.value + 1e-6))
const decimals = computed(() => (unit.value === 'W/m²' ? 0 : 1))
/** A day's sum of what is summed, else its mean. */
function rowWords(m: number): string {
  const row = table.value?.[m]?.filter((v) => !Number.isNaN(v)) ?? []
  const sum = row.reduce((a, b) => a + b, 0)
  if (unit.value === 'W/m²') return number(sum / 1000, 2)
  return number(isSum.value ? sum : sum / Math.max(1, row.length), 1)
}
const rowHead = computed(() =>
  unit.value === 'W/m²' ? 'kWh/m² a day' : isPower.value ? 'kWh a day' : `mean ${unit.value}`,
)
const classes = computed(() =>
  column.value && unit.value === 'W/m²' ? irradianceClasses(column.value.values, moment.step.value / 60) : [],
)
const most = computed(() => Math.max(...classes.value.map((c) => c.share), 1e-6))
</script>
<template>
  <section v-if="store.evaluation?.headline" class="average">
    <h3>The average day of each month</h3>
    <div class="tools soft">
      <button
        v-for="c in CHOICES"
        :key="c.key"
        type="button"
        class="link"
        :aria-pressed="shown === c.key"
        @click="shown = c.key"
      >
        {{ c.text }}
      </button>
      <select
        v-if="shown === 'poa' && store.subarrays.length > 1"
        v-model="chosen"
        class="blank"
        aria-label="Whose plane"
      >
        <option value="" disabled>{{ nameOf(subarray) }}</option>
        <option v-for="s in store.subarrays" :key="s.id" :value="s.id">{{ nameOf(s.id) }}</option>
      </select>
      <button type="button" class="link" :aria-pressed="!isSolar" @click="isSolar = false">clock time</button>
      <button type="button" class="link" :aria-pressed="isSolar" @click="isSolar = true">solar time</button>
      <CopyTable within="section" />
    </div>
    <MonthHours
      v-if="table"
      :label="`Average day of each month: ${CHOICES.find((c) => c.key === shown)!.text}`"
      :hours="Array.from({ length: 24 }, (_, h) => h)"
      :value="(m, h) => (Number.isNaN(table![m]![h]!) ? null : table![m]![h]!)"
      :low="low"
      :high="high"
      :words="(v) => `${number(v, decimals)} ${unit}`"
      :row-head="rowHead"
      :row-words="rowWords"
      :is-blank="(v) => isSum && v <= high / 1000"
    />
    <div v-if="classes.length" class="classes">
      <p class="soft">Share of the year’s irradiation by irradiance [W/m²]</p>
      <div v-for="c in classes" :key="c.from" :title="`${c.from} to ${c.to} W/m²: ${number(c.hours)} h`">
        <i :style="{ height: `${(c.share / most) * 44}px` }" />
        <span>{{ percent(c.share, 0) }}</span>
        <small class="soft">{{ c.from }}</small>
      </div>
    </div>
  </section>
</template>
<style scoped>
.average {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}
.tools {
  flex-wrap: wrap;
}
.classes {
  display: flex;
  gap: 6px;
  align-items: end;
  font-size: 11px;
}
.classes p {
  width: 130px;
  align-self: center;
}
.classes div {
  display: grid;
  justify-items: center;
  flex: 1;
}
.classes i {
  width: 100%;
  background: var(--sun);
  border-radius: 2px 2px 0 0;
}
</style>
