<script setup lang="ts">
import { computed } from 'vue'
import { useDesign } from '@/stores/design'
import { useLibrary } from '@/stores/library'
import { patchAt } from '@/api/mergePatch'

/** One of a few words of the design, chosen where it stands. */
const props = defineProps<{ pointer: string; label: string; options?: { value: string; text: string }[] }>()
const design = useDesign()
const library = useLibrary()
const field = computed(() => library.field(props.pointer))
const value = computed(() => (design.at(props.pointer) as string | undefined) ?? (field.value?.default as string) ?? '')
const options = computed(() => props.options ?? (field.value?.choices ?? []).map((choice) => ({ value: choice, text: choice })))
const preset = computed(() => field.value?.default)
function choose(event: Event) {
  const next = (event.target as HTMLSelectElement).value
  design.edit(patchAt(props.pointer, next))
}
</script>
<template>
  <select class="blank" :value="value" :aria-label="label" :title="field?.reason" @change="choose">
    <option v-for="option in options" :key="option.value" :value="option.value">{{ option.text }}{{ option.value === preset ? ' (default)' : '' }}</option>
  </select>
</template>
