<script setup lang="ts">
import { computed } from 'vue'
import { fieldText, fromShown, toShown } from '@/theme/habits'
import { read, type Limits } from '@/theme/reading'
import ReadNote from './ReadNote.vue'
import { useTyping } from './useTyping'

/** A number that may be missing, in a field of a bench; it is told when it is finished, and says how it was read. */
const props = defineProps<{ value: number | null; limits?: Limits; step?: number; unit?: string }>()
const emit = defineEmits<{ change: [value: number | null] }>()
const { text, typing, edit, take, discard } = useTyping(() =>
  props.value === null ? '' : fieldText(props.value, props.unit),
)
/** In the unit that is typed. */
const limits = computed(
  () =>
    props.limits && {
      ...props.limits,
      min: toShown(props.limits.min, props.unit),
      max: toShown(props.limits.max, props.unit),
    },
)
const found = computed(() => read(text.value, limits.value))
const fault = computed(() => {
  if (!typing.value || text.value.trim() === '') return ''
  const { value } = found.value
  if (Number.isNaN(value)) return 'Enter a number.'
  const { min, max } = limits.value ?? { min: -Infinity, max: Infinity }
  return value < min || value > max ? `Enter a value between ${fieldText(min)} and ${fieldText(max)}.` : ''
})
const words = computed(() => fault.value || (typing.value ? found.value.note : ''))
function commit() {
  if (!typing.value || fault.value) return
  const { value } = found.value
  emit('change', take().trim() === '' ? null : fromShown(value, props.unit))
}
function nudge(by: number) {
  const { min, max } = limits.value ?? { min: -Infinity, max: Infinity }
  const now = Number.isNaN(found.value.value) ? 0 : found.value.value
  edit(fieldText(Math.min(max, Math.max(min, now + by * (props.step ?? props.limits?.step ?? 1)))))
  commit()
}
</script>
<template>
  <span class="number"
    ><input
      v-bind="$attrs"
      inputmode="decimal"
      autocomplete="off"
      :value="text"
      :aria-invalid="fault !== ''"
      @input="edit(($event.target as HTMLInputElement).value)"
      @change="commit"
      @blur="commit"
      @keydown.enter="commit"
      @keydown.esc="discard"
      @keydown.up.prevent="nudge(1)"
      @keydown.down.prevent="nudge(-1)" /><ReadNote :words="words" :is-wrong="fault !== ''"
  /></span>
</template>
<script lang="ts">
export default { inheritAttrs: false }
</script>
<style scoped>
.number {
  position: relative;
  white-space: nowrap;
}
</style>
