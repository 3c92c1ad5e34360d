<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import type { Verb } from './useSelection'
import type { Thing } from './useThings'

/** Several objects that are selected together, and what is done to all of them. */
const props = defineProps<{ several: Thing[]; isGrouped: boolean }>()
const emit = defineEmits<{ act: [verb: Verb] }>()
const store = useSchemeStore()
const grounds = computed(() => props.several.filter((one) => one.kind === 'grounds'))
/** Rows of all grounds run one way, that of the first surface on one of them; south or north where there is none. */
const fill = () => void store.act('fill-faces', { faces: grounds.value.map((one) => `${one.id}/ground`) })
</script>
<template>
  <p class="soft several" role="status">
    {{ several.length }} objects are selected: they move, lock, hide and are deleted together.
    <button type="button" class="link" @click="emit('act', isGrouped ? 'ungroup' : 'group')">
      {{ isGrouped ? 'ungroup' : 'keep as a group' }}
    </button>
    <button v-if="grounds.length > 1" type="button" class="link strong" @click="fill">
      Fill {{ grounds.length }} grounds
    </button>
  </p>
</template>
<style scoped>
.several {
  font-size: 12px;
  line-height: 26px;
  margin: 0;
}
.strong {
  font-weight: 600;
  margin-left: 10px;
}
</style>
