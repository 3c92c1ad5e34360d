<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import type { OffGridAnswer } from '@/api/client'
import { axisStep, axisText } from '@/charts/dayShape'
import { pathThrough, scale } from '@/charts/picture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { number, percent } from '@/theme/format'
import { rampCss } from '@/theme/ramp'

/** All sizes of array and battery by the energy that is missing; one is taken by a click, or by keys. */
const props = defineProps<{ answer: OffGridAnswer }>()
const emit = defineEmits<{ take: [array: number, energy: number] }>()
const [HEIGHT, TOP, BASE, LEFT] = [286, 10, 252, 46]
const width = useDrawnWidth(useTemplateRef('chart'), 340, 240)
const cellWidth = computed(() => (width.value - LEFT - 8) / Math.max(props.answer.arrays.length, 1))
const cellHeight = computed(() => (BASE - TOP) / Math.max(props.answer.batteries.length, 1))
const mostArray = computed(() => props.answer.arrays.at(-1) ?? 1)
const mostBattery = computed(() => props.answer.batteries.at(-1) ?? 1)
const x = computed(() => scale([0, mostArray.value], [LEFT, width.value - 8]))
const y = computed(() => scale([0, mostBattery.value], [BASE, TOP]))
/** From dark, where most is missing, to light, where nothing is; by powers of ten from all down to a thousandth. */
const tone = (share: number) => rampCss(1 - Math.min(1, Math.max(0, (Math.log10(Math.max(share, 1e-3)) + 3) / 3)))
const cells = computed(() =>
  props.answer.loss.flatMap((row, j) =>
    row.map((share, i) => ({
      key: `${i} ${j}`,
      x: LEFT + i * cellWidth.value,
      y: BASE - (j + 1) * cellHeight.value,
      share,
    })),
  ),
)
const contours = computed(() => {
  const a = props.answer
  return a.lines
    .map(({ level, batteries }) => {
      const points = batteries.flatMap((energy, i) =>
        energy === null ? [] : [{ x: x.value(a.arrays[i]!), y: y.value(energy) }],
      )
      return {
        level,
        points,
        path: pathThrough(points.map((p) => [p.x, p.y])),
      }
    })
    .filter((line) => line.points.length > 1)
})
/** Lines of equal cost, with the place of their figure: where they leave the map at the left or at the top. */
const costs = computed(() =>
  props.answer.cost_lines.map((line) => {
    const leaves = line.battery <= mostBattery.value ? 0 : line.array * (1 - mostBattery.value / line.battery)
    return { ...line, x: x.value(leaves), y: y.value(Math.min(line.battery, mostBattery.value)) }
  }),
)
const sheetArray = computed(() => props.answer.worksheet.find((line) => line.key === 'array')?.value ?? null)
const sheetBattery = computed(() => props.answer.worksheet.find((line) => line.key === 'battery')?.value ?? null)
/** The size that is pointed at, or walked to with the arrow keys. */
const at = ref<{ i: number; j: number; energy: number; share: number; array: number } | null>(null)
function cellAt(i: number, j: number) {
  const a = props.answer
  const share = a.loss[j]?.[i]
  return share === undefined ? null : { i, j, energy: a.batteries[j]!, array: a.arrays[i]!, share }
}
function under(event: PointerEvent | MouseEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const i = Math.floor((event.clientX - box.left - LEFT) / cellWidth.value)
  return cellAt(i, Math.floor((BASE - (event.clientY - box.top)) / cellHeight.value))
}
const nearest = (values: number[], value: number) =>
  values.reduce((best, v, i) => (Math.abs(v - value) < Math.abs(values[best]! - value) ? i : best), 0)
