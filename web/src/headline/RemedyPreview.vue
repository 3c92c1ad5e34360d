<script setup lang="ts">
import { computed } from 'vue'
import { api, type CheckAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { energyChange, plain } from '@/theme/format'

/** What a remedy would change, in a line, before it is applied. */
const props = defineProps<{ check: CheckAnswer; patch: JsonObject }>()
const store = useSchemeStore()
const { answer, fault } = useAnswer(
  () =>
    store.saved ? `${store.saved.id}:${props.check.key}:${JSON.stringify(props.patch)} ${store.saved.revision}` : null,
  (signal) =>
    api.preview(store.saved!.id, { patch: props.patch, rule: props.check.rule, pointer: props.check.pointer }, signal),
)
const words = computed(() => {
  const a = answer.value
  if (!a) return ''
  const value =
    a.actual !== null && a.actual_before !== null
      ? `${plain(a.actual_before)} → ${plain(a.actual)} ${a.unit}`.trim()
      : ''
  const yearly = `${energyChange(a.energy - a.energy_before, a.energy_before)} a year`
  return [value, yearly].filter(Boolean).join(', ')
})
</script>
<template>
  <p class="preview" role="status">
    <template v-if="answer"
      >{{ words }}<template v-if="answer.found.length">; then open: {{ answer.found.join('; ') }}</template></template
    >
    <span v-else-if="fault" class="bad">{{ fault }}</span>
    <span v-else class="soft">Trying it…</span>
  </p>
</template>
<style scoped>
.preview {
  font-weight: 600;
  font-size: 11.5px;
  min-height: 1.4em;
}
</style>
