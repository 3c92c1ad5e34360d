<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, type SchemeJobs, type WeatherAnswer, type YearsResult } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useJob } from '@/stores/useJob'
import CopyTable from '@/tables/CopyTable.vue'
import { MONTHS, energyText, number, percent, quantity } from '@/theme/format'
import { toShown } from '@/theme/habits'

/** The scheme over all the years of the file: each year's energy, the spread between them, and what is exceeded in nine of ten. */
const props = defineProps<{ year: WeatherAnswer }>()
const emit = defineEmits<{ drift: [perYear: number | null] }>()
const store = useSchemeStore()
const { job, follow, cancel } = useJob()
const result = ref<YearsResult | null>(null)
const fault = ref('')
const years = computed(() => (props.year.reading.reading as { years?: number[] } | undefined)?.years ?? [])
const isOld = computed(() => result.value !== null && result.value.revision !== store.saved?.revision)
const most = computed(() => Math.max(1, ...(result.value?.runs.map((run) => run.energy) ?? [])))
const worst = computed(() => {
  const months = result.value?.monthly_ghi ?? []
  return months.length ? MONTHS[months.indexOf(Math.min(...months))]! : ''
})

/** A run to its end, and what it found. */
async function show(begun: SchemeJobs['years']) {
  const ended = await follow(begun)
  if (ended.state === 'failed' || ended.state === 'interrupted') fault.value = ended.message
  result.value = ended.result ?? result.value
}
async function run() {
  fault.value = ''
  try {
    await store.flush()
    await show(await api.beginJob(store.saved!.id, 'years'))
  } catch (error) {
    fault.value = (error as Error).message
  }
}
watch(
  () => props.year.digest,
  async () => {
    result.value = null
    fault.value = ''
    if (years.value.length < 2 || !store.saved) return
    try {
      const last = await api.latestJob(store.saved.id, 'years')
      if (last) await show(last)
    } catch (error) {
      fault.value = (error as Error).message
    }
  },
  { immediate: true },
)
watch(result, (found) => emit('drift', found?.is_drifting ? (found.drift_per_year ?? null) : null))
const useCold = (low: number, high: number) =>
  store.edit({
    site: { lowest_temperature: Math.round(low * 10) / 10, highest_temperature: Math.round(high * 10) / 10 },
  })
</script>
<template>
  <section v-if="years.length > 1 && !year.is_typical" class="record">
    <h3>Over {{ years.length }} years</h3>
    <p v-if="job" role="status">
      <progress :value="job.progress" max="1" /> {{ job.message }}
      <button type="button" class="link" @click="cancel">Cancel</button>
    </p>
    <p v-else>
      The file has the years {{ years[0] }} to {{ years.at(-1) }}.
      <button type="button" class="link" @click="run">
        {{ result ? 'Simulate them again' : 'Simulate the scheme over all of them' }}
      </button>
      <CopyTable v-if="result" within="section" />
    </p>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <template v-if="result">
      <p v-if="isOld" class="care">△ These figures belong to an earlier state of the scheme.</p>
      <p :class="{ old: isOld }">
        <b class="serif">{{ energyText(result.p50) }}</b> in the mean year (P50),
        <b>{{ energyText(result.p90) }}</b> are exceeded in nine of ten (P90, spread between years of
        {{ percent(result.spread) }} alone). Least light in {{ worst }}.
        {{ result.dark_words }}
      </p>
      <table class="ledger" :class="{ old: isOld }" aria-label="Each year of the record">
        <thead>
          <tr>
            <th>Year</th>
            <th class="num">Energy [kWh]</th>
            <th scope="col"><span class="sr">Picture</span></th>
            <th class="num">Yield [kWh/kW]</th>
            <th class="num">PR</th>
            <th class="num">GHI [kWh/m²]</th>
            <th class="num">Plane [kWh/m²]</th>
            <th v-if="result.dark_words" class="num">Dark [h]</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="run_ in result.runs" :key="run_.year">
            <td>{{ run_.year }}</td>
            <td class="num">{{ number(run_.energy) }}</td>
            <td class="bar"><i :style="{ width: `${(run_.energy / most) * 100}%` }" /></td>
            <td class="num">{{ number(run_.specific_yield) }}</td>
            <td class="num">{{ percent(run_.performance_ratio) }}</td>
            <td class="num">{{ number(run_.horizontal_irradiation) }}</td>
            <td class="num">{{ number(run_.plane_irradiation) }}</td>
            <td v-if="result.dark_words" class="num">{{ number(run_.dark_hours ?? 0) }}</td>
          </tr>
        </tbody>
      </table>
      <p class="soft">
        Temperature by record {{ number(toShown(result.temperature.record_low, '°C'), 1) }} to
        {{ quantity(result.temperature.record_high, '°C', 1) }}, mean of the yearly extremes
        {{ number(toShown(result.temperature.mean_low, '°C'), 1) }} to
        {{ quantity(result.temperature.mean_high, '°C', 1) }}, 2 % choice
        {{ number(toShown(result.temperature.low_2_percent, '°C'), 1) }} to
        {{ quantity(result.temperature.high_2_percent, '°C', 1) }}.
        <button
          type="button"
          class="link"
          @click="useCold(result.temperature.record_low, result.temperature.record_high)"
        >
          Use the record for electrical limits
        </button>
      </p>
      <p v-if="result.is_drifting" class="care">
        △ The sensor seems to drift: the clearest light changes by {{ percent(result.drift_per_year ?? 0, 2) }} a year.
      </p>
    </template>
  </section>
</template>
<style scoped>
.record {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
}
.bar {
  width: 26%;
}
.bar i {
  display: block;
  height: 9px;
  background: var(--yield);
  border-radius: 2px;
}
.old {
  opacity: 0.5;
}
</style>