const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowDown: [0, -1],
  ArrowUp: [0, 1],
}
function walk(event: KeyboardEvent) {
  const a = props.answer
  const step = STEPS[event.key]
  if (step) {
    event.preventDefault()
    const here = at.value ?? cellAt(nearest(a.arrays, a.array), nearest(a.batteries, a.battery))!
    at.value = cellAt(here.i + step[0], here.j + step[1]) ?? here
  } else if (event.key === 'Enter' && at.value) {
    event.preventDefault()
    emit('take', at.value.array, at.value.energy)
  } else if (event.key === 'Escape') at.value = null
}
function click(event: MouseEvent) {
  const found = under(event)
  if (found) emit('take', found.array, found.energy)
}
</script>
<template>
  <div>
    <div
      class="walked"
      tabindex="0"
      role="group"
      aria-label="Sizes on the map: arrow keys walk over them, Enter takes one"
      @keydown="walk"
      @blur="at = null"
    >
      <svg
        ref="chart"
        :viewBox="`0 0 ${width} ${HEIGHT}`"
        width="100%"
        :height="HEIGHT"
        role="img"
        :aria-label="`Map of sizes: ${percent(answer.proof.loss_of_load, 2)} is missing at ${number(answer.array, 1)} kW and ${number(answer.battery, 1)} kWh`"
        @pointermove="at = under($event)"
        @pointerleave="at = null"
        @click="click"
      >
        <rect
          v-for="cell in cells"
          :key="cell.key"
          :x="cell.x"
          :y="cell.y"
          :width="cellWidth + 0.5"
          :height="cellHeight + 0.5"
          :fill="tone(cell.share)"
        />
        <clipPath id="size-map">
          <rect :x="LEFT" :y="TOP" :width="width - LEFT - 8" :height="BASE - TOP" />
        </clipPath>
        <g v-for="line in costs" :key="line.cost">
          <line
            :x1="x(0)"
            :y1="y(line.battery)"
            :x2="x(line.array)"
            :y2="y(0)"
            clip-path="url(#size-map)"
            stroke="#fffdf8"
            stroke-dasharray="2 4"
            stroke-width="1.4"
          />
          <text :x="line.x + 4" :y="line.y + 13" class="cost" font-size="10.5">{{ number(line.cost) }}</text>
        </g>
        <template v-for="line in contours" :key="line.level">
          <path :d="line.path" fill="none" stroke="#1b2a3a" :stroke-width="line.level === 0.01 ? 2 : 1" />
          <text
            :x="line.points[Math.floor(line.points.length / 3)]!.x + 3"
            :y="line.points[Math.floor(line.points.length / 3)]!.y - 4"
            font-size="11"
            font-weight="600"
            style="fill: #1b2a3a"
          >
            {{ number(line.level * 100, line.level < 0.01 ? 1 : 0) }} %
          </text>
        </template>
        <circle
          v-if="sheetArray !== null && sheetBattery !== null && sheetArray <= mostArray && sheetBattery <= mostBattery"
          :cx="x(sheetArray)"
          :cy="y(sheetBattery)"
          r="6"
          fill="none"
          stroke="#fffdf8"
          stroke-width="2.5"
        >
          <title>worksheet</title>
        </circle>
        <path
          v-if="answer.cheapest"
          :d="`M${x(answer.cheapest.array)} ${y(answer.cheapest.battery) - 8}l8 8l-8 8l-8 -8z`"
          fill="#3f7d58"
          stroke="#fffdf8"
          stroke-width="2"
        >
          <title>cheapest</title>
        </path>
        <rect
          v-if="at"
          :x="LEFT + at.i * cellWidth"
          :y="BASE - (at.j + 1) * cellHeight"
          :width="cellWidth"
          :height="cellHeight"
          fill="none"
          stroke="#fffdf8"
          stroke-width="2"
        />
        <circle :cx="x(answer.array)" :cy="y(answer.battery)" r="6" fill="#2f5d8c" stroke="#fffdf8" stroke-width="2">
          <title>yours</title>
        </circle>
        <g font-size="11" style="fill: var(--soft)">
          <text
            v-for="(v, i) in [1, 2, 3, 4].map((n) => n * axisStep(mostArray, 4)).filter((n) => n <= mostArray)"
            :key="i"
            :x="x(v)"
            :y="BASE + 15"
            text-anchor="middle"
          >
            {{ axisText(v, axisStep(mostArray, 4)) }}
          </text>
          <text
            v-for="(v, i) in [1, 2, 3, 4, 5].map((n) => n * axisStep(mostBattery, 4)).filter((n) => n <= mostBattery)"
            :key="`b${i}`"
            :x="LEFT - 5"
            :y="y(v) + 4"
            text-anchor="end"
          >
            {{ axisText(v, axisStep(mostBattery, 4)) }}
          </text>
          <text :x="width - 8" :y="BASE + 30" text-anchor="end">kW of array across, kWh of battery up</text>
        </g>
      </svg>
    </div>
    <p class="soft note" role="status">
      <template v-if="at"
        >{{ number(at.array, 1) }} kW, {{ number(at.energy, 1) }} kWh: <b>{{ percent(at.share, 2) }}</b> missing
      </template>
      <template v-else
        >● yours, ○ the worksheet<template v-if="answer.cheapest">, ◆ the cheapest</template
        ><template v-if="costs.length">; dashed: equal cost a year, in {{ answer.currency }}</template
        >. Click, or arrow keys and Enter, to take
        {{ answer.is_laid ? 'a battery: the modules have their places on the scene' : 'array and battery' }}.</template
      >
    </p>
  </div>
</template>
<style scoped>
.note {
  font-size: 12px;
}
.cost {
  fill: #fffdf8;
  paint-order: stroke;
  stroke: #1b2a3a99;
  stroke-width: 2.5px;
}
svg {
  cursor: crosshair;
}
</style>
