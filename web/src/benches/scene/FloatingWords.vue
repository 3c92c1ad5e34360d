<script setup lang="ts">
import { onBeforeUnmount, onMounted, onUpdated, ref } from 'vue'

/** Words that float over the drawing: two lines of them, the whole on request. */
const said = ref<HTMLElement>()
const isWhole = ref(false)
const isCut = ref(false)
let observer: ResizeObserver | null = null

function measure() {
  const box = said.value
  if (!box) return
  isCut.value = box.scrollHeight > box.clientHeight + 4
}
onMounted(() => {
  observer = typeof ResizeObserver === 'undefined' ? null : new ResizeObserver(measure)
  if (said.value) observer?.observe(said.value)
})
onUpdated(measure)
onBeforeUnmount(() => observer?.disconnect())
</script>
<template>
  <div ref="said" class="said" :class="{ whole: isWhole }">
    <slot />
    <button
      v-if="isWhole || isCut"
      type="button"
      class="link whole-word"
      :aria-expanded="isWhole"
      @click="isWhole = !isWhole"
    >
      {{ isWhole ? 'less ▴' : 'all ▾' }}
    </button>
  </div>
</template>
<style scoped>
.said {
  position: absolute;
  left: 0;
  right: 0;
  top: 0;
  max-height: 52px;
  overflow: hidden;
  padding: 1px 52px 2px 0;
  background: color-mix(in srgb, var(--sheet) 94%, transparent);
}
.said.whole {
  max-height: 70%;
  overflow: auto;
  z-index: 6;
  box-shadow: var(--shadow);
  padding-bottom: 8px;
}
.whole-word {
  position: absolute;
  right: 0;
  top: 3px;
  font-size: 12px;
}
</style>
