<script setup lang="ts">
import { fromShown } from '@/theme/habits'
import { readNumber } from '@/theme/reading'
import ReadNote from './ReadNote.vue'
import { useDraft, type Range } from './useDraft'

/** A number in a blank, stepped with the arrow keys; a live one is told at every keystroke that makes a number. */
const props = defineProps<{ value: number; label: string; range: Range; step: number; unit?: string; live?: boolean }>()
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
  () => props.unit ?? '',
)

function type(event: Event) {
  edit((event.target as HTMLInputElement).value)
  if (!props.live || problem.value !== null) return
  emit('problem', null)
  emit('change', fromShown(readNumber(text.value, props.range), props.unit))
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
      @keydown.down.prevent="nudge(-1)" /><ReadNote :words="problem ? '' : note"
  /></span>
</template>
<style scoped>
.number {
  position: relative;
}
</style>
