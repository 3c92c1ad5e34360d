<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { patchAt } from '@/api/mergePatch'
import { MONTHS } from '@/theme/format'
import BlankNumber from './BlankNumber.vue'
import { readNumbers } from '@/theme/reading'

/** Twelve numbers in place of one for the year; a row or column of a spreadsheet can be pasted over them. */
const props = defineProps<{
  /** Of the twelve, such as /losses/soiling_by_month; the one for the year stands beside it without the ending. */
  pointer: string
  label: string
  /** There is no one value for the year that could stand in their place. */
  isNeeded?: boolean
}>()
const store = useSchemeStore()
const library = useLibrary()
const field = computed(() => library.field(`${props.pointer}/0`))
const whole = computed(() => library.field(props.pointer))
const values = computed(() => store.at(props.pointer) as number[] | undefined)
const range = computed(() => ({ min: field.value?.min ?? 0, max: field.value?.max ?? Infinity }))
const send = (months: number[] | null) => store.edit(patchAt(props.pointer, months))

function begin() {
  const pointer = props.pointer.replace(/_by_month$/, '')
  const year = (store.at(pointer) as number | undefined) ?? (library.field(pointer)?.default as number)
  send(MONTHS.map(() => year))
}
const set = (month: number, value: number) => send(values.value!.map((old, i) => (i === month ? value : old)))
function paste(event: ClipboardEvent) {
  const { min, max } = range.value
  const cells = (event.clipboardData?.getData('text') ?? '').trim().split(/[\t\n;]+|\s{2,}/)
  const found = readNumbers(cells, range.value)
  if (found.length !== 12 || !found.every((value) => value >= min && value <= max)) return
  event.preventDefault()
  send(found)
}
</script>
<template>
  <button v-if="!values" type="button" class="link" :aria-label="`${label} by month`" @click="begin">by month…</button>
  <div v-else class="months" role="group" :aria-label="`${label} by month`" @paste="paste">
    <label v-for="(value, i) in values" :key="i"
      ><span class="soft">{{ MONTHS[i] }}</span>
      <BlankNumber
        :value="value"
        :label="`${label} in ${MONTHS[i]}`"
        :range="range"
        :step="whole?.step ?? 1"
        @change="set(i, $event)"
    /></label>
    <span class="soft unit">{{ whole?.unit }}</span>
    <button v-if="!isNeeded" type="button" class="link" @click="send(null)">Use one annual value</button>
  </div>
</template>
<style scoped>
.months {
  display: grid;
  grid-template-columns: repeat(6, minmax(0, 1fr));
  gap: 4px 8px;
  font-size: 12.5px;
}
label {
  display: grid;
  justify-items: start;
}
label .soft {
  font-size: 11px;
}
.unit {
  grid-column: 1 / 4;
}
.months .link {
  grid-column: 4 / -1;
  justify-self: end;
  font-size: 12px;
}
</style>
