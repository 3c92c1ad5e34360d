<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { api, type FileGuess, type ProjectAnswer } from '@/api/client'
import { brought, isBringing } from '@/stores/bringing'
import { dropped } from '@/stores/droppedFile'
import { useNotice } from '@/notice/useNotice'
import { takeWeatherFile, takeWeatherText, weatherFile } from '@/weather/weatherFile'
import FileProgress from '@/weather/FileProgress.vue'
import ReadingSheet from '@/weather/ReadingSheet.vue'
import BringIn from './BringIn.vue'

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
/** A dropped file goes where its content belongs, or it is said what it is; what makes a project asks first. */
async function take(file: File) {
  if (isBringing.value) return void look(file)
  isLooking.value = file.name
  try {
    const guess = await api.recogniseFile(file)
    if (guess.kind === 'project' || guess.kind === 'scheme') {
      isBringing.value = true
      return void (await look(file, guess))
    }
    await carry(file, guess)
  } catch (error) {
    fault.value = { name: file.name, detail: (error as Error).message }
  } finally {
    isLooking.value = ''
  }
}
const isBusy = ref(false)
const bringFault = ref('')
/** What a file is, and what would become of it. */
async function look(file: File, known?: FileGuess) {
  isBusy.value = true
  bringFault.value = ''
  try {
    const guess = known ?? (await api.recogniseFile(file))
    brought.value = { file, guess, words: [] }
    if (guess.kind === 'project') brought.value = { file, guess, words: (await api.lookIntoProject(file)).words }
    if (guess.kind === 'unknown') bringFault.value = 'It cannot be brought in.'
  } catch (error) {
    bringFault.value = (error as Error).message
  } finally {
    isBusy.value = false
  }
}
async function bring() {
  if (!brought.value) return
  const { file, guess } = brought.value
  isBusy.value = true
  try {
    if (await carry(file, guess)) closeBringing()
  } catch (error) {
    bringFault.value = (error as Error).message
  } finally {
    isBusy.value = false
  }
}
function closeBringing() {
  isBringing.value = false
  brought.value = null
  bringFault.value = ''
}
/** Takes a file where it belongs; false where it has no place yet. */
async function carry(file: File, guess: FileGuess): Promise<boolean> {
  if (guess.kind === 'weather') {
    void takeWeatherFile(file)
    return true
  }
  if (guess.kind === 'project') {
    const { project, words } = await api.bringInProject(file)
    await open(project!)
    say(words.at(-1)!)
    return true
  }
  if (guess.kind === 'scheme') {
    const document = JSON.parse(await file.text()) as { name?: string }
    await open(await api.beginProject({ name: document.name || file.name.replace(/\.json$/, ''), document }))
    return true
  }
  const place = PLACES[guess.kind]
  if (!place || route.name !== 'bench') {
    const more = place ? ' Open a project first, then bring it in again.' : ''
    if (isBringing.value) bringFault.value = more.trim() || guess.words
    else fault.value = { name: file.name, detail: guess.words + more }
    return false
  }
  dropped.value = { file, guess }
  await router.push({
    name: 'bench',
    params: { ...route.params, bench: place.bench },
    query: { ...route.query, page: undefined, ...place.query },
  })
  say(`${file.name}: ${guess.words}`)
  return true
}
const open = (project: ProjectAnswer) =>
  router.push(`/projects/${project.id}/${project.pinned ?? project.schemes[0]!.id}/surfaces`)
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
  <BringIn :is-busy="isBusy" :fault="bringFault" @look="look" @take="bring" @close="closeBringing" />
  <div v-if="over" class="over">
    <p class="serif">Drop the file here</p>
    <p>A project, weather, a building or points, outlines, a picture, a list of parts, a horizon, a scheme</p>
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
