<script setup lang="ts">
import { computed, ref } from 'vue'
import type { SurfaceView } from '@/stores/schemeLists'
import { azimuthWords, number } from '@/theme/format'

/** The surfaces by name: a few as words in a row, many as a list that filters and scrolls by itself. */
const props = defineProps<{ surfaces: SurfaceView[]; picked: string }>()
const emit = defineEmits<{ pick: [id: string]; add: [] }>()
const MANY = 8
const filter = ref('')
const isLong = computed(() => props.surfaces.length > MANY)
const MOVES = { tracking: 'turns', two_axis_tracking: 'two axes', seasonal_tilt: 'by season' }
const standsWords = (s: SurfaceView) => (s.motion ? MOVES[s.motion] : `${number(s.tilt)}° ${azimuthWords(s.azimuth)}`)
const shown = computed(() => {
  const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean)
  return props.surfaces.filter((s) => {
    const text = `${s.name} ${s.id} ${standsWords(s)}`.toLowerCase()
    return words.every((word) => text.includes(word))
  })
})
</script>
<template>
  <nav v-if="!isLong" aria-label="Surfaces" class="names">
    <button
      v-for="s in surfaces"
      :key="s.id"
      type="button"
      class="link"
      :aria-current="s.id === picked"
      @click="emit('pick', s.id)"
    >
      {{ s.name }}</button><button type="button" class="link" @click="emit('add')">+ add</button>
  </nav>
  <nav v-else aria-label="Surfaces" class="long">
    <p>
      <input v-model="filter" class="field" type="search" placeholder="Filter" aria-label="Filter the surfaces" />
      <span class="soft">{{ shown.length }} of {{ surfaces.length }}</span>
      <button type="button" class="link" @click="emit('add')">+ add</button>
    </p>
    <ul>
      <li v-for="s in shown" :key="s.id">
        <button type="button" :aria-current="s.id === picked" @click="emit('pick', s.id)">
          <span>{{ s.name }}</span><span class="soft">{{ standsWords(s) }}</span>
        </button>
      </li>
    </ul>
    <p v-if="!shown.length" class="soft">No surfaces match.</p>
  </nav>
</template>
<style scoped>
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  font-size: 12px;
}
.long {
  display: grid;
  gap: 5px;
  font-size: 12px;
}
.long p {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.long p > * {
  white-space: nowrap;
}
.long .field {
  flex: 0 1 84px;
  min-width: 44px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 132px;
  overflow-y: auto;
  border-top: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
}
li button {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  padding: 2px 6px;
  text-align: left;
}
li span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li .soft {
  white-space: nowrap;
}
li button:hover,
li button[aria-current='true'] {
  background: var(--pick);
}
</style>
