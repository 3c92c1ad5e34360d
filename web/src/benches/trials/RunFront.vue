<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { api, type TrialAnswer } from '@/api/client'
import { axisLines, pathThrough, scale } from '@/charts/picture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useAnswer } from '@/stores/useAnswer'
import { number } from '@/theme/format'
import { figureValue, figureWords, unitOf } from './runText'
import { useRuns } from './useRuns'

/** Two figures of all runs, and the front: those that no other is better than in both. */
const props = defineProps<{ set: TrialAnswer }>()
const { columns, aim, stamp, hovered, selected, of, go, known } = useRuns()
const [HEIGHT, TOP, LEFT] = [310, 12, 68]
const BASE = HEIGHT - 42
const width = useDrawnWidth(useTemplateRef('chart'), 640, 300)
const also = computed(() => (props.set.study?.also as { figure: string }[] | undefined)?.[0]?.figure ?? '')
const y = computed(() => (known(of('up')) ? of('up') : (aim.value?.figure ?? 'energy')))
const varies = (key: string) => columns.value.some((one) => one.key === key && one.varies)
const x = computed(() => {
  if (known(of('across')) && of('across') !== y.value) return of('across')
  const wanted = [also.value, 'purchase', 'self_sufficiency', 'energy', ...columns.value.map((one) => one.key)]
  return (
    wanted.find((key) => varies(key) && key !== y.value) ?? wanted.find((key) => known(key) && key !== y.value) ?? ''
  )
})
const { answer, fault } = useAnswer(
  () =>
    stamp.value && x.value && y.value
      ? `${props.set.id}-${x.value}-${y.value} ${stamp.value} ${JSON.stringify([props.set.study?.limits, props.set.study?.aim, props.set.study?.also])}`
      : null,
  (signal) => api.trialFront(props.set.id, { x: x.value, y: y.value }, signal),
)
const [across, up] = [x, y].map((key) =>
  computed(() => columns.value.find((one) => one.key === key.value) ?? null),
) as [
  ReturnType<typeof computed<(typeof columns.value)[number] | null>>,
  ReturnType<typeof computed<(typeof columns.value)[number] | null>>,
]
const points = computed(() => answer.value?.points ?? [])
const bounds = (values: number[]): [number, number] => {
  const [low, high] = [Math.min(...values), Math.max(...values)]
  const room = (high - low || Math.abs(high) || 1) * 0.05
  return [low - room, high + room]
}
const xBounds = computed(() => bounds(points.value.map((p) => p.x)))
const yBounds = computed(() => bounds(points.value.map((p) => p.y)))
const px = computed(() => scale(xBounds.value, [LEFT, width.value - 12]))
const py = computed(() => scale(yBounds.value, [BASE, TOP]))
const front = computed(() => points.value.filter((p) => p.is_front).toSorted((a, b) => a.x - b.x || a.y - b.y))
const path = computed(() => pathThrough(front.value.map((p) => [px.value(p.x), py.value(p.y)])))
const near = computed(() => points.value.find((p) => p.run === (hovered.value ?? selected.value)) ?? null)
function under(event: PointerEvent | MouseEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const by = width.value / box.width
  const [mx, my] = [(event.clientX - box.left) * by, (event.clientY - box.top) * by]
  let [found, least]: [number | null, number] = [null, 26 ** 2]
  for (const p of points.value) {
    const d = (px.value(p.x) - mx) ** 2 + (py.value(p.y) - my) ** 2
    if (d < least) [found, least] = [p.run, d]
  }
  return found
}
/** The keyboard walks along the front. */
function keys(event: KeyboardEvent) {
  const by = { ArrowRight: 1, ArrowLeft: -1, ArrowUp: 1, ArrowDown: -1 }[event.key]
  if (by !== undefined && front.value.length) {
    event.preventDefault()
    const now = front.value.findIndex((p) => p.run === hovered.value)
    hovered.value = front.value[Math.max(0, Math.min(front.value.length - 1, now < 0 ? 0 : now + by))]!.run
  } else if (event.key === 'Enter' && hovered.value !== null) {
    event.preventDefault()
    selected.value = hovered.value
  }
}
const choose = (name: 'across' | 'up', event: Event) => go({ [name]: (event.target as HTMLSelectElement).value })
</script>
<template>
  <div class="front">
    <p class="serif said">
      <select class="blank" :value="y" aria-label="Up" @change="choose('up', $event)">
        <option v-for="one in columns" :key="one.key" :value="one.key">{{ one.title }}</option>
      </select>
      against
      <select class="blank" :value="x" aria-label="Across" @change="choose('across', $event)">
        <option v-for="one in columns" :key="one.key" :value="one.key">{{ one.title }}</option></select
      >.
      <template v-if="answer"
        >{{ number(answer.front) }} of {{ number(answer.total) }} runs are on the front: no other run is better in
        both.</template
      >
    </p>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div ref="chart">
      <svg
        v-if="across && up && points.length"
        class="drawing"
        :viewBox="`0 0 ${width} ${HEIGHT}`"
        :height="HEIGHT"
        width="100%"
        tabindex="0"
        role="img"
        :aria-label="`${up.title} against ${across.title}; arrow keys walk along the front, Enter selects`"
        @pointermove="hovered = under($event)"
        @pointerleave="hovered = null"
        @click="selected = under($event) ?? selected"
        @keydown="keys"
      >
        <g style="stroke: var(--rule)">
          <line
            v-for="v in axisLines(...yBounds, 5)"
            :key="`y${v}`"
            :x1="LEFT"
            :x2="width - 12"
            :y1="py(v)"
            :y2="py(v)"
          />
          <line v-for="v in axisLines(...xBounds, 7)" :key="`x${v}`" :x1="px(v)" :x2="px(v)" :y1="TOP" :y2="BASE" />
        </g>
        <g font-size="11" style="fill: var(--soft)">
          <text v-for="v in axisLines(...yBounds, 5)" :key="`yt${v}`" :x="LEFT - 6" :y="py(v) + 4" text-anchor="end">
            {{ figureValue(v, up) }}
          </text>
          <text v-for="v in axisLines(...xBounds, 7)" :key="`xt${v}`" :x="px(v)" :y="BASE + 15" text-anchor="middle">
            {{ figureValue(v, across) }}
          </text>
          <text :x="width - 12" :y="HEIGHT - 8" text-anchor="end">
            {{ across.title }}{{ unitOf(across) ? ` [${unitOf(across)}]` : '' }} →
          </text>
          <text :x="4" :y="HEIGHT - 8">↑ {{ up.title }}{{ unitOf(up) ? ` [${unitOf(up)}]` : '' }}</text>
        </g>
        <g>
          <circle
            v-for="p in points"
            :key="p.run"
            :cx="px(p.x).toFixed(1)"
            :cy="py(p.y).toFixed(1)"
            :r="p.is_front ? 4 : 2.6"
            :class="{ kept: p.is_kept, on: p.is_front }"
          />
        </g>
        <path :d="path" class="on-front" />
        <g v-if="near">
          <circle :cx="px(near.x)" :cy="py(near.y)" r="7" fill="none" stroke="#b4472e" stroke-width="2.5" />
          <text
            :x="Math.min(px(near.x) + 11, width - 190)"
            :y="Math.max(py(near.y) - 9, 22)"
            font-size="11.5"
            class="tag"
          >
            {{ figureWords(near.y, up) }}, {{ figureWords(near.x, across) }}
          </text>
        </g>
      </svg>
    </div>
    <p class="legend soft">
      ● on the front, <span class="dot kept"></span> keeps every limit, <span class="dot"></span> breaks one
    </p>
  </div>
</template>
<style scoped>
.said {
  font-size: 14.5px;
}
circle {
  fill: none;
  stroke: var(--haze);
}
circle.kept {
  fill: var(--current);
  stroke: none;
  fill-opacity: 0.45;
}
circle.on {
  fill: var(--yield);
  fill-opacity: 1;
}
.on-front {
  fill: none;
  stroke: var(--yield);
  stroke-width: 1.5;
  pointer-events: none;
}
.tag {
  fill: var(--ink);
  paint-order: stroke;
  stroke: var(--sheet);
  stroke-width: 4px;
}
.legend {
  font-size: 12px;
}
.dot {
  display: inline-block;
  width: 8px;
  height: 8px;
  border-radius: 4px;
  border: 1px solid var(--haze);
}
.dot.kept {
  border: 0;
  background: var(--current);
  opacity: 0.55;
}
svg {
  cursor: crosshair;
}
</style>
