<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ProtectionLine } from '@/api/client'
import CopyTable from '@/tables/CopyTable.vue'
import { number } from '@/theme/format'

/** Every device and every figure of the connection, held against its rule. */
const props = defineProps<{ lines: ProtectionLine[] }>()
const MARKS = { fine: '✓', caution: '△', error: '✕', 'not needed': '–' } as const
const WORDS = { fine: 'fine', caution: 'caution', error: 'error', 'not needed': 'not needed' } as const
const onlyOpen = ref(false)
const shown = computed(() =>
  onlyOpen.value ? props.lines.filter((l) => l.state === 'error' || l.state === 'caution') : props.lines,
)
const open = computed(() => props.lines.filter((l) => l.state === 'error' || l.state === 'caution').length)
const where = (line: ProtectionLine) =>
  line.places.length > 3
    ? `${line.places.slice(0, 2).join('; ')}; ${line.places.length - 2} more`
    : line.places.join('; ')
const digits = (line: ProtectionLine) => (line.unit === 'V' ? 0 : line.unit === '%' ? 2 : 1)
const margin = (line: ProtectionLine) =>
  line.state === 'not needed' || line.actual === line.limit
    ? ''
    : `${line.margin >= 0 ? 'in hand' : 'short of'} ${number(Math.abs(line.margin), digits(line))} ${line.unit}`
</script>
<template>
  <div class="protection">
    <h3>
      Protection
      <small class="soft">
        <button v-if="open" type="button" class="link" :aria-pressed="onlyOpen" @click="onlyOpen = !onlyOpen">
          {{ onlyOpen ? 'Show all' : `Show the ${open} open` }}
        </button>
        <CopyTable within=".protection" />
      </small>
    </h3>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">Device or figure</th>
          <th scope="col">Chosen</th>
          <th scope="col" class="num">Number</th>
          <th scope="col">Why, and by which rule</th>
          <th scope="col" class="num">Margin</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="line in shown" :key="line.key" :class="line.state.replace(' ', '-')">
          <th scope="row">
            <span class="mark" aria-hidden="true">{{ MARKS[line.state] }}</span><span class="sr"
              >{{ WORDS[line.state] }}: </span
            >{{ line.title }}
            <span class="soft place">{{ where(line) }}</span>
          </th>
          <td>{{ line.chosen }}</td>
          <td class="num">{{ line.count || '' }}</td>
          <td>
            {{ line.detail }} <span class="soft source">{{ line.source }}</span>
          </td>
          <td class="num">{{ margin(line) }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
<style scoped>
h3 small {
  font: 12px var(--sans);
  margin-left: 8px;
  display: inline-flex;
  gap: 12px;
}
th[scope='row'] {
  font-weight: 600;
  color: var(--ink);
  white-space: normal;
  min-width: 150px;
  padding-left: 22px;
  position: relative;
  vertical-align: top;
}
td {
  vertical-align: top;
}
.mark {
  position: absolute;
  left: 4px;
}
.fine .mark {
  color: var(--yield-text);
}
.error .mark,
.error td:nth-child(2) {
  color: var(--loss-text);
}
.caution .mark,
.caution td:nth-child(2) {
  color: var(--caution-text);
}
.not-needed {
  color: var(--soft);
}
.place {
  display: block;
  font-weight: 400;
  font-size: 11.5px;
}
.source {
  font-size: 11.5px;
}
</style>
