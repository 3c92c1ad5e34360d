<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { pathThrough, scale } from '@/charts/picture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { plain } from '@/theme/format'
import { axisStep, axisText } from '@/charts/dayShape'

/** Powers of the year in falling order: of the demand, and of what the grid still gives. */
const props = defineProps<{ demand: number[]; imported: number[]; hours: number }>()
const [HEIGHT, LEFT, BASE] = [134, 52, 112]
const width = useDrawnWidth(useTemplateRef('chart'), 340, 200)
const top = computed(() => Math.max(...props.demand, ...props.imported, 1e-6) * 1.05)
const step = computed(() => axisStep(top.value, 3))
const x = computed(() => scale([0, 1], [LEFT, width.value - 20]))
const y = computed(() => scale([0, top.value], [BASE, 10]))
const path = (values: number[]) => pathThrough(values.map((v, i) => [x.value(i / (values.length - 1)), y.value(v)]))
</script>
<template>
  <figure>
    <figcaption>Duration curve</figcaption>
    <svg
      ref="chart"
      :viewBox="`0 0 ${width} ${HEIGHT}`"
      width="100%"
      :height="HEIGHT"
      role="img"
      :aria-label="`Duration curve: highest ${plain(demand[0]!)} kW, median ${plain(demand[Math.floor(demand.length / 2)]!)} kW`"
    >
      <g font-size="11">
        <template v-for="i in Math.floor(top / step)" :key="i">
          <line :x1="LEFT" :x2="x(1)" :y1="y(i * step)" :y2="y(i * step)" stroke="var(--rule)" />
          <text :x="LEFT - 5" :y="y(i * step) + 4" text-anchor="end" style="fill: var(--soft)">
            {{ axisText(i * step, step) }} kW
          </text>
        </template>
        <text
          v-for="s in [0, 0.25, 0.5, 0.75, 1]"
          :key="s"
          :x="x(s)"
          :y="BASE + 15"
          text-anchor="middle"
          style="fill: var(--soft)"
        >
          {{ Math.round(s * hours) }}{{ s === 1 ? ' h' : '' }}
        </text>
      </g>
      <path :d="`${path(demand)}L${x(1)} ${BASE}L${LEFT} ${BASE}Z`" fill="var(--current)" opacity="0.14" />
      <path :d="path(demand)" fill="none" stroke="var(--current)" stroke-width="1.6" />
      <path :d="path(imported)" fill="none" stroke="var(--loss)" stroke-width="1.4" />
      <text :x="x(1)" y="12" text-anchor="end" font-size="11.5" font-weight="600" style="fill: var(--current-text)">
        demand
      </text>
      <text :x="x(1)" y="27" text-anchor="end" font-size="11.5" font-weight="600" style="fill: var(--loss-text)">
        from the grid
      </text>
      <line :x1="LEFT" :x2="x(1)" :y1="BASE" :y2="BASE" stroke="var(--rule-strong)" />
    </svg>
  </figure>
</template>
<style scoped>
figure {
  margin: 0;
}
figcaption {
  font: 600 13px var(--serif);
  margin-bottom: 2px;
}
</style>
