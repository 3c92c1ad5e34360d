<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, type TrialCell, type TrialAnswer } from '@/api/client'
import { axisLines, pathThrough, scale } from '@/charts/picture'
import { useAnswer } from '@/stores/useAnswer'
import HeldValues from './HeldValues.vue'
import { figureValue, shortTitle, unitOf, useLooseWords } from './runText'
import { useRuns } from './useRuns'

/** What each loose value does to a figure, the others held or taken together: small pictures on one scale. */
const props = defineProps<{ set: TrialAnswer }>()
const { figure, column, columns, loose, stamp, hovered, selected, of, go } = useRuns()
const { words } = useLooseWords()
const [W, H, LEFT, TOP, BASE] = [330, 190, 56, 10, 154]
const by = computed<'best' | 'mean'>(() => (of('by') === 'best' ? 'best' : 'mean'))
const held = ref<string[]>([])
const { answer, fault } = useAnswer(
  () =>
    stamp.value && figure.value
      ? `${props.set.id}-${figure.value} ${stamp.value} ${by.value} ${held.value.join()} ${JSON.stringify(props.set.study?.limits)}`
      : null,
  (signal) => api.trialEffects(props.set.id, { figure: figure.value, of: by.value, hold: held.value }, signal),
)
const effects = computed(() => answer.value?.effects ?? [])
const all = computed(() =>
  effects.value
    .flatMap((one) => one.cells.flatMap((cell) => [cell.low, cell.high, cell.value]))
    .filter((v) => v !== null),
)
const bounds = computed<[number, number]>(() => {
  const [low, high] = [Math.min(...all.value), Math.max(...all.value)]
  const room = (high - low || Math.abs(high) || 1) * 0.06
  return [low - room, high + room]
})
const y = computed(() => scale(bounds.value, [BASE, TOP]))
const line = (key: string) => loose.value.find((one) => one.key === key)!
const x = (cells: TrialCell[], k: number) => LEFT + ((k + 0.5) * (W - LEFT - 8)) / cells.length
const path = (cells: TrialCell[]) =>
  pathThrough(cells.map((cell, k) => [x(cells, k), cell.value === null ? 0 : y.value(cell.value)]))
const band = (cells: TrialCell[]) => {
  const there = cells.map((cell, k) => ({ cell, k })).filter(({ cell }) => cell.low !== null)
  const up = there.map(({ cell, k }) => `${x(cells, k).toFixed(1)} ${y.value(cell.high!).toFixed(1)}`)
  const back = there.toReversed().map(({ cell, k }) => `${x(cells, k).toFixed(1)} ${y.value(cell.low!).toFixed(1)}`)
  return up.length ? `M${[...up, ...back].join('L')}Z` : ''
}
const every = (cells: TrialCell[]) =>
  Math.max(
    1,
    Math.ceil(
      cells.length /
        (line(cells.length ? effects.value.find((one) => one.cells === cells)!.key : '')?.is_words ? 3 : 6),
    ),
  )
</script>
<template>
  <div class="effects">
    <p class="serif said">
      What each value does to
      <select
        class="blank"
        :value="figure"
        aria-label="Figure"
        @change="go({ figure: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="one in columns" :key="one.key" :value="one.key">{{ one.title }}</option></select
      >:
      <select
        class="blank"
        :value="by"
        aria-label="Of the runs of a value"
        @change="go({ by: ($event.target as HTMLSelectElement).value })"
      >
        <option value="mean">the mean of its runs</option>
        <option value="best">the best of its runs</option>
      </select>
      as a line, all of them as a band<HeldValues :loose="loose" :drawn="[]" @change="held = $event" />.
    </p>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div v-if="column" class="pictures">
      <figure v-for="one in effects" :key="one.key">
        <figcaption>
          <b>{{ shortTitle(line(one.key)) }}</b>
          <span class="soft">{{ line(one.key).title.split(',').slice(1).join(',') }}</span>
        </figcaption>
        <svg
          class="drawing"
          :viewBox="`0 0 ${W} ${H}`"
          role="img"
          :aria-label="`${column.title} over ${line(one.key).title}`"
        >
          <g style="stroke: var(--rule)">
            <line v-for="v in axisLines(...bounds, 4)" :key="v" :x1="LEFT" :x2="W - 8" :y1="y(v)" :y2="y(v)" />
          </g>
          <g font-size="11" style="fill: var(--soft)">
            <text v-for="v in axisLines(...bounds, 4)" :key="v" :x="LEFT - 6" :y="y(v) + 4" text-anchor="end">
              {{ figureValue(v, column) }}
            </text>
            <template v-for="(cell, k) in one.cells" :key="k">
              <text v-if="k % every(one.cells) === 0" :x="x(one.cells, k)" :y="BASE + 15" text-anchor="middle">
                {{ words(cell.x, line(one.key)).slice(0, 16) }}
              </text>
            </template>
          </g>
          <path :d="band(one.cells)" class="band" />
          <path :d="path(one.cells)" class="mean" />
          <circle
            v-for="(cell, k) in one.cells.filter((each) => each.value !== null)"
            :key="k"
            :cx="x(one.cells, one.cells.indexOf(cell))"
            :cy="y(cell.value!)"
            :r="cell.run !== null && cell.run === (hovered ?? selected) ? 6 : 3.4"
            :class="{ over: cell.run !== null && cell.run === (hovered ?? selected) }"
            @pointerenter="hovered = cell.run"
            @pointerleave="hovered = null"
            @click="selected = cell.run"
          >
            <title>
              {{ words(cell.x, line(one.key)) }}: {{ figureValue(cell.value, column) }} {{ unitOf(column) }},
              {{ cell.count }} runs
            </title>
          </circle>
        </svg>
      </figure>
    </div>
  </div>
</template>
<style scoped>
.said {
  font-size: 14.5px;
}
.pictures {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(240px, 1fr));
  gap: 10px 18px;
}
figure {
  margin: 0;
  max-width: 400px;
}
.band {
  fill: var(--current);
  fill-opacity: 0.13;
}
.mean {
  fill: none;
  stroke: var(--current);
  stroke-width: 1.8;
}
circle {
  fill: var(--current);
  cursor: pointer;
}
circle.over {
  fill: #b4472e;
}
</style>
