<script setup lang="ts">
import { computed } from 'vue'
import type { ShadeAnswer } from '@/api/client'
import { number } from '@/theme/format'
import { isDrawerOpen as isOpen } from './useScene'

/** Under the drawing: solar access in a line, and what lies over the drawing while it is open. */
const props = defineProps<{ shade: ShadeAnswer | null; fault: string }>()
/** The drawer in a line. */
const summary = computed(() => {
  const found = props.shade
  if (props.fault) return props.fault
  if (!found?.surfaces.length) return 'no modules on the scene yet'
  const modules = found.modules ? `${number(found.modules)} module${found.modules === 1 ? '' : 's'}, ` : ''
  return `${modules}${number(found.access * 100, 1)} % of the irradiation without shade`
})
</script>
<template>
  <section class="drawer">
    <div v-if="isOpen" id="scene-drawer" class="inside"><slot /></div>
    <button type="button" class="handle" :aria-expanded="isOpen" aria-controls="scene-drawer" @click="isOpen = !isOpen">
      <b>Solar access</b> <span class="soft">{{ summary }}</span>
      <span class="soft more">{{ isOpen ? 'close ▾' : 'table, obstacles, files ▴' }}</span>
    </button>
  </section>
</template>
<style scoped>
.drawer {
  grid-row: 5;
  position: relative;
  border-top: 1px solid var(--rule);
}
.handle {
  width: 100%;
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 4px 0 6px;
  font-size: 12px;
  text-align: left;
}
.handle .more {
  margin-left: auto;
}
.inside {
  position: absolute;
  z-index: 7;
  left: -20px;
  right: -20px;
  bottom: 100%;
  max-height: 300px;
  overflow: auto;
  padding: 8px 20px;
  background: var(--sheet);
  border-top: 1px solid var(--rule-strong);
  box-shadow: 0 -6px 16px color-mix(in srgb, var(--ink) 10%, transparent);
}
.handle > * {
  white-space: nowrap;
}
.handle > span:not(.more) {
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
