<script setup lang="ts">
import { computed } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CopyTable from '@/tables/CopyTable.vue'
import { MONTHS, number } from '@/theme/format'
import { shownUnit, toShown } from '@/theme/habits'

/** Irradiation a day, temperature and energy by month, beside those of the pinned scheme: the table that is copied everywhere. */
const store = useSchemeStore()
const isKnown = computed(() => store.saved && store.evaluation?.headline)
const { answer: table, fault } = useAnswer(
  () => (isKnown.value ? `${store.saved!.id} ${store.saved!.revision}` : null),
  (signal) => api.months(store.saved!.id, signal),
)
const pinned = computed(() => store.pinnedEvaluation?.headline?.monthly_energy ?? null)
const rows = computed(() => {
  if (!table.value) return []
  const months = table.value.months.map((month, i) => ({
    ...month,
    name: MONTHS[i] as string,
    other: pinned.value?.[i],
  }))
  const year = {
    ...table.value.year,
    name: 'Year',
    other: pinned.value?.reduce((total, v) => total + v, 0),
  }
  return [...months, year]
})
</script>
<template>
  <section v-if="table" class="months">
    <header>
      <h3>By month</h3>
      <CopyTable within=".months" />
    </header>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">Month</th>
          <th scope="col" class="num">Horizontal <small>[kWh/m² a day]</small></th>
          <th scope="col" class="num">On the planes <small>[kWh/m² a day]</small></th>
          <th scope="col" class="num">
            Air <small>[{{ shownUnit('°C') }}]</small>
          </th>
          <th scope="col" class="num">Yield <small>[kWh/kW a day]</small></th>
          <th scope="col" class="num">Energy <small>[kWh]</small></th>
          <th v-if="pinned" scope="col" class="num">{{ store.pinnedLetter }} <small>[kWh]</small></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(row, i) in rows" :key="row.name" :class="{ year: i === 12 }">
          <th scope="row">{{ row.name }}<span v-if="i === table.worst" class="soft"> least light</span></th>
          <td class="num">{{ number(row.horizontal, 2) }}</td>
          <td class="num">{{ number(row.plane, 2) }}</td>
          <td class="num">{{ number(toShown(row.temperature, '°C'), 1) }}</td>
          <td class="num">{{ number(row.specific_yield, 2) }}</td>
          <td class="num">{{ number(row.energy) }}</td>
          <td v-if="pinned" class="num">{{ row.other === undefined ? '' : number(row.other) }}</td>
        </tr>
      </tbody>
    </table>
    <p class="soft">
      Hours of full sun a day are the same numbers. On the planes: with the horizon, without the shade of rows, weighted
      by rated power.
    </p>
  </section>
  <p v-else-if="fault" class="care" role="alert">△ {{ fault }}</p>
</template>
<style scoped>
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
.months {
  min-width: 0;
  overflow-x: auto;
}
table {
  width: 100%;
}
thead th {
  white-space: normal;
  vertical-align: bottom;
  line-height: 1.2;
}
small {
  display: block;
  font-weight: 400;
  font-size: 11px;
}
th,
td {
  padding: 2px 4px !important;
}
tbody th,
tbody td {
  border-bottom: 1px solid var(--rule) !important;
  font-size: 12.5px;
}
th[scope='row'] {
  text-align: left;
  font-weight: 400;
}
.year th,
.year td {
  font-weight: 600 !important;
}
.soft {
  font-size: 12px;
}
</style>
