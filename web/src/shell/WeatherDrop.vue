<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useNotice } from '@/notice/useNotice'
import { takeWeatherFile, takeWeatherText, weatherFile } from '@/weather/weatherFile'
import FileProgress from '@/weather/FileProgress.vue'
import ReadingSheet from '@/weather/ReadingSheet.vue'

/** A weather file may be dropped anywhere on the window. */
const { reading, fault, stored, opened } = weatherFile
const over = ref(false)
const store = useSchemeStore()
const route = useRoute()
const router = useRouter()
const { say } = useNotice()
const LINES_OF_A_TABLE = 100
let depth = 0
const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false
function enter(event: DragEvent) {
  if (hasFiles(event)) {
    depth++
    over.value = true
  }
}
function leave(event: DragEvent) {
  if (hasFiles(event) && --depth <= 0) {
    depth = 0
    over.value = false
  }
}
function hold(event: DragEvent) {
  if (hasFiles(event)) event.preventDefault()
}
function drop(event: DragEvent) {
  if (!hasFiles(event)) return
  event.preventDefault()
  depth = 0
  over.value = false
  const file = event.dataTransfer?.files[0]
  if (file) void takeWeatherFile(file)
}
/** Many lines from the clipboard, outside of any field, are a table of weather. */
function paste(event: ClipboardEvent) {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  const isField = event.target instanceof HTMLElement && event.target.closest('input, textarea, [contenteditable]')
  if (isField || text.split('\n', LINES_OF_A_TABLE + 1).length <= LINES_OF_A_TABLE) return
  event.preventDefault()
  void takeWeatherText(text)
}
watch(stored, (year) => {
  if (!year) return
  if (route.name === 'bench') {
    store.edit({ weather: { digest: year.digest, title: year.title } })
    void router.push({ name: 'bench', params: { ...route.params, bench: 'weather' }, query: route.query })
    say(`${year.title} is now the scheme's weather.`, { label: 'Undo', run: () => void store.undo() })
  } else say(`${year.title} is in the weather library.`)
  stored.value = null
})
onMounted(() => {
  for (const [name, run] of [
    ['dragenter', enter],
    ['dragleave', leave],
    ['dragover', hold],
    ['drop', drop],
  ] as const)
    window.addEventListener(name, run)
  window.addEventListener('paste', paste)
})
onBeforeUnmount(() => {
  for (const [name, run] of [
    ['dragenter', enter],
    ['dragleave', leave],
    ['dragover', hold],
    ['drop', drop],
  ] as const)
    window.removeEventListener(name, run)
  window.removeEventListener('paste', paste)
})
</script>
<template>
  <div v-if="over" class="over">
    <p class="serif">Drop the weather file here</p>
    <p>EPW, or any table: text, XLSX, Parquet, JSON</p>
  </div>
  <div v-if="reading" class="over quiet">
    <FileProgress :name="reading.name" :bytes="reading.bytes" :since="reading.since" @stop="reading.stop()" />
  </div>
  <v-dialog :model-value="opened !== null" max-width="1120" scroll-strategy="none" @update:model-value="opened = null">
    <ReadingSheet v-if="opened" :opened="opened" @close="opened = null" />
  </v-dialog>
  <v-dialog :model-value="fault !== null" max-width="520" @update:model-value="fault = null">
    <div v-if="fault" class="fault" role="alertdialog" aria-label="The file cannot be read">
      <h2>{{ fault.name }} cannot be read</h2>
      <p>{{ fault.detail }}</p>
      <p class="soft">Nothing was changed. Correct the file and drop it again.</p>
      <p><button type="button" class="button strong" autofocus @click="fault = null">Close</button></p>
    </div>
  </v-dialog>
</template>
<style scoped>
.over {
  position: fixed;
  inset: 14px;
  z-index: 2500;
  border: 2px dashed var(--ink);
  border-radius: 14px;
  background: color-mix(in srgb, var(--paper) 88%, transparent);
  display: grid;
  place-content: center;
  text-align: center;
  pointer-events: none;
}
.over .serif {
  font-size: 26px;
  font-weight: 600;
}
.fault {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 20px 24px;
  display: grid;
  gap: 12px;
  border-left: 4px solid var(--loss);
}
</style>
