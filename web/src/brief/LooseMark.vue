<script setup lang="ts">
import { computed } from 'vue'
import { useTrials } from '@/stores/useTrials'

/** The ring beside a value: it lets the value loose for trials, or holds it again. */
const props = defineProps<{ pointers: string[]; label: string }>()
const trials = useTrials()
const isLoose = computed(() => props.pointers.some((pointer) => trials.loose.has(pointer)))
</script>
<template>
  <button
    type="button"
    class="ring"
    :class="{ loose: isLoose }"
    :aria-pressed="isLoose"
    :aria-label="`Let loose: ${label}`"
    :title="isLoose ? 'Loose: hold it again' : 'Let it loose'"
    :disabled="trials.isBusy"
    @click="trials.letLoose(pointers, !isLoose)"
  >
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <circle cx="6" cy="6" r="4" fill="none" stroke="currentColor" stroke-width="1.6" stroke-dasharray="3 2" />
      <circle v-if="isLoose" cx="6" cy="6" r="1.8" fill="currentColor" />
    </svg>
  </button>
</template>
<style scoped>
.ring {
  color: var(--haze);
  padding: 2px 1px 0 3px;
  vertical-align: -1px;
}
.ring:hover,
.ring.loose {
  color: var(--current);
}
</style>
