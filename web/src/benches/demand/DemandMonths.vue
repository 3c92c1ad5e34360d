<script setup lang="ts">
import { computed } from 'vue'
import type { DemandAnswer } from '@/api/client'
import CopyTable from '@/tables/CopyTable.vue'
import { MONTHS, number, percent } from '@/theme/format'

/** The year by month: demand, what the sun gives, what of it is used as it comes. */
const props = defineProps<{ demand: DemandAnswer }>()
const rows = computed(() =>
  MONTHS.map((month, i) => ({
    month,
    demand: props.demand.monthly_demand[i]!,
    produced: props.demand.monthly_produced[i]!,
    direct: props.demand.monthly_direct[i]!,
  })),
)
const share = (part: number, whole: number) => (whole > 0 ? percent(part / whole, 0) : '–')
</script>
<template>
  <div class="months">
    <p class="cap-line"><b>By month</b> [kWh] <CopyTable within=".months" /></p>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col"><span class="sr">Month</span></th>
          <th scope="col" class="num">Demand</th>
          <th scope="col" class="num">Sun</th>
          <th scope="col" class="num">Direct</th>
          <th scope="col" class="num">met</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.month">
          <th scope="row">{{ row.month }}</th>
          <td class="num">{{ number(row.demand) }}</td>
          <td class="num">{{ number(row.produced) }}</td>
          <td class="num">{{ number(row.direct) }}</td>
          <td class="num">{{ share(row.direct, row.demand) }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row">Year</th>
          <td class="num">{{ number(demand.energy) }}</td>
          <td class="num">{{ number(demand.produced_energy) }}</td>
          <td class="num">{{ number(demand.direct_energy) }}</td>
          <td class="num">{{ share(demand.direct_energy, demand.energy) }}</td>
        </tr>
      </tfoot>
    </table>
  </div>
</template>
<style scoped>
.cap-line {
  display: flex;
  gap: 6px;
  align-items: baseline;
  font-size: 12px;
}
.cap-line b {
  font: 600 13px var(--serif);
}
.cap-line :last-child {
  margin-left: auto;
}
td,
th {
  padding: 1.5px 5px !important;
}
tbody th,
tfoot th {
  font-weight: 400;
}
tfoot td {
  font-weight: 600;
  border-bottom: 0;
}
</style>
