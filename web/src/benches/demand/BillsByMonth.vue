<script setup lang="ts">
import { computed } from 'vue'
import { patchAt } from '@/api/mergePatch'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { readNumbers } from '@/theme/reading'
import { MONTHS, number } from '@/theme/format'

/** Twelve energies of bills, of which some may be unknown; what fills an unknown month stands pale in its place. */
const props = defineProps<{ pointer: string; monthly: number[] }>()
const store = useSchemeStore()
const library = useLibrary()
const limits = computed(() => library.field(`${props.pointer}/0`) ?? undefined)
const values = computed(() => (store.at(props.pointer) ?? []) as (number | null)[])
const known = computed(() => values.value.filter((v) => v !== null).length)
function set(month: number, value: number | null) {
  if (value === null && known.value <= 1 && values.value[month] !== null) return
  store.edit(patchAt(props.pointer, values.value.map((old, i) => (i === month ? value : old)) as never))
}
function paste(event: ClipboardEvent) {
  const cells = (event.clipboardData?.getData('text') ?? '').trim().split(/[\t\n;]+|\s{2,}/)
  const found = readNumbers(cells, limits.value)
  if (found.length !== 12 || !found.every((value) => value >= 0)) return
  event.preventDefault()
  store.edit(patchAt(props.pointer, found))
}
</script>
<template>
  <div class="bills" role="group" aria-label="Energy by month" @paste="paste">
    <label v-for="(value, i) in values" :key="i"
      ><span class="soft">{{ MONTHS[i] }}</span>
      <NumberField
        class="field"
        :value="value"
        :limits="limits"
        :aria-label="`Energy in ${MONTHS[i]} [kWh]`"
        :placeholder="monthly[i] === undefined ? '' : number(monthly[i]!)"
        @change="set(i, $event)"
    /></label>
    <span class="soft unit">kWh; paste twelve cells of a spreadsheet over any of them</span>
  </div>
</template>
<style scoped>
.bills {
  display: grid;
  grid-template-columns: repeat(12, minmax(0, 1fr));
  gap: 4px 6px;
  font-size: 12px;
}
label {
  display: grid;
}
.field {
  width: 100%;
  padding: 3px 4px;
}
.unit {
  grid-column: 1 / -1;
}
@media (max-width: 1150px) {
  .bills {
    grid-template-columns: repeat(6, minmax(0, 1fr));
  }
}
</style>
