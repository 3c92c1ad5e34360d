<script setup lang="ts">
import { computed } from 'vue'
import type { InverterLine, ModuleLine } from '@/api/client'
import CopyTable from '@/tables/CopyTable.vue'
import { INVERTER_COLUMNS, INVERTER_MORE, MODULE_COLUMNS, MODULE_MORE, type Column } from './partColumns'

/** Up to four parts side by side; what differs stands out, and the best of a row is marked. */
const props = defineProps<{ kind: 'module' | 'inverter'; parts: (ModuleLine | InverterLine)[] }>()
const emit = defineEmits<{ close: []; choose: [id: string] }>()
type Row = Column<ModuleLine | InverterLine>
const columns = computed(
  () =>
    (props.kind === 'module'
      ? [...MODULE_COLUMNS, ...MODULE_MORE]
      : [...INVERTER_COLUMNS, ...INVERTER_MORE]) as unknown as Row[],
)
const rows = computed(() =>
  columns.value.map((column) => {
    const texts = props.parts.map((part) => column.text(part as never))
    const numbers = texts.map((text) => Number(text.replaceAll(',', '').replace('−', '-')))
    const differs = new Set(texts).size > 1
    const known = numbers.filter((n, i) => Number.isFinite(n) && texts[i] !== '')
    const best = column.better === 'more' ? Math.max(...known) : Math.min(...known)
    return {
      key: column.key,
      title: column.title,
      unit: column.unit,
      differs,
      cells: texts.map((text, i) => ({ text, isBest: differs && Boolean(column.better) && numbers[i] === best })),
    }
  }),
)
</script>
<template>
  <div class="compare" role="dialog" aria-label="Parts side by side">
    <header role="none">
      <h2>Side by side</h2>
      <CopyTable within=".compare" />
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <div class="scroll">
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col"><span class="sr">Value</span></th>
            <th v-for="part in parts" :key="part.id" scope="col" class="num">
              <button type="button" class="name" @click="emit('choose', part.id)">
                {{ part.maker }} {{ part.name }}
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in rows" :key="row.key" :class="{ alike: !row.differs }">
            <th scope="row">
              {{ row.title }}<span v-if="row.unit" class="soft"> [{{ row.unit }}]</span>
            </th>
            <td v-for="(cell, i) in row.cells" :key="i" class="num" :class="{ best: cell.isBest }">
              {{ cell.text }}<span v-if="cell.isBest" class="sr"> (best)</span>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
<style scoped>
.compare {
  background: var(--sheet);
  border-radius: 12px;
  padding: 16px 22px;
  display: grid;
  gap: 10px;
  max-height: 84vh;
  grid-template-rows: auto 1fr;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h2 {
  margin-right: auto;
}
.scroll {
  overflow: auto;
}
.name {
  font-weight: 600;
  color: var(--ink);
  border-bottom: 1.5px dotted var(--haze);
}
tbody th {
  color: var(--ink);
}
.alike {
  color: var(--soft);
}
.alike th {
  color: var(--soft);
  font-weight: 400;
}
.best {
  color: var(--yield-text);
  font-weight: 600;
}
</style>
