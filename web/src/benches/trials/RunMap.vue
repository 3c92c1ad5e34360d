<script setup lang="ts">
import { contours as contoursOf } from 'd3-contour'
import { computed, ref, useId, useTemplateRef } from 'vue'
import { api, type TrialCell, type TrialAnswer } from '@/api/client'
import { scale } from '@/charts/picture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useAnswer } from '@/stores/useAnswer'
import { rampCss, RAMP_GRADIENT } from '@/theme/ramp'
import HeldValues from './HeldValues.vue'
import { figureValue, figureWords, shortTitle, unitOf, useLooseWords } from './runText'
import { useRuns } from './useRuns'

/** A figure over two loose values, as cells and lines of equal value; where no run keeps the limits it is hatched. */
const props = defineProps<{ set: TrialAnswer }>()
const { figure, column, columns, loose, stamp, hovered, selected, of, go } = useRuns()
const { words } = useLooseWords()
const hatch = useId()
const [HEIGHT, TOP, LEFT] = [290, 8, 86]
const BASE = HEIGHT - 40
const width = useDrawnWidth(useTemplateRef('chart'), 640, 300)

const keyOf = (name: string, k: number) =>
  loose.value.some((one) => one.key === of(name)) ? of(name) : (loose.value[k]?.key ?? '')
const x = computed(() => keyOf('x', 0))
const y = computed(() => {
  const asked = keyOf('y', 1)
  return asked === x.value ? (loose.value.find((one) => one.key !== x.value)?.key ?? '') : asked
})
const by = computed<'best' | 'mean'>(() => (of('by') === 'mean' ? 'mean' : 'best'))
const held = ref<string[]>([])
const { answer, fault } = useAnswer(
  () =>
    stamp.value && x.value && y.value && figure.value
      ? `${props.set.id}-${x.value}-${y.value}-${figure.value} ${stamp.value} ${by.value} ${held.value.join()} ${JSON.stringify(props.set.study?.limits)}`
      : null,
  (signal) =>
    api.trialMap(
      props.set.id,
      { x: x.value, y: y.value, figure: figure.value, of: by.value, hold: held.value },
      signal,
    ),
)
const line = (key: string) => loose.value.find((one) => one.key === key)!
const cells = computed(() => answer.value?.cells ?? [])
const distinct = (name: 'x' | 'y') => {
  const values = [...new Set(cells.value.map((cell) => cell[name]))]
  const key = name === 'x' ? x.value : y.value
  return line(key)?.is_words ? values : values.toSorted((a, b) => Number(a) - Number(b))
}
const xs = computed(() => distinct('x'))
const ys = computed(() => distinct('y'))
const cellWidth = computed(() => (width.value - LEFT - 8) / Math.max(1, xs.value.length))
const cellHeight = computed(() => (BASE - TOP) / Math.max(1, ys.value.length))
const values = computed(() => cells.value.flatMap((cell) => (cell.value === null ? [] : [cell.value])))
const low = computed(() => Math.min(...values.value))
const high = computed(() => Math.max(...values.value))
const isMore = computed(() => column.value?.better !== 'less')
/** Light is good: the ramp runs towards what is better of the figure. */
const tone = (value: number) => {
  const share = high.value > low.value ? (value - low.value) / (high.value - low.value) : 1
  return rampCss(isMore.value ? share : 1 - share)
}
const places = computed(() =>
  cells.value.map((cell) => ({
    cell,
    key: `${String(cell.x)} ${String(cell.y)}`,
    left: LEFT + xs.value.indexOf(cell.x) * cellWidth.value,
    top: BASE - (ys.value.indexOf(cell.y) + 1) * cellHeight.value,
  })),
)
const best = computed(() => {
  const kept = cells.value.filter((cell) => cell.kept && cell.value !== null)
  return kept.reduce<TrialCell | null>(
    (found, cell) =>
      !found || (isMore.value ? cell.value! > found.value! : cell.value! < found.value!) ? cell : found,
    null,
  )
})
/** Whether two points lie beyond the middles of the outer cells of the same side. */
const isOnEdge = (one: number, other: number, count: number) =>
  Number((one < 0.5 && other < 0.5) || (one > count - 0.5 && other > count - 0.5))
