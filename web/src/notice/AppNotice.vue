<script setup lang="ts">
import { watch } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useNotice } from './useNotice'

const { shown, clear, say } = useNotice()
const store = useSchemeStore()
watch(
  () => store.notice,
  (text) => {
    if (text) say(text)
    store.notice = ''
  },
)
watch(
  () => store.said,
  (text) => {
    if (text) say(text)
    store.said = ''
  },
)
let timer = 0
watch(shown, (notice) => {
  window.clearTimeout(timer)
  if (notice) timer = window.setTimeout(clear, notice.bad || notice.action ? 12_000 : 5000)
})
function act() {
  shown.value?.action?.run()
  clear()
}
</script>
<template>
  <div class="notice" :class="{ bad: shown?.bad, open: shown }" role="status" aria-live="polite">
    <template v-if="shown">
      <span>{{ shown.text }}</span>
      <button v-if="shown.action" type="button" class="act" @click="act">{{ shown.action.label }}</button>
      <button type="button" class="act" aria-label="Close this message" @click="clear">✕</button>
    </template>
  </div>
</template>
<style scoped>
.notice {
  position: fixed;
  left: 50%;
  bottom: 20px;
  transform: translateX(-50%);
  z-index: 3000;
  display: flex;
  gap: 16px;
  max-width: 720px;
  align-items: baseline;
}
.notice.open {
  background: var(--ink);
  color: var(--on-ink);
  padding: 9px 16px;
  border-radius: 8px;
  box-shadow: var(--shadow);
}
.notice.bad.open {
  background: #8f3420;
  color: #fffdf8;
}
.act {
  font-weight: 600;
  border-bottom: 1px solid currentColor;
  white-space: nowrap;
}
</style>
