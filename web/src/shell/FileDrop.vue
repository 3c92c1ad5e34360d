<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { api, type FileGuess } from '@/api/client'
import { dropped } from '@/stores/droppedFile'
import { useNotice } from '@/notice/useNotice'
import { takeWeatherFile, takeWeatherText, weatherFile } from '@/weather/weatherFile'
import FileProgress from '@/weather/FileProgress.vue'
import ReadingSheet from '@/weather/ReadingSheet.vue'

/** A file may be dropped anywhere on the window: what it is decides where it goes. */
const { reading, fault, stored, opened } = weatherFile
const over = ref(false)
const store = useSchemeStore()
const route = useRoute()
const router = useRouter()
const { say, warn } = useNotice()
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
  const files = [...(event.dataTransfer?.files ?? [])]
  if (files.length > 1)
    warn(`${files.length} files were dropped; ${files[0]!.name} is read. Drop the others one by one.`)
  if (files[0]) void take(files[0])
}
/** Where files go that belong to a bench; the others are taken wherever one is. */
const PLACES: Partial<Record<FileGuess['kind'], { bench: string; query?: Record<string, string> }>> = {
  scene: { bench: 'scene' },
  picture: { bench: 'site', query: { act: 'map-picture' } },
  region: { bench: 'site' },
  parts: { bench: 'circuits', query: { page: 'parts' } },
  horizon: { bench: 'sky' },
  use: { bench: 'demand' },
  demand: { bench: 'demand' },
  tariff: { bench: 'money' },
}
/** A file goes where its content belongs, or it is said what it is. */
async function take(file: File) {
  isLooking.value = file.name
  try {
    const guess = await api.recogniseFile(file)
    if (guess.kind === 'weather') return void (await takeWeatherFile(file))
    const place = PLACES[guess.kind]
    if (guess.kind === 'unknown' || (place && route.name !== 'bench')) {
      const more = place ? ' Open a project first, then drop it again.' : ''
      fault.value = { name: file.name, detail: guess.words + more }
      return
    }
    dropped.value = { file, guess }
    if (place)
      await router.push({
        name: 'bench',
        params: { ...route.params, bench: place.bench },
        query: { ...route.query, page: undefined, ...place.query },
      })
    else await router.push('/')
    say(`${file.name}: ${guess.words}`)
  } catch (error) {
    fault.value = { name: file.name, detail: (error as Error).message }
  } finally {
    isLooking.value = ''
  }
}
const isLooking = ref('')
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
    <p class="serif">Drop the file here</p>
    <p>Weather, a building or points, outlines, a picture, a list of parts, a horizon, a scheme</p>
  </div>
  <div v-if="isLooking && !reading" class="over quiet">
    <p class="serif">Looking at {{ isLooking }}…</p>
  </div>
  <div v-if="reading" class="over quiet">
    <FileProgress :name="reading.name" :bytes="reading.bytes" :since="reading.since" @stop="reading.stop()" />
  </div>
  <v-dialog
    role="none"
    :aria-modal="null"
    :model-value="opened !== null"
    max-width="1120"
    scroll-strategy="none"
    @update:model-value="opened = null"
  >
    <ReadingSheet v-if="opened" :opened="opened" @close="opened = null" />
  </v-dialog>
  <v-dialog
    role="none"
    :aria-modal="null"
    :model-value="fault !== null"
    max-width="520"
    @update:model-value="fault = null"
  >
    <div v-if="fault" class="fault" role="alertdialog" aria-label="The file cannot be read">
      <h2>{{ fault.name }} cannot be read</h2>
      <p>{{ fault.detail }}</p>
      <p class="soft">Nothing was changed.</p>
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
