<script setup lang="ts">
import { readNumber } from '@/theme/reading'
import { useDraft, type Range } from './useDraft'

/** A number in a blank, stepped with the arrow keys; a live one is told at every keystroke that makes a number. */
const props = defineProps<{ value: number; label: string; range: Range; step: number; live?: boolean }>()
const emit = defineEmits<{ change: [value: number]; problem: [text: string | null] }>()
const {
  text,
  problem,
  note,
  edit,
  take,
  discard,
  step: stepBy,
} = useDraft(
  () => props.value,
  () => props.range,
)

function type(event: Event) {
  edit((event.target as HTMLInputElement).value)
  if (!props.live || problem.value !== null) return
  emit('problem', null)
  emit('change', readNumber(text.value, props.range))
}
function commit() {
  emit('problem', problem.value)
  const value = take()
  if (value !== null) emit('change', value)
}
function nudge(direction: number) {
  stepBy(direction * props.step)
  commit()
}
function takeBack() {
  discard()
  emit('problem', null)
}
</script>
<template>
  <span class="number"
    ><input
      class="blank"
      inputmode="decimal"
      autocomplete="off"
      :value="text"
      :aria-label="label"
      :aria-invalid="problem !== null"
      @input="type"
      @change="commit"
      @blur="commit"
      @keydown.esc="takeBack"
      @keydown.up.prevent="nudge(1)"
      @keydown.down.prevent="nudge(-1)"
    /><em v-if="note && !problem" class="note" role="status">{{ note }}</em></span
  >
</template>
<style scoped>
.number {
  position: relative;
}
.note {
  position: absolute;
  z-index: 40;
  left: 0;
  top: calc(100% + 3px);
  padding: 3px 8px;
  border-radius: 5px;
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  box-shadow: var(--shadow);
  font: normal 12px/1.4 var(--sans);
  white-space: nowrap;
}
</style>
