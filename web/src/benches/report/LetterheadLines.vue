<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, type LetterheadAnswer, type LetterheadLine, type ReportCatalogue } from '@/api/client'
import BriefText from '@/brief/BriefText.vue'
import { useNotice } from '@/notice/useNotice'
import { isChoosingHabits } from '@/stores/choosing'
import { habits } from '@/theme/habits'

/** Who one's reports are from and how they read; it stands on all of them. */
defineProps<{ catalogue: ReportCatalogue }>()
const emit = defineEmits<{ change: [] }>()
const { warn } = useNotice()
const head = ref<LetterheadAnswer | null>(null)
const read = () =>
  api.letterhead().then(
    (found) => (head.value = found),
    (error: Error) => warn(error.message),
  )
void read()
// How numbers and units are written stands on every sheet.
watch(habits, () => emit('change'))
const LINES = { sender: 'your name', contact: 'address, telephone, mail', closing: 'closing words' } as const
async function change(act: () => Promise<LetterheadAnswer>) {
  try {
    head.value = await act()
    emit('change')
  } catch (error) {
    warn((error as Error).message)
    await read()
  }
}
function set(field: keyof LetterheadLine, value: string) {
  const { has_logo: _, house_colour: __, ...now } = head.value!
  void change(() => api.setLetterhead({ ...now, [field]: value }))
}
function logo(event: Event) {
  const input = event.target as HTMLInputElement
  const [file] = input.files ?? []
  if (file) void change(() => api.setLogo(file))
  input.value = ''
}
const of = (event: Event) => (event.target as HTMLInputElement | HTMLSelectElement).value
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
    <p class="row">
      <label class="link"
        >{{ head.has_logo ? 'another logo…' : 'logo…'
        }}<input type="file" class="sr" accept="image/png,image/jpeg,image/webp" aria-label="Logo" @change="logo"
      /></label>
      <button v-if="head.has_logo" type="button" class="link" @click="change(api.removeLogo)">without</button>
      <label class="colour"
        >headings
        <input
          type="color"
          :value="head.colour || head.house_colour"
          aria-label="Colour of the headings"
          @change="set('colour', of($event))"
      /></label>
      <button v-if="head.colour" type="button" class="link" @click="set('colour', '')">ours</button>
    </p>
    <p class="row">
      <select class="blank" :value="head.language" aria-label="Language" @change="set('language', of($event))">
        <option v-for="one in catalogue.languages" :key="one.key" :value="one.key">{{ one.name }}</option>
      </select>
      <button type="button" class="link" @click="isChoosingHabits = true">units and numbers…</button>
    </p>
  </section>
</template>
<style scoped>
section {
  display: grid;
  gap: 4px;
  margin: 4px 0 14px;
}
section :deep(input:not([type])),
section :deep(input[type='text']) {
  width: 100%;
  font-size: 12.5px;
  font-weight: 500;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  font-size: 12.5px;
  margin: 0;
}
.row select {
  font-size: 12.5px;
  max-width: 96px;
}
.colour {
  display: flex;
  gap: 6px;
  align-items: center;
}
.colour input {
  width: 26px;
  height: 24px;
  padding: 0;
  border: 1px solid var(--rule-strong);
  background: none;
}
label.link {
  cursor: pointer;
}
label.link:focus-within {
  outline: 2px solid var(--current);
}
</style>
