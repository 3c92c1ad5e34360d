<script setup lang="ts">
import { api, type OffGridAnswer } from '@/api/client'
import BriefNumber from '@/brief/BriefNumber.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number, plain } from '@/theme/format'
import BusLine from './BusLine.vue'

/** The worksheet of a place without a grid: what the trade's formulas propose, and what is there. */
defineProps<{ answer: OffGridAnswer; at: string }>()
const store = useSchemeStore()
const text = (value: number | null) => (value === null ? 'none' : value % 1 ? plain(value) : number(value))
</script>
<template>
  <table class="ledger" aria-label="Worksheet">
    <thead>
      <tr>
        <th scope="col">By the worksheet</th>
        <th scope="col" class="num">proposed</th>
        <th scope="col" class="num">yours</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="line in answer.worksheet" :key="line.key">
        <th scope="row">
          {{ line.title }} <small class="soft">{{ line.rule }}</small>
        </th>
        <td class="num">
          <b>{{ text(line.value) }}</b> {{ line.unit }}
        </td>
        <td class="num" :class="{ care: line.is_short, good: line.verdict && !line.is_short }" :title="line.verdict">
          {{ line.chosen === null ? '' : text(line.chosen) }}
        </td>
      </tr>
    </tbody>
  </table>
  <p
    v-for="line in answer.worksheet.filter((l) => l.verdict)"
    :key="line.key"
    :class="line.is_short ? 'care' : 'good'"
    class="verdict"
  >
    {{ [line.title, text(line.chosen), line.unit].filter(Boolean).join(' ') }}: {{ line.verdict }}
  </p>
  <p class="said">
    <BriefNumber :pointer="`${at}/autonomy`" label="Days without sun" /> without sun, down to a depth of
    <BriefNumber :pointer="`${at}/depth`" label="Depth of discharge" />, an array that performs at
    <BriefNumber :pointer="`${at}/performance`" label="Performance of the array" />,
    <BriefNumber :pointer="`${at}/voltage`" label="System voltage" />, an inverter
    <BriefNumber :pointer="`${at}/inverter_margin`" label="Margin of the inverter" /> over the peak.
  </p>
  <BusLine />
  <p class="said">
    <a class="link" :href="api.offGridSheet(store.shown!.id)">Summary on one page (PDF)</a>
  </p>
</template>
<style scoped>
.ledger th[scope='row'] {
  font-weight: 400;
  white-space: normal;
}
.ledger small {
  display: block;
  white-space: normal;
  font-size: 11px;
}
td,
th {
  padding: 3px 6px !important;
}
.verdict {
  font-size: 12px;
  font-weight: 600;
}
.said {
  font-size: 13px;
  line-height: 1.6;
}
</style>
