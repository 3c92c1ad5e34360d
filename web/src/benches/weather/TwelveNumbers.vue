<script setup lang="ts">
import { computed, reactive, ref } from 'vue'
import { api, type WeatherAnswer } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { readNumbers } from '@/theme/reading'
import { MONTHS, number } from '@/theme/format'

/** Twelve monthly values, typed or pasted as cells, to a year of hours that keeps them. */
const emit = defineEmits<{ made: [year: WeatherAnswer]; close: [] }>()
const DAYS = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31]
const COLUMNS = [
  { key: 'ghi', name: 'GHI' },
  { key: 'temperature', name: 'Temperature' },
  { key: 'dhi', name: 'DHI' },
] as const
type Key = (typeof COLUMNS)[number]['key']
const cells = reactive<Record<Key, string[]>>({
  ghi: Array.from({ length: 12 }, () => ''),
  temperature: Array.from({ length: 12 }, () => ''),
  dhi: Array.from({ length: 12 }, () => ''),
})
const measure = ref<'month' | 'day'>('month')
const fault = ref('')
const isMaking = ref(false)
const store = useSchemeStore()
const site = computed(
  () => store.document.site as { latitude: number; longitude: number; elevation?: number; name?: string },
)
const values = (key: Key) => readNumbers(cells[key], key === 'temperature' ? { min: -90, max: 60 } : undefined)
const isEmpty = (key: Key) => cells[key].every((text) => text.trim() === '')
const sum = computed(() =>
  values('ghi').reduce(
    (total, v, i) => total + (Number.isNaN(v) ? 0 : v * (measure.value === 'day' ? DAYS[i]! : 1)),
    0,
  ),
)
const isReady = computed(() => values('ghi').every((v) => v >= 0))

/** Cells from a spreadsheet fill down and to the right of the field that they are pasted into. */
function paste(event: ClipboardEvent, key: Key, month: number) {
  const rows = (event.clipboardData?.getData('text/plain') ?? '').trim().split(/\r?\n/)
  let block = rows.map((row) => row.split('\t'))
  if (rows.length === 1) {
    const one = rows[0]!.split(/[\t;]|\s+/)
    if (one.length < 12) return
    block = one.map((cell) => [cell])
  }
  event.preventDefault()
  const first = COLUMNS.findIndex((column) => column.key === key)
  for (const [down, row] of block.entries())
    for (const [right, cell] of row.entries()) {
      const column = COLUMNS[first + right]
      if (column && month + down < 12) cells[column.key][month + down] = cell.trim()
    }
}
async function make() {
  const byMonth = (key: Key) => values(key).map((v, i) => v * (measure.value === 'day' ? DAYS[i]! : 1))
  fault.value = ''
  for (const column of COLUMNS) {
    const wrong = values(column.key).findIndex((v) => Number.isNaN(v))
    if (wrong >= 0 && (column.key === 'ghi' || !isEmpty(column.key))) {
      fault.value = `${column.name} of ${MONTHS[wrong]} is no number.`
      return
    }
  }
  isMaking.value = true
  try {
    emit(
      'made',
      await api.synthesiseWeather({
        latitude: site.value.latitude,
        longitude: site.value.longitude,
        elevation: site.value.elevation ?? 0,
        name: site.value.name ?? '',
        monthly_ghi: byMonth('ghi'),
        monthly_temperature: isEmpty('temperature') ? null : values('temperature'),
        monthly_dhi: isEmpty('dhi') ? null : byMonth('dhi'),
        seed: 0,
      }),
    )
  } catch (error) {
    fault.value = (error as Error).message
  } finally {
    isMaking.value = false
  }
}
</script>
<template>
  <div role="dialog" aria-modal="true" aria-label="A year from twelve numbers">
    <form class="twelve" @submit.prevent="make">
      <h2>A year from twelve numbers</h2>
      <p class="soft">
        Type them, or paste cells. The months are kept exactly; days and hours are drawn with a real climate’s
        statistics.
      </p>
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col">Month</th>
            <th scope="col" class="num">GHI</th>
            <th scope="col" class="num">Temperature [°C]</th>
            <th scope="col" class="num">DHI</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(month, i) in MONTHS" :key="month">
            <th scope="row">{{ month }}</th>
            <td v-for="column in COLUMNS" :key="column.key" class="num">
              <input
                v-model="cells[column.key][i]"
                class="cell"
                inputmode="decimal"
                :aria-label="`${column.name} of ${month}`"
                :placeholder="column.key === 'ghi' ? '' : 'not given'"
                :autofocus="i === 0 && column.key === 'ghi'"
                @paste="paste($event, column.key, i)"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p>
        <label
          >Irradiation in
          <select v-model="measure">
            <option value="month">kWh/m² a month</option>
            <option value="day">kWh/m² a day (peak-sun hours)</option>
          </select></label
        ><span class="sum"
          >Year <b>{{ number(sum) }}</b> kWh/m²</span
        >
      </p>
      <p v-if="fault" class="care" role="alert">△ {{ fault }}</p>
      <p class="acts">
        <button type="submit" class="button strong" :disabled="!isReady || isMaking">Make the year</button>
        <button type="button" class="link" @click="emit('close')">Close</button>
      </p>
    </form>
  </div>
</template>
<style scoped>
.twelve {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 18px 22px;
  display: grid;
  gap: 10px;
}
tbody tr {
  border-bottom: 1px solid var(--rule);
}
tbody th,
tbody td {
  border: 0;
  padding: 2px 0;
  font-size: 13px;
}
th[scope='row'] {
  text-align: left;
  font-weight: 400;
}
.cell {
  width: 92px;
  text-align: right;
  border: 0;
  border-bottom: 1.5px dotted var(--haze);
  background: transparent;
  font-weight: 600;
  padding: 2px 3px;
}
.cell::placeholder {
  color: var(--soft);
  font-weight: 400;
  opacity: 0.7;
}
select {
  border: 0;
  border-bottom: 1.5px dotted var(--haze);
  background: transparent;
  font-weight: 600;
}
select option {
  background: var(--sheet);
  color: var(--ink);
}
.sum {
  float: right;
}
</style>
