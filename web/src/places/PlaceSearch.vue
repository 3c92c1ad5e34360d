<script setup lang="ts">
import { onMounted, ref, useId, watch } from 'vue'
import { api, type PlaceAnswer } from '@/api/client'
import { latitudeText, longitudeText } from '@/theme/format'

/** Towns by name, or coordinates in any usual notation. */
const props = withDefaults(defineProps<{ start?: string; label?: string; plain?: boolean }>(), {
  start: '',
  label: 'Place or coordinates',
  plain: false,
})
const emit = defineEmits<{ found: [place: PlaceAnswer] }>()
const query = ref(props.start)
const places = ref<PlaceAnswer[]>([])
const open = ref(false)
const picked = ref(0)
const nothing = ref(false)
const listId = useId()
let asked: AbortController | null = null
let timer = 0

async function search() {
  asked?.abort()
  nothing.value = false
  if (query.value.trim().length < 2) {
    places.value = []
    return
  }
  const mine = new AbortController()
  asked = mine
  try {
    const found = await api.places(query.value, mine.signal)
    if (asked !== mine) return
    places.value = found
    nothing.value = found.length === 0
    picked.value = 0
  } catch {
    if (!mine.signal.aborted) places.value = []
  }
}
function typed(event: Event) {
  query.value = (event.target as HTMLInputElement).value
  open.value = true
  window.clearTimeout(timer)
  timer = window.setTimeout(search, 120)
}
function choose(place: PlaceAnswer | undefined) {
  if (!place) return
  emit('found', place)
  query.value = place.name
  open.value = false
}
async function enter() {
  if (!places.value.length) await search()
  choose(places.value[picked.value])
}
watch(
  () => props.start,
  (text) => {
    if (!open.value) query.value = text
  },
)
onMounted(() => {
  if (props.start && !props.plain) {
    open.value = false
  }
})
</script>
<template>
  <span class="place">
    <input
      :class="plain ? 'blank' : 'field'"
      :value="query"
      type="text"
      role="combobox"
      autocomplete="off"
      :aria-label="label"
      :aria-expanded="open && places.length > 0"
      :aria-controls="listId"
      aria-autocomplete="list"
      :aria-activedescendant="open && places.length ? `${listId}-${picked}` : undefined"
      placeholder="A town, or 43.62, 11.31"
      @input="typed"
      @focus="($event.target as HTMLInputElement).select()"
      @blur="open = false"
      @keydown.down.prevent="picked = Math.min(picked + 1, places.length - 1)"
      @keydown.up.prevent="picked = Math.max(picked - 1, 0)"
      @keydown.enter="enter"
      @keydown.esc.stop="open = false"
    />
    <ul v-show="open && (places.length || nothing)" :id="listId" role="listbox" aria-label="Places found">
      <li
        v-for="(place, i) in places"
        :id="`${listId}-${i}`"
        :key="i"
        role="option"
        :aria-selected="i === picked"
        @mousedown.prevent="choose(place)"
        @mousemove="picked = i"
      >
        <b>{{ place.name }}</b><span v-if="place.country" class="soft">, {{ place.country }}</span
        ><span class="soft at">{{ latitudeText(place.latitude) }}, {{ longitudeText(place.longitude) }}</span>
      </li>
      <li v-if="nothing" class="soft" role="option" aria-selected="false" aria-disabled="true">
        No town of this name. Coordinates can be typed too: 43.62, 11.31
      </li>
    </ul>
  </span>
</template>
<style scoped>
.place {
  position: relative;
  display: inline-block;
}
ul {
  position: absolute;
  z-index: 60;
  left: 0;
  top: calc(100% + 4px);
  min-width: 330px;
  list-style: none;
  margin: 0;
  padding: 5px;
  background: var(--sheet);
  border: 1px solid var(--rule-strong);
  border-radius: 8px;
  box-shadow: var(--shadow);
  font: 13px/1.4 var(--sans);
}
li {
  padding: 5px 10px;
  border-radius: 5px;
  cursor: pointer;
  display: flex;
  gap: 2px;
}
li[aria-selected='true'] {
  background: var(--pick);
}
.at {
  margin-left: auto;
  padding-left: 18px;
  font-size: 12px;
}
</style>