/** Lines of equal value, where both values run in even steps and every cell has one. */
const lines = computed(() => {
  const [nx, ny] = [xs.value.length, ys.value.length]
  if (nx < 4 || ny < 4 || line(x.value)?.is_words || line(y.value)?.is_words || high.value <= low.value) return []
  const at = new Map(cells.value.map((cell) => [`${String(cell.x)} ${String(cell.y)}`, cell.value]))
  const grid = ys.value.flatMap((b) => xs.value.map((a) => at.get(`${String(a)} ${String(b)}`) ?? NaN))
  if (grid.some((value) => Number.isNaN(value))) return []
  const levels = [1, 2, 3, 4, 5, 6, 7].map((k) => low.value + ((high.value - low.value) * k) / 8)
  return contoursOf()
    .size([nx, ny])
    .thresholds(levels)(grid)
    .map((one) => ({
      value: one.value,
      path: one.coordinates
        .flatMap((polygon) => polygon)
        // Along the edge of the map a ring is closed; there is no line there.
        .map((ring) =>
          ring
            .map(([a, b], i) => {
              const before = ring[i - 1]
              const isEdge = before !== undefined && isOnEdge(a!, before[0]!, nx) + isOnEdge(b!, before[1]!, ny) > 0
              return `${i && !isEdge ? 'L' : 'M'}${(LEFT + a! * cellWidth.value).toFixed(1)} ${(BASE - b! * cellHeight.value).toFixed(1)}`
            })
            .join(''),
        )
        .join(''),
    }))
})
const every = (list: unknown[], most: number) => Math.max(1, Math.ceil(list.length / most))
const legend = computed(() => scale([0, 1], isMore.value ? [low.value, high.value] : [high.value, low.value]))
const tagged = computed(
  () => cells.value.find((cell) => cell.run !== null && cell.run === (hovered.value ?? selected.value)) ?? null,
)
const at = ref<{ i: number; j: number } | null>(null)
const MOVES: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
}
function keys(event: KeyboardEvent) {
  const move = MOVES[event.key]
  if (move) {
    event.preventDefault()
    const here = at.value ?? { i: 0, j: 0 }
    const i = Math.max(0, Math.min(xs.value.length - 1, here.i + move[0]))
    const j = Math.max(0, Math.min(ys.value.length - 1, here.j + move[1]))
    at.value = { i, j }
    hovered.value = cells.value.find((cell) => cell.x === xs.value[i] && cell.y === ys.value[j])?.run ?? null
  } else if (event.key === 'Enter' && hovered.value !== null) {
    event.preventDefault()
    selected.value = hovered.value
  }
}
const chooseX = (event: Event) =>
  go({
    x: (event.target as HTMLSelectElement).value,
    y: y.value === (event.target as HTMLSelectElement).value ? x.value : y.value,
  })
const chooseY = (event: Event) =>
  go({
    y: (event.target as HTMLSelectElement).value,
    x: x.value === (event.target as HTMLSelectElement).value ? y.value : x.value,
  })
