<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { patchAt } from '@/api/mergePatch'

/** One of a few words of the design, chosen where it stands. */
const props = defineProps<{ pointer: string; label: string; options?: { value: string; text: string }[] }>()
/** Models by author and year, as engineers cite them. */
const WORDS: Record<string, string> = {
  perez: 'Perez 1990',
  reindl: 'Reindl 1990',
  'hay-davies': 'Hay and Davies 1980',
  isotropic: 'isotropic sky',
  erbs: 'Erbs 1982',
  ridley: 'Ridley 2010',
  faiman: 'Faiman 2008',
  noct: 'NOCT',
  king: 'King 2004',
  fresnel: 'Fresnel',
  'martin-ruiz': 'Martin and Ruiz 2001',
  ashrae: 'ASHRAE',
  datasheet: 'datasheet table',
  none: 'none',
}
const store = useSchemeStore()
const library = useLibrary()
const field = computed(() => library.field(props.pointer))
const value = computed(() => (store.at(props.pointer) as string | undefined) ?? (field.value?.default as string) ?? '')
const options = computed(
  () =>
    props.options ?? (field.value?.choices ?? []).map((choice) => ({ value: choice, text: WORDS[choice] ?? choice })),
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
    :title="`${isDefault ? 'The default' : `Default: ${WORDS[String(field?.default)] ?? field?.default}`}. ${field?.reason ?? ''}`"
    @change="choose"
  >
    <option v-for="option in options" :key="option.value" :value="option.value">{{ option.text }}</option>
  </select>
</template>
