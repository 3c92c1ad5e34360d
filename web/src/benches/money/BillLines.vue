<script setup lang="ts">
import { computed } from 'vue'
import type { BillYear } from '@/api/client'
import CopyTable from '@/tables/CopyTable.vue'
import { useMoment } from '@/tideline/useMoment'
import { MONTHS, number, plain } from '@/theme/format'

/** The bill line by line, of a month or of the year, beside what the same line was without the plant. */
const props = defineProps<{ before: BillYear; after: BillYear; currency: string; month: number }>()
const emit = defineEmits<{ pick: [month: number] }>()
const moment = useMoment()
type Line = BillYear['lines'][number]
const rows = computed(() => {
  const found = new Map<string, { line: Line; quantity: number; amount: number; was: number; prices: Set<number> }>()
  const of = (line: Line) => `${line.kind} ${line.key} ${line.title.replace(/, \d+(\.\d+)? % of.*/, '')}`
  const take = (line: Line, isAfter: boolean) => {
    if (props.month >= 0 && line.month !== props.month) return
    const key = of(line)
    const row = found.get(key) ?? { line, quantity: 0, amount: 0, was: 0, prices: new Set<number>() }
    if (isAfter) {
      row.quantity += line.quantity
      row.amount += line.amount
      row.prices.add(line.price)
    } else row.was += line.amount
    found.set(key, row)
  }
  for (const line of props.after.lines) take(line, true)
  for (const line of props.before.lines) take(line, false)
  return [...found.values()]
})
const sum = (bill: BillYear) => (props.month < 0 ? bill.total : bill.by_month[props.month]!)
const price = (row: { line: Line; prices: Set<number> }) =>
  row.line.kind === 'tax'
    ? `${number(row.line.price * 100, 1)} %`
    : row.prices.size === 1
      ? plain([...row.prices][0]!)
      : 'by hour'
</script>
<template>
  <section class="lines">
    <p class="tools">
      <b class="serif">Line by line</b>
      <select
        class="blank"
        :value="month"
        aria-label="Month of the bill"
        @change="emit('pick', Number(($event.target as HTMLSelectElement).value))"
      >
        <option :value="-1">the year</option>
        <option v-for="(name, i) in MONTHS" :key="name" :value="i">{{ name }}</option>
      </select>
      <span class="soft unit">[{{ currency }}]</span>
      <CopyTable within=".lines" />
    </p>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">Line</th>
          <th scope="col" class="num">Quantity</th>
          <th scope="col" class="num">Price</th>
          <th scope="col" class="num">Before</th>
          <th scope="col" class="num">After</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="`${row.line.kind}${row.line.key}${row.line.title}`">
          <td>
            {{ row.line.title }}
            <button
              v-if="row.line.interval !== null && month >= 0"
              type="button"
              class="link"
              data-acts
              @click="moment.pick(row.line.interval!)"
            >
              {{ moment.words(row.line.interval!) }}
            </button>
          </td>
          <td class="num">{{ row.quantity ? `${plain(row.quantity)} ${row.line.unit}` : '' }}</td>
          <td class="num">{{ row.quantity ? price(row) : '' }}</td>
          <td class="num">{{ number(row.was, 2) }}</td>
          <td class="num">{{ number(row.amount, 2) }}</td>
        </tr>
      </tbody>
      <tfoot>
        <tr>
          <th scope="row" colspan="3">{{ month < 0 ? 'Year' : MONTHS[month] }}</th>
          <td class="num">
            <b>{{ number(sum(before), 2) }}</b>
          </td>
          <td class="num">
            <b>{{ number(sum(after), 2) }}</b>
          </td>
        </tr>
      </tfoot>
    </table>
  </section>
</template>
<style scoped>
.lines {
  margin-top: 16px;
}
.tools {
  display: flex;
  gap: 12px;
  align-items: baseline;
}
.unit {
  font-size: 12px;
}
.tools :last-child {
  margin-left: auto;
  font-size: 12px;
}
td,
th {
  padding: 2.5px 4px !important;
  line-height: 1.3;
}
.num {
  white-space: nowrap;
  width: 1%;
}
</style>
