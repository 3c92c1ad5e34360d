<script setup lang="ts">
import { ref, useId, watch } from 'vue'
import { api, Unreachable, type PlaceAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'
import { latitudeText, longitudeText } from '@/theme/format'

/**
 * Towns by name, or coordinates in any usual notation. Where several may be meant it asks; while the text stands for no place yet, `unsettled`
 * says what is wrong with it.
 */
const props = withDefaults(defineProps<{ start?: string; label?: string; plain?: boolean }>(), {
  start: '',
  label: 'Place or coordinates',
  plain: false,
})
const emit = defineEmits<{ found: [place: PlaceAnswer]; unsettled: [words: string | null] }>()
const query = ref(props.start)
const places = ref<PlaceAnswer[]>([])
const open = ref(false)
const picked = ref(0)
const remark = ref('')
const isSure = ref(false)
/** Whether the person has seen the choice and moved in it, or pressed Enter before. */
const hasChosen = ref(false)
const listId = useId()
/** How long to wait before a server that did not answer is asked again. */
const ASK_AGAIN_MS = 1500
const { newest, giveUp } = useNewest()
let timer = 0
/** In a sentence the first text is a place; in a search it is still to be looked up. */
const isSettled = ref(props.plain)

async function search() {
  giveUp()
  remark.value = ''
  if (query.value.trim().length < 2) {
    places.value = []
    remark.value = query.value.trim() ? 'Type two letters or more' : ''
    return
  }
  try {
    const found = await newest((signal) => api.places(query.value, signal))
    if (!found) return
    places.value = found.places
    remark.value = found.remark
    isSure.value = found.is_sure
    picked.value = 0
  } catch (error) {
    places.value = []
    isSure.value = false
    const isSilent = error instanceof Unreachable
    remark.value = isSilent ? 'The server is not answering; it is asked again' : (error as Error).message
    if (isSilent) timer = window.setTimeout(search, ASK_AGAIN_MS)
  }
}
function typed(event: Event) {
  query.value = (event.target as HTMLInputElement).value
  open.value = true
  isSettled.value = props.plain && query.value === props.start
  hasChosen.value = false
  emit('unsettled', isSettled.value ? null : 'Choose the place')
  window.clearTimeout(timer)
  timer = window.setTimeout(search, 120)
}
function choose(place: PlaceAnswer | undefined) {
  if (!place) return
  isSettled.value = true
  open.value = false
  query.value = place.name
  emit('unsettled', null)
  emit('found', place)
}
function moveTo(k: number) {
  picked.value = Math.max(0, Math.min(k, places.value.length - 1))
  hasChosen.value = true
}
async function searchNow() {
  window.clearTimeout(timer)
  await search()
}
async function enter() {
  if (isSettled.value) return
  if (!hasChosen.value) await searchNow()
  if (isSure.value || hasChosen.value || places.value.length === 1) choose(places.value[picked.value])
  else {
    // Several may be meant, or none is: the list asks, and the next Enter takes what is marked in it.
    open.value = true
    hasChosen.value = places.value.length > 0
    emit('unsettled', remark.value || 'Choose the place')
  }
}
/** Leaving a sentence takes what can only be one place; anything else stays as it was typed, and is said to be no place yet. */
async function leave() {
  open.value = false
  if (isSettled.value || !props.plain) return
  await searchNow()
  if (isSure.value && places.value.length) choose(places.value[0])
  else emit('unsettled', remark.value || `Choose the place that '${query.value}' stands for`)
}
function takeBack() {
  open.value = false
  query.value = props.start
  isSettled.value = props.plain
  remark.value = ''
  emit('unsettled', null)
}
watch(
  () => props.start,
  (text) => {
    if (isSettled.value) query.value = text
  },
)
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
      :aria-invalid="!isSettled && !open"
      @blur="leave"
      @keydown.down.prevent="moveTo(picked + 1)"
      @keydown.up.prevent="moveTo(picked - 1)"
      @keydown.enter="enter"
      @keydown.esc.stop="takeBack"
    />
    <ul v-show="open && (places.length || remark)" :id="listId" role="listbox" aria-label="Places found">
      <li v-if="remark" class="soft remark" role="option" aria-selected="false" aria-disabled="true">{{ remark }}.</li>
      <li
        v-for="(place, i) in places"
        :id="`${listId}-${i}`"
        :key="i"
        role="option"
        :aria-selected="i === picked"
        @mousedown.prevent="choose(place)"
        @mousemove="moveTo(i)"
      >
        <span class="town"
          ><b>{{ place.name }}</b
          ><span v-if="place.country" class="soft">, {{ place.country }}</span></span
        ><span class="soft at">{{ latitudeText(place.latitude) }}, {{ longitudeText(place.longitude) }}</span>
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
  width: max-content;
  min-width: 330px;
  max-width: 560px;
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
li.remark {
  cursor: default;
  max-width: 420px;
}
.town {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.at {
  white-space: nowrap;
  margin-left: auto;
  padding-left: 18px;
  font-size: 12px;
}
</style>
