<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, type DrawnMark } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** The one-line diagram, drawn from the design: it can be zoomed, moved, and taken away as a file. */
const store = useSchemeStore()
const paper = ref<'a4' | 'a3'>('a4')
const number = ref(0)
const { answer, fault } = useAnswer(
  () => (store.shown && store.evaluation?.headline ? `${store.shown.id}:${paper.value} ${store.shown.revision}` : null),
  (signal) => api.diagram(store.shown!.id, paper.value, signal),
)
const sheet = computed(() => answer.value?.sheets[Math.min(number.value, answer.value.sheets.length - 1)] ?? null)
const TONES: Record<string, string> = {
  ink: 'var(--ink)',
  soft: 'var(--soft)',
  current: 'var(--current-text)',
  sun: 'var(--sun-text)',
  yield: 'var(--yield-text)',
  loss: 'var(--loss-text)',
}
const path = (mark: DrawnMark) =>
  mark.points.map(([x, y], i) => `${i ? 'L' : 'M'}${x} ${y}`).join('') + (mark.is_closed ? 'Z' : '')

// What is seen: the corner and the width, in millimetres of the sheet.
const view = ref({ x: 0, y: 0, width: 0 })
const whole = () => {
  view.value = { x: 0, y: 0, width: sheet.value?.width ?? 297 }
}
watch(() => [sheet.value?.width, number.value], whole, { immediate: true })
const ratio = computed(() => (sheet.value ? sheet.value.height / sheet.value.width : 0.7))
const box = computed(() => `${view.value.x} ${view.value.y} ${view.value.width} ${view.value.width * ratio.value}`)
const zoom = computed(() => (sheet.value ? sheet.value.width / view.value.width : 1))
function scale(by: number, at?: { x: number; y: number }) {
  const full = sheet.value!.width
  const width = Math.min(full, Math.max(full / 8, view.value.width / by))
  const share = at ?? { x: 0.5, y: 0.5 }
  move(
    view.value.x + (view.value.width - width) * share.x,
    view.value.y + (view.value.width - width) * ratio.value * share.y,
    width,
  )
}
function move(x: number, y: number, width = view.value.width) {
  const full = sheet.value!
  view.value = {
    x: Math.min(Math.max(0, x), full.width - width),
    y: Math.min(Math.max(0, y), full.height - width * ratio.value),
    width,
  }
}
const place = (event: MouseEvent) => {
  const frame = (event.currentTarget as Element).getBoundingClientRect()
  return { x: (event.clientX - frame.left) / frame.width, y: (event.clientY - frame.top) / frame.height }
}
function wheel(event: WheelEvent) {
  if (!event.ctrlKey && zoom.value <= 1 && event.deltaY > 0) return
  event.preventDefault()
  scale(event.deltaY < 0 ? 1.2 : 1 / 1.2, place(event))
}
let held: { x: number; y: number; from: { x: number; y: number } } | null = null
function press(event: PointerEvent) {
  held = { ...place(event), from: { x: view.value.x, y: view.value.y } }
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent) {
  if (!held) return
  const now = place(event)
  move(
    held.from.x - (now.x - held.x) * view.value.width,
    held.from.y - (now.y - held.y) * view.value.width * ratio.value,
  )
}
function keys(event: KeyboardEvent) {
  const step = view.value.width * 0.1
  const acts: Record<string, () => void> = {
    '+': () => scale(1.25),
    '=': () => scale(1.25),
    '-': () => scale(0.8),
    '0': whole,
    ArrowLeft: () => move(view.value.x - step, view.value.y),
    ArrowRight: () => move(view.value.x + step, view.value.y),
    ArrowUp: () => move(view.value.x, view.value.y - step),
    ArrowDown: () => move(view.value.x, view.value.y + step),
  }
  const act = acts[event.key]
  if (!act) return
  event.preventDefault()
  event.stopPropagation()
  act()
}
const file = (kind: 'svg' | 'pdf' | 'dxf') =>
  api.diagramFile(store.shown!.id, paper.value, kind, kind === 'svg' ? number.value + 1 : undefined)
</script>
<template>
  <section v-if="answer && sheet">
    <p class="tools">
      <span
        >Paper
        <button type="button" class="link" :aria-pressed="paper === 'a4'" @click="paper = 'a4'">A4</button>
        <button type="button" class="link" :aria-pressed="paper === 'a3'" @click="paper = 'a3'">A3</button></span
      >
      <span v-if="answer.sheets.length > 1"
        >Sheet
        <button
          v-for="(_, i) in answer.sheets"
          :key="i"
          type="button"
          class="link"
          :aria-pressed="i === number"
          @click="number = i"
        >
          {{ i + 1 }}
        </button></span
      >
      <span
        ><button type="button" class="link" aria-label="Zoom in" @click="scale(1.4)">+</button>
        <button type="button" class="link" aria-label="Zoom out" @click="scale(1 / 1.4)">−</button>
        <button type="button" class="link" @click="whole">Whole sheet</button></span
      >
      <span class="out"
        ><a class="link" :href="file('pdf')" download>PDF</a> <a class="link" :href="file('svg')" download>SVG</a>
        <a class="link" :href="file('dxf')" download>DXF</a></span
      >
    </p>
    <svg
      class="sheet"
      :viewBox="box"
      :style="{ aspectRatio: `${sheet.width} / ${sheet.height}` }"
      role="img"
      tabindex="0"
      :aria-label="`${sheet.title}. Plus and minus zoom, arrows move.`"
      @wheel="wheel"
      @pointerdown="press"
      @pointermove="drag"
      @pointerup="held = null"
      @pointercancel="held = null"
      @keydown="keys"
    >
      <template v-for="(mark, i) in sheet.marks" :key="i">
        <path
          v-if="mark.kind === 'line'"
          :d="path(mark)"
          :stroke="TONES[mark.tone]"
          :stroke-width="mark.weight"
          :fill="mark.is_filled ? TONES[mark.tone] : 'none'"
          stroke-linejoin="round"
        />
        <circle
          v-else-if="mark.kind === 'circle'"
          :cx="mark.points[0]![0]"
          :cy="mark.points[0]![1]"
          :r="mark.radius"
          :stroke="TONES[mark.tone]"
          :stroke-width="mark.weight"
          :fill="mark.is_filled ? TONES[mark.tone] : 'none'"
        />
        <text
          v-else
          :x="mark.points[0]![0]"
          :y="mark.points[0]![1]"
          :font-size="mark.size"
          :font-weight="mark.is_bold ? 600 : 400"
          :text-anchor="mark.anchor"
          :style="{ fill: TONES[mark.tone] }"
        >
          {{ mark.text }}
        </text>
      </template>
    </svg>
    <p class="soft caption">
      Symbols after IEC 60617. Identical inverters and trackers stand in one row with their number.
    </p>
  </section>
  <p v-else-if="fault" class="bad">{{ fault }}</p>
  <p v-else class="soft empty">The diagram is drawn once the scheme can be simulated.</p>
</template>
<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 20px;
  font-size: 12.5px;
  margin-bottom: 8px;
}
.tools > span {
  display: inline-flex;
  gap: 8px;
}
.out {
  margin-left: auto;
}
.out a {
  text-decoration: none;
}
.sheet {
  display: block;
  width: 100%;
  background: var(--sheet);
  border: 1px solid var(--rule);
  cursor: grab;
  touch-action: none;
}
.sheet:active {
  cursor: grabbing;
}
</style>
