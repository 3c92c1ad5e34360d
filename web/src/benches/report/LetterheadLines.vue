<script setup lang="ts">
import { ref } from 'vue'
import { api, type LetterheadLine } from '@/api/client'
import BriefText from '@/brief/BriefText.vue'
import { useNotice } from '@/notice/useNotice'

/** Who one's reports are from; it stands on all of them. */
const emit = defineEmits<{ change: [] }>()
const { warn } = useNotice()
const head = ref<LetterheadLine | null>(null)
const read = () =>
  api.letterhead().then(
    (found) => (head.value = found),
    (error: Error) => warn(error.message),
  )
void read()
const LINES = { sender: 'your name', contact: 'address, telephone, mail', closing: 'closing words' } as const
async function set(field: keyof LetterheadLine, value: string) {
  try {
    head.value = await api.setLetterhead({ ...head.value!, [field]: value })
    emit('change')
  } catch (error) {
    warn((error as Error).message)
    await read()
  }
}
</script>
<template>
  <section v-if="head" aria-label="Letterhead">
    <h3 class="cap">From</h3>
    <BriefText
      v-for="(words, field) in LINES"
      :key="field"
      :value="head[field]"
      :label="`Letterhead: ${words}`"
      :placeholder="words"
      @change="set(field, $event)"
    />
  </section>
</template>
<style scoped>
section {
  display: grid;
  gap: 4px;
  margin: 4px 0 14px;
}
section :deep(input) {
  width: 100%;
  font-size: 12.5px;
  font-weight: 500;
}
</style>