</script>
<template>
  <p v-if="loose.length < 2" class="empty soft">A map has two loose values. Let another value of the Brief loose.</p>
  <div v-else class="map">
    <p class="serif said">
      <select
        class="blank"
        :value="by"
        aria-label="Of the runs of a cell"
        @change="go({ by: ($event.target as HTMLSelectElement).value })"
      >
        <option value="best">The best</option>
        <option value="mean">The mean</option>
      </select>
      <select
        class="blank"
        :value="figure"
        aria-label="Figure"
        @change="go({ figure: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="one in columns" :key="one.key" :value="one.key">{{ one.title }}</option>
      </select>
      over
      <select class="blank" :value="x" aria-label="Across" @change="chooseX">
        <option v-for="one in loose" :key="one.key" :value="one.key">{{ shortTitle(one) }}</option>
      </select>
      across and
      <select class="blank" :value="y" aria-label="Up" @change="chooseY">
        <option v-for="one in loose" :key="one.key" :value="one.key">{{ shortTitle(one) }}</option>
      </select>
      up<HeldValues :loose="loose" :drawn="[x, y]" @change="held = $event" />.
    </p>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div ref="chart">
      <svg
        v-if="column && cells.length"
        class="drawing"
        :viewBox="`0 0 ${width} ${HEIGHT}`"
        :height="HEIGHT"
        width="100%"
        tabindex="0"
        role="img"
        :aria-label="`${column.title} over ${shortTitle(line(x))} and ${shortTitle(line(y))}; arrow keys walk, Enter selects`"
        @keydown="keys"
        @pointerleave="hovered = null"
      >
        <defs>
          <pattern :id="hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width="7" height="7" fill="#fffdf8" fill-opacity="0.35" />
            <line x1="0" y1="0" x2="0" y2="7" stroke="#1b2a3a" stroke-width="1.4" stroke-opacity="0.6" />
          </pattern>
        </defs>
        <g
          v-for="place in places"
          :key="place.key"
          @pointerenter="hovered = place.cell.run"
          @click="selected = place.cell.run"
        >
          <rect
            v-if="place.cell.value !== null"
            :x="place.left"
            :y="place.top"
            :width="cellWidth + 0.4"
            :height="cellHeight + 0.4"
            :fill="tone(place.cell.value)"
          />
          <rect
            v-else
            :x="place.left"
            :y="place.top"
            :width="cellWidth"
            :height="cellHeight"
            style="fill: var(--wash)"
          />
          <rect
            v-if="!place.cell.kept"
            :x="place.left"
            :y="place.top"
            :width="cellWidth"
            :height="cellHeight"
            :fill="`url(#${hatch})`"
          />
        </g>
        <g fill="none" stroke="#fffdf8" stroke-opacity="0.75" pointer-events="none">
          <path v-for="one in lines" :key="one.value" :d="one.path" />
        </g>
        <rect
          v-if="best"
          :x="LEFT + xs.indexOf(best.x) * cellWidth + 1"
          :y="BASE - (ys.indexOf(best.y) + 1) * cellHeight + 1"
          :width="cellWidth - 2"
          :height="cellHeight - 2"
          fill="none"
          stroke="#1b2a3a"
          stroke-width="2"
          pointer-events="none"
        />
        <rect
          v-if="tagged"
          :x="LEFT + xs.indexOf(tagged.x) * cellWidth"
          :y="BASE - (ys.indexOf(tagged.y) + 1) * cellHeight"
          :width="cellWidth"
          :height="cellHeight"
          fill="none"
          stroke="#b4472e"
          stroke-width="2.5"
          pointer-events="none"
        />
        <g font-size="11" style="fill: var(--soft)">
          <template v-for="(value, i) in xs" :key="`x${i}`">
            <text
              v-if="i % every(xs, width / 70) === 0"
              :x="LEFT + (i + 0.5) * cellWidth"
              :y="BASE + 15"
              text-anchor="middle"
            >
              {{ words(value, line(x)).slice(0, 18) }}
            </text>
          </template>
          <template v-for="(value, j) in ys" :key="`y${j}`">
            <text v-if="j % every(ys, 14) === 0" :x="LEFT - 6" :y="BASE - (j + 0.5) * cellHeight + 4" text-anchor="end">
              {{ words(value, line(y)).slice(0, 14) }}
            </text>
          </template>
          <text :x="width - 8" :y="HEIGHT - 6" text-anchor="end">{{ line(x).title }} →</text>
          <text :x="2" :y="HEIGHT - 6">↑ {{ line(y).title }}</text>
        </g>
      </svg>
    </div>
    <p v-if="column && values.length" class="legend soft">
      <span>{{ figureWords(legend(0), column) }}</span><span class="ramp" :style="{ background: RAMP_GRADIENT }"></span
      ><span>{{ figureValue(legend(1), column) }} {{ unitOf(column) }}</span>
      <span>□ the best; hatched: a limit is broken</span>
    </p>
  </div>
</template>
<style scoped>
.map {
  display: grid;
  gap: 4px;
}
.said {
  font-size: 14.5px;
}
.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 8px;
  align-items: center;
  font-size: 12px;
}
.legend span:last-child {
  margin-left: auto;
}
.ramp {
  width: 150px;
  height: 9px;
  border-radius: 2px;
}
svg {
  cursor: crosshair;
}
</style>
