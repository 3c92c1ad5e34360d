<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useTheme } from '@/theme/useTheme'
import { drawTideline, HEIGHT, type TidelinePicture } from './drawTideline'
import { useMarks } from './useMarks'
import { useMoment } from './useMoment'

/** The strip itself: a click picks the moment, a drag the range, keys step hours, days and months. */
const props = defineProps<{
  year: Pick<TidelinePicture, 'values' | 'daylight' | 'sunTimes' | 'bounds' | 'always'>
  words: string
}>()
const emit = defineEmits<{ open: [] }>()
const { dark } = useTheme()
const moment = useMoment()
const { marks } = useMarks()
const canvas = ref<HTMLCanvasElement>()
const width = ref(900)
let drag: { from: number; moved: boolean } | null = null

function draw() {
  if (!canvas.value) return
  drawTideline(canvas.value, {
    ...props.year,
    width: width.value,
    days: moment.days.value,
    perDay: moment.perDay.value,
    interval: moment.interval.value,
    range: moment.range.value,
    marks: marks.value?.runs ?? [],
  })
}
watch([() => props.year, width, dark, moment.interval, moment.range, moment.days, marks], draw)

function place(event: PointerEvent): number {
  const box = canvas.value!.getBoundingClientRect()
  const cell = (share: number, cells: number) => Math.max(0, Math.min(cells - 1, Math.floor(share * cells)))
  const day = cell((event.clientX - box.left) / box.width, moment.days.value)
  return day * moment.perDay.value + cell(1 - (event.clientY - box.top) / box.height, moment.perDay.value)
}
function down(event: PointerEvent) {
  ;(event.target as HTMLElement).setPointerCapture(event.pointerId)
  drag = { from: place(event), moved: false }
}
function move(event: PointerEvent) {
  if (!drag) return
  const at = place(event)
  const days = [at, drag.from].map((interval) => Math.floor(interval / moment.perDay.value))
  if (Math.abs(days[0]! - days[1]!) >= 2) drag.moved = true
  if (drag.moved) moment.pickRange(drag.from, at)
}
function up(event: PointerEvent) {
  if (drag && !drag.moved) moment.pick(place(event))
  drag = null
}
function keys(event: KeyboardEvent) {
  const per = moment.perDay.value
  const by = { ArrowLeft: -per, ArrowRight: per, ArrowUp: 1, ArrowDown: -1, PageUp: 30 * per, PageDown: -30 * per }[
    event.key
  ]
  if (event.key === 'Escape' && moment.range.value) {
    moment.clearRange()
    event.stopPropagation()
  } else if (event.key === 'Enter') emit('open')
  else if (event.key === 'Home') moment.pick(0)
  else if (event.key === 'End') moment.pick(moment.intervals.value - 1)
  else if (by === undefined) return
  else if (event.shiftKey) {
    const range = moment.range.value ?? { from: moment.interval.value, to: moment.interval.value }
    moment.pickRange(range.from, Math.max(range.from, range.to + by))
  } else moment.pick(moment.interval.value + by)
  event.preventDefault()
}
let observer: ResizeObserver | null = null
onMounted(() => {
  observer = new ResizeObserver((entries) => {
    width.value = Math.max(300, Math.floor(entries[0]!.contentRect.width))
  })
  observer.observe(canvas.value!.parentElement!)
  draw()
})
onBeforeUnmount(() => observer?.disconnect())
</script>
<template>
  <canvas
    ref="canvas"
    :style="{ width: '100%', height: HEIGHT + 'px' }"
    tabindex="0"
    role="slider"
    aria-label="Moment of the year"
    aria-valuemin="0"
    :aria-valuemax="moment.intervals.value - 1"
    :aria-valuenow="moment.interval.value"
    :aria-valuetext="`${moment.words(moment.interval.value)}, ${words}`"
    @pointerdown="down"
    @pointermove="move"
    @pointerup="up"
    @keydown="keys"
  />
</template>
<style scoped>
canvas {
  display: block;
  cursor: crosshair;
  touch-action: none;
}
canvas:focus-visible {
  outline-offset: -2px;
}
</style>
