<script setup lang="ts">
import { computed, watch } from 'vue'
import type { ShadeAnswer } from '@/api/client'
import { number } from '@/theme/format'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { isDark, isDrawerOpen as isOpen, modulesInLight, threshold } from './useScene'

/** Under the drawing: solar access in a line, and what lies over the drawing while it is open. */
const props = defineProps<{ shade: ShadeAnswer | null; fault: string }>()
const store = useSchemeStore()
const dark = computed(() => (props.shade ? modulesInLight(props.shade).filter(isDark).length : 0))
/** It opens by itself when an edit puts more modules under the threshold; what was there on coming is in its line. */
let last: { scheme: number | undefined; dark: number } | null = null
watch(
  () => (props.shade && !props.shade.is_coarse ? { scheme: store.saved?.id, dark: dark.value } : null),
  (now) => {
    if (!now) return
    if (last?.scheme === now.scheme && now.dark > last!.dark) isOpen.value = true
    last = now
  },
)
/** Whether the modules of the scene are on trackers. */
const turning = computed(() =>
  Object.values((store.at('/surfaces') ?? {}) as Record<string, { face?: string; tracking?: object }>).some(
    (one) => one.face && one.tracking,
  ),
)
/** The drawer in a line. */
const summary = computed(() => {
  const found = props.shade
  if (props.fault) return props.fault
  if (!found?.surfaces.length)
    return turning.value ? 'of modules that turn it is in the year, not here' : 'no modules on the scene yet'
  const modules = found.modules ? `${number(found.modules)} module${found.modules === 1 ? '' : 's'}, ` : ''
  const under = dark.value ? `, ${number(dark.value)} of them under ${threshold.value} %` : ''
  return `${modules}${number(found.access * 100, 1)} % of the irradiation without shade${under}`
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
  grid-row: 6;
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
