<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import { useDropped } from '@/stores/droppedFile'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useTyping } from '@/brief/useTyping'
import { CONVENTIONS, readPairs, suspects, type Convention } from './azimuths'
import type { Direction } from './skyGeometry'

/** The horizon as pairs to type or to paste, in any way of counting azimuths. */
const store = useSchemeStore()
const points = computed(() => (store.at('/site/horizon') as unknown as Direction[] | undefined) ?? [])
const convention = ref<Convention>('north')
const { text, edit, take } = useTyping(() => points.value.map((p) => `${p.azimuth}\t${p.elevation}`).join('\n'))
const fault = ref('')
const isReading = ref(false)
const { say } = useNotice()
const asks = computed(() => suspects(text.value, convention.value))

function commit() {
  fault.value = ''
  if (asks.value) {
    fault.value = 'Azimuths below zero do not count from north. Choose how they count, above.'
    return
  }
  const read = readPairs(text.value, convention.value)
  if (read.fault) {
    fault.value = read.fault
    return
  }
  const found = read.points.toSorted((a, b) => a.azimuth - b.azimuth)
  const twice = found.find((p, i) => p.azimuth === found[i - 1]?.azimuth)
  if (twice) {
    fault.value = `${twice.azimuth}° is listed twice; remove one.`
    return
  }
  take()
  convention.value = 'north'
  if (JSON.stringify(found) !== JSON.stringify(points.value))
    store.edit({ site: { horizon: found.length ? (found as unknown as never) : null } })
}
/** A dropped list of pairs takes the place of the horizon, headings left out. */
useDropped('horizon', async ({ file }) => {
  const lines = (await file.text()).split('\n').filter((line) => /^\s*[-−+\d]/.test(line))
  edit(lines.join('\n'))
  commit()
})
/** The visible line of a height grid takes the place of the horizon; what is level needs no points. */
async function takeGrid(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (!file) return
  isReading.value = true
  fault.value = ''
  try {
    const { azimuths, elevations } = await api.terrainHorizon(file, store.site)
    const line = azimuths.map((azimuth, i) => ({ azimuth, elevation: elevations[i]! }))
    const needed = line.filter(
      (p, i) => p.elevation > 0 || line.at(i - 1)!.elevation > 0 || line[(i + 1) % line.length]!.elevation > 0,
    )
    store.edit({ site: { horizon: needed.length ? (needed as unknown as never) : null } })
    say(
      needed.length
        ? `The horizon of ${file.name}: up to ${Math.max(...elevations)}°.`
        : `No terrain of ${file.name} rises over the level.`,
      { label: 'Undo', run: () => void store.undo() },
    )
  } catch (error) {
    fault.value = (error as Error).message
  } finally {
    isReading.value = false
    input.value = ''
  }
}
</script>
<template>
  <div class="pairs">
    <label class="soft">
      Azimuth
      <select v-model="convention" class="blank" aria-label="How azimuths are counted">
        <option v-for="c in CONVENTIONS" :key="c.key" :value="c.key">{{ c.text }} ({{ c.example }})</option>
      </select>
    </label>
    <textarea
      :value="text"
      class="field"
      rows="5"
      aria-label="Horizon as pairs of azimuth and elevation"
      placeholder="azimuth  elevation&#10;60  6&#10;92  14"
      spellcheck="false"
      @input="edit(($event.target as HTMLTextAreaElement).value)"
      @blur="commit"
    />
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <label class="link grid" :aria-busy="isReading">
      {{ isReading ? 'Reading the grid…' : 'From a height grid…' }}
      <input type="file" accept=".tif,.tiff,.asc,.txt" class="sr" @change="takeGrid" />
    </label>
    <p v-if="!fault" class="soft">
      Azimuth and elevation, one pair a line; or paste two columns. Kept clockwise from north.
    </p>
  </div>
</template>
<style scoped>
.grid {
  cursor: pointer;
  justify-self: start;
}
.grid:focus-within {
  outline: 2px solid var(--current);
}
.pairs {
  display: grid;
  gap: 4px;
  font-size: 11.5px;
}
textarea {
  width: 100%;
  resize: vertical;
  font-size: 12px;
}
</style>
