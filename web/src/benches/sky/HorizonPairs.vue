<script setup lang="ts">
import { computed, ref } from 'vue'
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
    <p v-else class="soft">Azimuth and elevation, one pair a line; or paste two columns. Kept clockwise from north.</p>
  </div>
</template>
<style scoped>
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
