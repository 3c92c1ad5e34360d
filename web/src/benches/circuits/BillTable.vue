<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, type BillRow } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { useSorting } from '@/tables/useSorting'
import { number } from '@/theme/format'

/** Everything that is bought for the plant. */
const store = useSchemeStore()
const { answer, fault } = useAnswer(
  () => (store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision}` : null),
  (signal) => api.bill(store.shown!.id, signal),
)
const filter = ref('')
const sorting = useSorting('kind')
const KINDS = ['modules', 'inverters', 'transformer', 'cables', 'protection', 'metering']
const valueOf = (row: BillRow, column: string) => {
  if (column === 'kind') return KINDS.indexOf(row.kind)
  if (column === 'name') return `${row.maker} ${row.name}`
  return (row[column as 'count' | 'mass' | 'price'] as number | null) ?? -1
}
const rows = computed(() =>
  sorting.sorted(
    (answer.value?.lines ?? []).filter((r) =>
      `${r.kind} ${r.maker} ${r.name} ${r.use}`.toLowerCase().includes(filter.value.trim().toLowerCase()),
    ),
    valueOf,
  ),
)
const money = (value: number | null) => (value === null ? '' : number(value, 2))
const isFirst = (i: number) =>
  sorting.by.value === 'kind' && (i === 0 || rows.value[i]!.kind !== rows.value[i - 1]!.kind)
/** Shares of the price by kind, as one strip. */
const parts = computed(() => {
  const sum = answer.value?.price ?? 0
  let from = 0
  return KINDS.map((kind) => {
    const price = (answer.value?.lines ?? []).reduce((n, r) => n + (r.kind === kind ? (r.price ?? 0) : 0), 0)
    const part = { kind, price, from, share: sum ? price / sum : 0 }
    from += part.share
    return part
  }).filter((p) => p.price > 0)
})
const TONES = ['var(--current)', 'var(--sun)', 'var(--haze)', 'var(--loss)', 'var(--yield)', 'var(--soft)']
</script>
<template>
  <section v-if="answer" class="bill">
    <p class="tools">
      <input v-model="filter" class="field" type="search" placeholder="Filter the bill" aria-label="Filter the bill" />
      <CopyTable within=".bill" />
      <span class="out"
        ><a class="link" :href="api.billFile(store.shown!.id, 'xlsx')" download>XLSX</a>
        <a class="link" :href="api.billFile(store.shown!.id, 'csv')" download>CSV</a></span
      >
    </p>
    <p class="sum">
      <b>{{ number(answer.price) }} {{ answer.currency }}</b> without tax and labour,
      {{ number(answer.mass) }} kg<template v-if="answer.without_price"
        >; {{ answer.without_price }} line{{ answer.without_price > 1 ? 's' : '' }} without a price</template
      >. Prices are list prices of the library.
    </p>
    <svg class="strip" viewBox="0 0 1000 10" preserveAspectRatio="none" aria-hidden="true">
      <rect
        v-for="p in parts"
        :key="p.kind"
        :x="p.from * 1000"
        :width="Math.max(0, p.share * 1000 - 2)"
        height="10"
        :fill="TONES[KINDS.indexOf(p.kind)]"
      />
    </svg>
    <p class="key soft">
      <span v-for="p in parts" :key="p.kind"
        ><i :style="{ background: TONES[KINDS.indexOf(p.kind)] }" />{{ p.kind }} {{ number(p.share * 100) }} %</span
      >
    </p>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">
            <button type="button" @click="sorting.sort('kind')">By kind</button>,
            <button type="button" @click="sorting.sort('name')">by name</button>
          </th>
          <th scope="col">For</th>
          <SortHead column="count" :sorting="sorting" class="num">Number</SortHead>
          <SortHead column="mass" :sorting="sorting" class="num">Mass, kg</SortHead>
          <th scope="col" class="num">Each, {{ answer.currency }}</th>
          <SortHead column="price" :sorting="sorting" class="num">Price, {{ answer.currency }}</SortHead>
          <th scope="col" class="num">Warranty</th>
        </tr>
      </thead>
      <tbody>
        <template v-for="(row, i) in rows" :key="`${row.kind}${row.maker}${row.name}${row.note}`">
          <tr v-if="isFirst(i)" class="head">
            <th scope="rowgroup" colspan="7">{{ row.kind }}</th>
          </tr>
          <tr>
            <td>
              {{ row.maker }} {{ row.name }} <span v-if="row.note" class="care">{{ row.note }}</span>
            </td>
            <td class="soft use" :title="row.use">{{ row.use }}</td>
            <td class="num">
              {{ number(row.count, row.unit === 'm' && row.count % 1 ? 1 : 0) }}{{ row.unit === 'm' ? ' m' : '' }}
            </td>
            <td class="num">{{ row.mass === null ? '' : number(row.mass, row.mass < 10 ? 1 : 0) }}</td>
            <td class="num">{{ money(row.price_each) }}</td>
            <td class="num">{{ money(row.price) }}</td>
            <td class="num">{{ row.warranty === null ? '' : `${row.warranty} a` }}</td>
          </tr>
        </template>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row" colspan="3">Sum</th>
          <td class="num">{{ number(answer.mass) }}</td>
          <td />
          <td class="num">
            <b>{{ money(answer.price) }}</b>
          </td>
          <td />
        </tr>
      </tfoot>
    </table>
    <p v-if="!rows.length" class="soft">Nothing matches.</p>
    <p class="soft missing">
      Not in this list: racks and fixings, connectors, boards and enclosures, earth electrodes, cable trays, work.
    </p>
  </section>
  <p v-else-if="fault" class="bad">{{ fault }}</p>
  <p v-else class="soft empty">The bill is made once the scheme can be simulated.</p>
</template>
<style scoped>
.missing {
  font-size: 12px;
  margin-top: 6px;
}
.tools {
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 12.5px;
}
.out {
  margin-left: auto;
  display: inline-flex;
  gap: 10px;
}
.out a {
  text-decoration: none;
}
.sum {
  font: 15px/1.5 var(--serif);
  margin: 8px 0 6px;
}
.strip {
  width: 100%;
  height: 9px;
  display: block;
}
.key {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
  font-size: 11.5px;
  margin: 4px 0 8px;
}
.key i {
  display: inline-block;
  width: 9px;
  height: 9px;
  margin-right: 5px;
}
tr.head th {
  font: 600 13px/1.2 var(--serif);
  color: var(--ink);
  padding-top: 12px;
}
tr.head th::first-letter {
  text-transform: uppercase;
}
thead button {
  font-weight: 600;
}
.use {
  max-width: 120px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
td,
th {
  padding-inline: 6px !important;
  white-space: nowrap;
}
.bill {
  overflow-x: auto;
}
tfoot th {
  text-align: left;
}
</style>
