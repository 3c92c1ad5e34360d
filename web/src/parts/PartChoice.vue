<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { joinPatches, patchAt, type JsonObject } from '@/api/mergePatch'
import PartPicker from './PartPicker.vue'

/** A part named in the text; a click opens the library to choose another. */
const props = defineProps<{ kind: 'module' | 'inverter'; pointers: string[]; value: string; label: string }>()
const store = useSchemeStore()
const library = useLibrary()
const open = ref(false)
const part = computed(() => (props.kind === 'module' ? library.modules : library.inverters).get(props.value))
function choose(id: string) {
  open.value = false
  store.edit(
    props.pointers
      .map((pointer) => patchAt(pointer, id))
      .reduce<JsonObject>((all, patch) => joinPatches(all, patch), {}),
  )
}
</script>
<template>
  <button
    type="button"
    class="blank"
    :aria-label="`${label}: ${part ? `${part.maker} ${part.name}` : value}`"
    aria-haspopup="dialog"
    @click="open = true"
  >
    {{ part ? `${part.maker} ${part.name}` : value }}</button><PartPicker
    v-if="open"
    v-model="open"
    :kind="kind"
    :chosen="value"
    @choose="choose"
  />
</template>
