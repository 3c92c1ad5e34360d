<script setup lang="ts">
import { MONTHS } from '@/theme/format'
import { rampCss } from '@/theme/ramp'

/** A table of months by hours as colours; its cells have their numbers for copying and for screen readers. */
const props = defineProps<{
  label: string
  hours: number[]
  /** Of a month and an hour; null where there is nothing. */
  value: (month: number, hour: number) => number | null
  low?: number
  high: number
  words: (value: number) => string
  /** What stands at the end of each row, under this heading. */
  rowHead: string
  rowWords: (month: number) => string
  /** Whether a value so small is left uncoloured. */
  isBlank?: (value: number) => boolean
}>()
function colour(month: number, hour: number): string | undefined {
  const value = props.value(month, hour)
  if (value === null || props.isBlank?.(value)) return undefined
  const low = props.low ?? 0
  return rampCss((value - low) / Math.max(1e-9, props.high - low))
}
</script>
<template>
  <table :aria-label="label">
    <thead>
      <tr>
        <th scope="col"><span class="sr">Month</span></th>
        <th v-for="h in hours" :key="h" :class="{ odd: h % 2 }">{{ h }}</th>
        <th class="num">{{ rowHead }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(month, m) in MONTHS" :key="month">
        <th>{{ month }}</th>
        <td
          v-for="h in hours"
          :key="h"
          :class="{ lit: value(m, h) !== null }"
          :style="{ background: colour(m, h) }"
          :title="value(m, h) === null ? undefined : `${month}, ${h}:00 to ${h + 1}:00: ${words(value(m, h)!)}`"
        >
          <span class="sr">{{ value(m, h) === null ? '' : words(value(m, h)!).split(' ')[0] }}</span>
        </td>
        <td class="num">{{ rowWords(m) }}</td>
      </tr>
    </tbody>
  </table>
</template>
<style scoped>
table {
  border-collapse: separate;
  border-spacing: 1px;
  width: 100%;
  font-size: 11px;
  table-layout: fixed;
}
th {
  font-weight: 400;
  color: var(--soft);
  text-align: left;
  overflow: visible;
  white-space: nowrap;
}
thead th {
  text-align: center;
}
th:first-child {
  width: 32px;
}
td {
  height: 14px;
  background: var(--night);
}
td.lit {
  background: none;
  box-shadow: inset 0 0 0 1px var(--rule);
}
td.num,
th.num {
  background: none;
  width: 76px;
  text-align: right;
}
@media (max-width: 1150px) {
  .odd {
    visibility: hidden;
  }
}
</style>
