<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { patchAt } from '@/api/mergePatch'

/** One of a few words of the design, chosen where it stands. */
const props = defineProps<{ pointer: string; label: string; options?: { value: string; text: string }[] }>()
const store = useSchemeStore()
const library = useLibrary()
const field = computed(() => library.field(props.pointer))
const value = computed(() => (store.at(props.pointer) as string | undefined) ?? (field.value?.default as string) ?? '')
const options = computed(
  () =>
    props.options ??
    (field.value?.choices ?? []).map((choice) => ({ value: choice, text: field.value!.words[choice] ?? choice })),
)
const isDefault = computed(() => store.at(props.pointer) === undefined || value.value === field.value?.default)
function choose(event: Event) {
  const next = (event.target as HTMLSelectElement).value
  store.edit(patchAt(props.pointer, next))
}
</script>
<template>
  <select
    class="blank"
    :data-pointer="pointer"
    :value="value"
    :aria-label="label"
    :title="`${isDefault ? 'The default' : `Default: ${field?.words[String(field?.default)] ?? field?.default}`}. ${field?.reason ?? ''}`"
    @change="choose"
  >
    <option v-for="option in options" :key="option.value" :value="option.value">{{ option.text }}</option>
  </select>
</template>
