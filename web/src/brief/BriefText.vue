<script setup lang="ts">
import { useTyping } from './useTyping'

/** A name or another short text, edited where it stands; Enter or leaving keeps it, Esc takes it back. */
const props = defineProps<{ value?: string; label: string }>()
const emit = defineEmits<{ change: [value: string]; leave: [] }>()
const { text, typing, edit, take, discard } = useTyping(() => props.value ?? '')

function commit() {
  if (typing.value) emit('change', take().trim())
}
function leave() {
  commit()
  emit('leave')
}
function takeBack(event: Event) {
  discard()
  ;(event.target as HTMLElement).blur()
}
</script>
<template>
  <input
    class="blank"
    autocomplete="off"
    :value="text"
    :aria-label="label"
    @input="edit(($event.target as HTMLInputElement).value)"
    @blur="leave"
    @keydown.enter="commit"
    @keydown.esc.stop="takeBack"
  />
</template>
