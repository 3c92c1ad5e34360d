<script setup lang="ts">
import { ref, useTemplateRef } from 'vue'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { hoursText } from '@/charts/dayShape'

/** Hours as bars on a line of the day: drag an end, a whole bar, or over empty hours for another bar. */
type Range = [number, number]
const props = withDefaults(defineProps<{ ranges: Range[]; label: string; tone: string; opacity?: number }>(), {
  opacity: 0.8,
})
const emit = defineEmits<{ change: [hours: string] }>()
const [STEP, NEAR, DAY] = [15, 30, 1440] // minutes
const width = useDrawnWidth(useTemplateRef('line'), 300)
const dragged = ref<Range[] | null>(null)

const minuteOf = (event: PointerEvent, target: Element) => {
  const box = target.getBoundingClientRect()
  return Math.min(DAY, Math.max(0, Math.round((((event.clientX - box.left) / box.width) * DAY) / STEP) * STEP))
}
function grab(event: PointerEvent) {
  const target = event.currentTarget as SVGElement
  target.setPointerCapture(event.pointerId)
  const start = minuteOf(event, target)
  const before = props.ranges.map((r) => [...r] as Range)
  const ends = before.flatMap(([a, b], i) => [
    { i, end: 0, off: Math.abs(a - start) },
    { i, end: 1, off: Math.abs(b - start) },
  ])
  const closest = ends.toSorted((a, b) => a.off - b.off)[0]
  const inside = before.findIndex(([a, b]) => start > a && start < b)
  function move(next: PointerEvent) {
    const now = minuteOf(next, target)
    const ranges = before.map((r) => [...r] as Range)
    if (closest && closest.off <= NEAR) ranges[closest.i]![closest.end as 0 | 1] = now
    else if (inside >= 0) {
      const [a, b] = before[inside]!
      const by = Math.min(DAY - b, Math.max(-a, now - start))
      ranges[inside] = [a + by, b + by]
    } else ranges.push([Math.min(start, now), Math.max(start, now)])
    dragged.value = merged(ranges)
  }
  function drop() {
    target.removeEventListener('pointermove', move)
    target.removeEventListener('pointerup', drop)
    const found = dragged.value
    dragged.value = null
    if (found?.length) emit('change', hoursText(found))
  }
  target.addEventListener('pointermove', move)
  target.addEventListener('pointerup', drop)
}
/** Bars that touch are one; one without length is gone. */
function merged(ranges: Range[]): Range[] {
  const found: Range[] = []
  for (const [a, b] of ranges
    .map(([p, q]) => [Math.min(p, q), Math.max(p, q)] as Range)
    .filter(([p, q]) => q > p)
    .toSorted((p, q) => p[0] - q[0])) {
    const last = found.at(-1)
    if (last && a <= last[1]) last[1] = Math.max(last[1], b)
    else found.push([a, b])
  }
  return found
}
</script>
<template>
  <svg
    ref="line"
    width="100%"
    height="20"
    role="img"
    :aria-label="`${label}: ${hoursText(dragged ?? ranges)}`"
    @pointerdown="grab"
  >
    <line x1="0" x2="100%" y1="10" y2="10" stroke="var(--rule)" />
    <rect
      v-for="([a, b], i) in dragged ?? ranges"
      :key="i"
      :x="(a / DAY) * width"
      y="4"
      :width="Math.max(2, ((b - a) / DAY) * width)"
      height="12"
      rx="2"
      :fill="tone"
      :opacity="opacity"
    />
  </svg>
</template>
<style scoped>
svg {
  display: block;
  cursor: ew-resize;
  touch-action: none;
}
</style>
