<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, type SourceLine, type WeatherAnswer } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { cancelJob, useJob } from '@/stores/useJob'
import { quantity, signed } from '@/theme/format'
import { differenceShown, shownUnit } from '@/theme/habits'

/** Stations and gridded data near the site; several can be fetched at once and are compared before one is chosen. */
const props = defineProps<{ site: { latitude: number; longitude: number; elevation: number } }>()
const emit = defineEmits<{ close: []; fetched: [years: WeatherAnswer[]] }>()
const MOST = 5
const { answer, fault, isAsking } = useAnswer(
  () => `${props.site.latitude} ${props.site.longitude}`,
  (signal) => api.weatherSources(props.site, signal),
)
const keyOf = (s: SourceLine) => `${s.service} ${s.collection} ${s.location}`
const chosen = ref<string[]>([])
const years = reactive<Record<string, number>>({})
const filter = ref('')
const listed = computed(() =>
  (answer.value?.sources ?? []).filter((s) =>
    `${s.title} ${s.kind}`.toLowerCase().includes(filter.value.toLowerCase()),
  ),
)
const yearsOf = (s: SourceLine) =>
  s.first_year === null || s.last_year === null
    ? []
    : Array.from({ length: s.last_year - s.first_year + 1 }, (_, i) => s.last_year! - i)
const yearOf = (s: SourceLine) => years[keyOf(s)] ?? s.last_year
const NAMES: Record<string, string> = {
  ghi: 'GHI',
  dni: 'DNI',
  dhi: 'DHI',
  temperature: 'temperature',
  wind: 'wind',
  pressure: 'pressure',
}
const thisYear = new Date().getFullYear()

/** How each fetch goes on, by the source's title. */
const states = reactive<Record<string, string>>({})
const isFetching = ref(false)
const jobs: string[] = []
let isCancelled = false
async function fetchOne(source: SourceLine): Promise<WeatherAnswer | null> {
  const name = keyOf(source)
  try {
    states[name] = 'asked…'
    const begun = await api.requestSource({
      service: source.service,
      collection: source.collection,
      location: source.location,
      title: source.title,
      parameters: source.parameters,
      year: yearOf(source),
      ...props.site,
    })
    jobs.push(begun.id)
    const job = await useJob().follow(begun, (message) => (states[name] = message || 'asked…'))
    if (job.state !== 'done') {
      states[name] = job.message || job.state
      return null
    }
    states[name] = 'fetched'
    return await api.weatherYear((job.result as { digest: string }).digest)
  } catch (error) {
    states[name] = (error as Error).message
    return null
  }
}
async function fetchAll() {
  isFetching.value = true
  isCancelled = false
  const wanted = (answer.value?.sources ?? []).filter((s) => chosen.value.includes(keyOf(s)))
  const found = (await Promise.all(wanted.map(fetchOne))).filter((y) => y !== null)
  isFetching.value = false
  if (found.length && !isCancelled) emit('fetched', found)
}
function cancel() {
  isCancelled = true
  for (const id of jobs.splice(0)) void cancelJob(id)
}
</script>
<template>
  <div class="sources" role="dialog" aria-label="Weather sources near the site">
    <header>
      <h3>Weather sources near the site</h3>
      <input v-model="filter" class="field" type="search" placeholder="Filter" aria-label="Filter the sources" />
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <p v-else-if="isAsking && !answer" class="soft" role="status">Asking the services…</p>
    <template v-if="answer">
      <p v-for="problem in answer.problems" :key="problem" class="care">△ {{ problem }}</p>
      <div class="long">
        <table class="ledger">
          <thead>
            <tr>
              <th scope="col"><span class="sr">Acts</span></th>
              <th>Source</th>
              <th class="num">Distance</th>
              <th class="num">Height</th>
              <th>Year</th>
              <th>Quantities</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="s in listed" :key="keyOf(s)">
              <td>
                <input
                  v-model="chosen"
                  type="checkbox"
                  :value="keyOf(s)"
                  :aria-label="`Fetch ${s.title}`"
                  :disabled="isFetching || (chosen.length >= MOST && !chosen.includes(keyOf(s)))"
                />
              </td>
              <td>
                <b>{{ s.title }}</b> <span class="soft">{{ s.kind === 'grid' ? 'gridded' : 'station' }}</span>
                <span v-if="states[keyOf(s)]" :class="states[keyOf(s)] === 'fetched' ? 'good' : 'care'">
                  {{ states[keyOf(s)] }}</span
                >
              </td>
              <td class="num">{{ s.kind === 'grid' ? 'at the site' : `${quantity(s.distance, 'km')}` }}</td>
              <td class="num">
                {{
                  s.height_difference === null
                    ? '–'
                    : `${signed(differenceShown(s.height_difference, 'm'))} ${shownUnit('m')}`
                }}
              </td>
              <td>
                <select
                  v-if="yearsOf(s).length"
                  class="blank"
                  :value="yearOf(s)"
                  :aria-label="`Year of ${s.title}`"
                  @change="years[keyOf(s)] = Number(($event.target as HTMLSelectElement).value)"
                >
                  <option v-for="y in yearsOf(s)" :key="y" :value="y">{{ y }}</option>
                </select>
                <span v-else>typical</span>
                <span v-if="s.last_year" class="soft">
                  of {{ yearsOf(s).length }}, to {{ s.last_year
                  }}{{ thisYear - s.last_year > 3 ? `, ${thisYear - s.last_year} years old` : '' }}</span
                >
              </td>
              <td class="soft">{{ s.quantities.map((q) => NAMES[q] ?? q).join(', ') }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p v-if="!listed.length" class="soft">No source near the site.</p>
      <p class="acts">
        <button type="button" class="button strong" :disabled="!chosen.length || isFetching" @click="fetchAll">
          {{ chosen.length > 1 ? `Fetch ${chosen.length} and compare` : 'Fetch' }}
        </button>
        <button v-if="isFetching" type="button" class="button" @click="cancel">Cancel</button>
        <span class="soft">At most {{ MOST }} at once. Each comes into the library.</span>
      </p>
    </template>
  </div>
</template>
<style scoped>
.sources {
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
.long {
  max-height: 52vh;
  overflow-y: auto;
}
td {
  padding: 3px 8px;
}
.acts {
  align-items: baseline;
}
</style>
