<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { scale } from '@/charts/picture'
import type { RunLine } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number } from '@/theme/format'

/** Purchase and the value of the loss, by section: the lowest bar is the economic section. */
const props = defineProps<{ run: RunLine; currency: string }>()
const store = useSchemeStore()
const width = useDrawnWidth(useTemplateRef('chart'), 640, 320)
const ROW = 20
const [LEFT, RIGHT] = [70, 190]
/** Far beyond the economic section nothing is to be learnt. */
const lines = computed(() => {
  const every = props.run.sections
  const least = Math.min(...every.map((s) => s.total))
  return every.filter((s) => s.total < 3.2 * least || s.section === props.run.section).slice(0, 8)
})
const most = computed(() => Math.max(...lines.value.map((s) => s.total), 1))
const x = computed(() => scale([0, most.value], [LEFT, width.value - RIGHT]))
const take = (section: number) => store.edit(patchAt(`${props.run.pointer}/section`, section))
const money = (value: number) => number(value, value < 100 ? 2 : 0)
</script>
<template>
  <figure v-if="lines.length">
    <figcaption>
      <b>Cost against loss</b>
      <span class="soft">
        of one run of {{ run.serves || 'the AC main cable' }}: purchase (light) and the worth of what is lost (dark) in
        {{ currency }}; click a section to set it</span
      >
    </figcaption>
    <svg ref="chart" :viewBox="`0 0 ${width} ${lines.length * ROW + 4}`" width="100%">
      <g
        v-for="(line, i) in lines"
        :key="line.section"
        :transform="`translate(0 ${i * ROW})`"
        class="section"
        role="button"
        tabindex="0"
        :aria-pressed="line.section === run.section"
        :aria-description="`loses ${number(line.annual_loss, 1)} kWh a year`"
        @click="take(line.section)"
        @keydown.enter="take(line.section)"
        @keydown.space.prevent="take(line.section)"
      >
        <rect
          x="0"
          y="1"
          :width="width"
          :height="ROW - 1"
          class="frame"
          :class="{ on: line.section === run.section }"
        />
        <text :x="LEFT - 8" :y="ROW - 6" text-anchor="end" :font-weight="line.section === run.section ? 700 : 400">
          {{ line.section }} mm²
        </text>
        <rect :x="LEFT" y="5" :width="x(line.purchase) - LEFT" :height="ROW - 9" class="buy" />
        <rect :x="x(line.purchase)" y="5" :width="x(line.total) - x(line.purchase)" :height="ROW - 9" class="lost" />
        <text :x="x(line.total) + 6" :y="ROW - 6" :class="{ best: line.section === run.economic }">
          {{ money(line.total) }}, {{ number(line.annual_loss, 1) }} kWh a year{{
            line.section === run.economic ? ' · economic' : ''
          }}
        </text>
      </g>
    </svg>
  </figure>
  <p v-else class="soft">
    {{
      run.problem ||
      'The library has no cable with a price that serves here; import cables with prices to compare them.'
    }}
  </p>
</template>
<style scoped>
figure {
  margin: 0;
}
figcaption {
  font-size: 12.5px;
  margin-bottom: 3px;
}
text {
  font-size: 11.5px;
}
.section {
  cursor: pointer;
}
.section:focus-visible {
  outline: none;
}
.section:focus-visible .frame {
  stroke: var(--current);
  stroke-width: 2;
}
.frame {
  fill: transparent;
}
.frame.on {
  fill: var(--pick);
}
.section:hover .frame {
  fill: var(--wash);
}
.buy {
  fill: var(--current);
  opacity: 0.35;
}
.lost {
  fill: var(--loss);
  opacity: 0.8;
}
.best {
  fill: var(--yield-text);
  font-weight: 600;
}
</style>
