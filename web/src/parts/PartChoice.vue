<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { useNotice } from '@/notice/useNotice'
import { joinPatches, patchAt, type JsonObject } from '@/api/mergePatch'
import PartPicker from './PartPicker.vue'

/** A part named in the text; a click opens the library to choose another. */
const props = withDefaults(
  defineProps<{ kind: 'module' | 'inverter'; pointers?: string[]; value: string; label: string }>(),
  { pointers: () => [] },
)
/** Said beside what is written to the pointers, for those that do more with it. */
const emit = defineEmits<{ choose: [id: string] }>()
const store = useSchemeStore()
const library = useLibrary()
const { say } = useNotice()
const open = ref(false)
const part = computed(() => (props.kind === 'module' ? library.modules : library.inverters).get(props.value))
const shelf = computed(() => (props.kind === 'module' ? 'modules' : 'inverters'))
/** The copy that the scheme carries, and what it is called by: the part as it is used. */
const copy = computed(
  () =>
    store.at(`/parts/${shelf.value}/${props.value}`) as { digest?: string; maker?: string; name?: string } | undefined,
)
const title = computed(() => {
  const { maker, name } = copy.value?.name ? copy.value : (part.value ?? {})
  return name ? `${maker ?? ''} ${name}`.trim() : props.value
})
/** A scheme carries a copy of the datasheet; the library's may have changed since. */
const differs = computed(() => {
  const own = copy.value?.digest
  return Boolean(own && part.value?.digest && own !== part.value.digest)
})
function takeLibrary() {
  store.edit({ parts: { [shelf.value]: { [props.value]: null } } })
  say(`${part.value!.maker} ${part.value!.name} is as in the library now.`, {
    label: 'Undo',
    run: () => void store.undo(),
  })
}
function choose(id: string) {
  open.value = false
  emit('choose', id)
  if (!props.pointers.length) return
  store.edit(
    props.pointers
      .map((pointer) => patchAt(pointer, id))
      .reduce<JsonObject>((all, patch) => joinPatches(all, patch), {}),
  )
}
</script>
<template>
  <button type="button" class="blank" :aria-label="`${label}: ${title}`" aria-haspopup="dialog" @click="open = true">
    {{ title }}</button><button
    v-if="differs"
    type="button"
    class="care differs"
    title="The library's datasheet has changed since this scheme copied it. Click to take the library's."
    :aria-label="`Take the library's datasheet of ${part!.maker} ${part!.name}`"
    @click="takeLibrary"
  >
    △ library differs</button
  ><PartPicker v-if="open" v-model="open" :kind="kind" :chosen="value" @choose="choose" />
</template>
<style scoped>
.differs {
  font: 11.5px var(--sans);
  margin-left: 6px;
}
</style>
