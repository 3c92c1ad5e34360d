<script setup lang="ts">
import { nextTick, ref, watch } from 'vue'
import { useLibrary } from '@/stores/library'
import { readNumber } from '@/theme/reading'
import { lengthText, metresOf } from '@/scene/lengths'
import { fromShown, marked, shownUnit, toShown } from '@/theme/habits'

/** A dimension as text on its line, typed over where it stands. */
const props = defineProps<{ label: string; value: number; unit: 'm' | '°'; pointer: string; x: number; y: number }>()
const emit = defineEmits<{ change: [value: number] }>()
const library = useLibrary()
const written = (value: number) => marked(lengthText(toShown(value, props.unit)))
const text = ref('')
const problem = ref('')
const typing = ref(false)
watch(
  () => [props.value, props.pointer],
  () => {
    if (!typing.value) text.value = written(props.value)
  },
  { immediate: true },
)
const finite = (value: number) => (Number.isFinite(value) ? value : null)
function parsed(): number | null {
  if (props.unit !== 'm') return finite(readNumber(text.value))
  // A number alone is in the unit that stands beside it.
  const alone = finite(readNumber(text.value))
  return alone === null ? metresOf(text.value) : fromShown(alone, props.unit)
}
function take() {
  if (!typing.value) return
  const value = parsed()
  const field = library.field(props.pointer)
  if (value === null) problem.value = 'Type a length such as 3.2, 3200mm or 10\'6".'
  else if (field && value < field.min) problem.value = `At least ${written(field.min)} ${shownUnit(props.unit)}.`
  else if (field && value > field.max) problem.value = `At most ${written(field.max)} ${shownUnit(props.unit)}.`
  else {
    problem.value = ''
    typing.value = false
    if (Math.abs(value - props.value) > 1e-9) emit('change', Math.round(value * 1e4) / 1e4)
    text.value = written(value)
  }
}
function drop() {
  typing.value = false
  problem.value = ''
  text.value = written(props.value)
}
function step(by: number) {
  typing.value = false
  problem.value = ''
  const value = Math.round((props.value + by) * 1000) / 1000
  emit('change', value)
  void nextTick(() => (text.value = written(props.value)))
}
</script>
<template>
  <label class="dimension" :class="{ bad: problem }" :style="{ left: `${x}px`, top: `${y}px` }" @pointerdown.stop>
    <input
      :value="text"
      :aria-label="`${label} [${unit}]`"
      :aria-invalid="problem !== ''"
      :size="Math.max(text.length, 3)"
      inputmode="decimal"
      @focus="($event.target as HTMLInputElement).select()"
      @input="((text = ($event.target as HTMLInputElement).value), (typing = true))"
      @keydown.enter.stop.prevent="take"
      @keydown.esc.stop="drop"
      @keydown.up.stop.prevent="step(0.1)"
      @keydown.down.stop.prevent="step(-0.1)"
      @blur="take"
      @keydown.stop
    /><span>{{ shownUnit(unit) }}</span>
    <em v-if="problem" role="alert">{{ problem }}</em>
  </label>
</template>
<style scoped>
.dimension {
  position: absolute;
  transform: translate(-50%, -50%);
  display: inline-flex;
  gap: 3px;
  align-items: baseline;
  background: var(--sheet);
  border-radius: 4px;
  padding: 0 4px;
  font-size: 12px;
  font-weight: 600;
  color: var(--current-text);
  box-shadow: 0 0 0 1px transparent;
}
.dimension:focus-within {
  box-shadow: 0 0 0 1.5px var(--current);
  z-index: 3;
}
.dimension.bad {
  box-shadow: 0 0 0 1.5px var(--loss);
}
input {
  border: 0;
  background: none;
  font: inherit;
  color: inherit;
  width: auto;
  min-width: 0;
  text-align: right;
  padding: 1px 0;
  outline: 0;
  field-sizing: content;
}
em {
  position: absolute;
  top: 100%;
  left: 0;
  white-space: nowrap;
  background: var(--sheet);
  color: var(--loss-text);
  font-weight: 400;
  padding: 1px 4px;
}
</style>
