<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useRoute, useRouter } from 'vue-router'
import { useLibrary } from '@/stores/library'
import { useTrials } from '@/stores/useTrials'
import { patchAt } from '@/api/mergePatch'
import { useDraft } from './useDraft'
import { useGesture } from './useGesture'
import { number } from '@/theme/format'
import { fieldText, shownUnit, toShown } from '@/theme/habits'

/** A number of the design, edited where it stands. What is not set shows its default. */
const props = defineProps<{
  pointer: string
  label: string
  unit?: string
  fallback?: number
  origin?: string
  step?: number
}>()
const emit = defineEmits<{ changed: [value: number] }>()
const store = useSchemeStore()
const library = useLibrary()
const trials = useTrials()
const [route, router] = [useRoute(), useRouter()]
const noteId = useId()
const open = ref(false)
const gesture = useGesture()
let atFocus: { text: string; set: number | undefined } | null = null

const field = computed(() => library.field(props.pointer))
const set = computed(() => store.at(props.pointer) as number | undefined)
const preset = computed(() => (field.value?.default as number | null) ?? props.fallback ?? 0)
const refused = computed(() => store.refused.find((finding) => finding.pointer === props.pointer))
const range = computed(() => ({
  min: field.value?.min ?? -Infinity,
  max: field.value?.max ?? Infinity,
  isInteger: field.value?.isInteger ?? false,
}))
const unit = computed(() => props.unit ?? field.value?.unit ?? '')
const {
  text,
  typing,
  problem,
  note: howRead,
  edit,
  take,
  discard,
  step: stepBy,
} = useDraft(() => set.value ?? preset.value, range, unit)
// What is typed belongs to the value it was typed for.
watch(() => props.pointer, discard)
const conflict = computed(() => store.conflicts.find((c) => c.pointer === props.pointer))
const fault = computed(
  () =>
    (typing.value ? problem.value : null) ??
    refused.value?.detail ??
    (conflict.value ? `Changed elsewhere; your ${String(conflict.value.mine)} was not applied.` : null),
)
const unitText = computed(() => (unit.value ? ` ${shownUnit(unit.value)}` : ''))
const baseText = (base: unknown) => (typeof base === 'number' ? fieldText(base, unit.value) : String(base))
const note = computed(() => {
  const { min, max } = range.value
  const reach = Number.isFinite(max)
    ? `${number(toShown(min, unit.value), min % 1 ? 1 : 0)} to ${number(toShown(max, unit.value))}${unitText.value}`
    : ''
  const base = field.value?.default ?? props.fallback
  const why = props.origin ?? field.value?.reason
  return { reach, base: base === undefined || base === null ? '' : `${baseText(base)}${unitText.value}`, why }
})
const isOverride = computed(
  () => set.value !== undefined && (field.value?.default ?? props.fallback) !== undefined && note.value.base !== '',
)

function send(value: number, name = '') {
  store.edit(patchAt(props.pointer, value), name)
  emit('changed', value)
}
function commit(name = '') {
  const value = take()
  if (value !== null && value !== set.value) send(value, name)
}
function nudge(event: KeyboardEvent, direction: number) {
  event.preventDefault()
  stepBy(direction * (props.step ?? field.value?.step ?? 1) * (event.shiftKey ? 10 : 1))
  commit(gesture.name())
}
/** The value is loose in the trials of the scheme, and they are shown. */
async function letLoose() {
  open.value = false
  await trials.letLoose([props.pointer], true)
  await router.push({ name: 'bench', params: { ...route.params, bench: 'trials' }, query: { ...route.query } })
}
/** The note hangs under its value, within the window, whatever scrolls around it. */
const place = ref({ left: '0px', top: '0px' })
function hang(input: HTMLElement) {
  const box = input.getBoundingClientRect()
  const above = box.bottom + 110 > window.innerHeight
  place.value = {
    left: `${Math.max(8, Math.min(box.left, window.innerWidth - 270))}px`,
    top: above ? `${box.top - 96}px` : `${box.bottom + 5}px`,
  }
}
function enter(event: FocusEvent) {
  open.value = true
  hang(event.target as HTMLElement)
  atFocus = { text: text.value, set: set.value }
}
function leave() {
  commit()
  open.value = false
}
function takeBack(event: Event) {
  discard()
  if (atFocus && set.value !== atFocus.set) store.edit(patchAt(props.pointer, atFocus.set ?? null), gesture.name())
  ;(event.target as HTMLElement).blur()
}
function putBack() {
  discard()
  store.edit(patchAt(props.pointer, null))
  open.value = false
}
</script>
<template>
  <span class="value"
    ><input
      class="blank"
      :data-pointer="pointer"
      inputmode="decimal"
      autocomplete="off"
      :value="text"
      :aria-label="label"
      :aria-invalid="fault !== null"
      :aria-describedby="noteId"
      :class="{ preset: set === undefined }"
      @input="edit(($event.target as HTMLInputElement).value)"
      @focus="enter"
      @blur="leave"
      @keydown.enter="commit()"
      @keydown.esc.stop="takeBack"
      @keydown.up="nudge($event, 1)"
      @keydown.down="nudge($event, -1)"
    /><span v-if="unit" class="unit" :class="{ tight: unit === '°' || unit === '%' }">{{
      unit === '°' ? '°' : unit === '%' ? ' %' : unitText
    }}</span
    ><span
      :id="noteId"
      class="note"
      :class="{ shown: fault || (open && (howRead || note.reach || note.base)) }"
      :style="place"
      role="status"
    >
      <b v-if="fault" class="bad">{{ fault }}</b>
      <template v-else-if="open">
        <span v-if="howRead" class="care">{{ howRead }}</span>
        <span v-if="note.reach">{{ note.reach }}</span>
        <span v-if="note.base"
          >{{ isOverride ? 'Default' : 'Default value:' }} {{ note.base }}.{{ note.why ? ` ${note.why}` : '' }}</span
        >
        <button v-if="isOverride" type="button" class="link" @mousedown.prevent="putBack">Reset to default</button>
        <button type="button" class="link" @mousedown.prevent="letLoose">Let it loose for trials</button>
      </template>
    </span></span
  >
</template>
<style scoped>
.value {
  position: relative;
  white-space: nowrap;
}
.unit {
  font-weight: 600;
}
.preset {
  font-weight: 500;
}
.note {
  position: fixed;
  z-index: 400;
  display: none;
}
.note.shown {
  display: grid;
  gap: 4px;
  white-space: normal;
  width: max-content;
  max-width: 250px;
  padding: 7px 10px;
  border-radius: 7px;
  background: var(--sheet);
  border: 1px solid var(--rule-strong);
  box-shadow: var(--shadow);
  font: 400 12px/1.4 var(--sans);
  color: var(--soft);
}
.note .link {
  justify-self: start;
}
</style>
