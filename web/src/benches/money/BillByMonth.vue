<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { BillYear } from '@/api/client'
import { axisLines, scale } from '@/charts/picture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useMoment } from '@/tideline/useMoment'
import { MONTH_LETTERS, MONTHS, number, plain } from '@/theme/format'

/** The bill of each month: with the plant as a filled bar in the outline of what it was without. */
const props = defineProps<{ before: BillYear; after: BillYear; currency: string; month: number }>()
const emit = defineEmits<{ pick: [month: number] }>()
const moment = useMoment()
const HEIGHT = 236
const [LEFT, TOP, BASE] = [52, 26, 200]
const width = useDrawnWidth(useTemplateRef('chart'), 400, 240)
const step = computed(() => (width.value - LEFT - 4) / 12)
const span = computed(() => {
  const all = [...props.before.by_month, ...props.after.by_month]
  return { low: Math.min(0, ...all), high: Math.max(0, ...all, 1e-6) }
})
const y = computed(() => scale([span.value.low, span.value.high], [BASE, TOP]))
const lines = computed(() => axisLines(span.value.low, span.value.high, 3))
/** What is paid beside the demand charge, and that charge on top of it. */
const bars = computed(() =>
  props.after.by_month.map((total, i) => ({
    total,
    demand: Math.max(0, Math.min(props.after.demand_by_month[i]!, total)),
  })),
)
const peaks = computed(() =>
  props.after.lines.filter(
    (l) => l.kind === 'demand' && l.interval !== null && (props.month < 0 || l.month === props.month),
  ),
)
const highest = computed(() => peaks.value.toSorted((a, b) => b.quantity - a.quantity)[0])
</script>
<template>
  <figure>
    <figcaption>The bill by month, before and after [{{ currency }}]</figcaption>
    <svg
      ref="chart"
      :viewBox="`0 0 ${width} ${HEIGHT}`"
      width="100%"
      :height="HEIGHT"
      role="img"
      :aria-label="`Bill by month: ${after.by_month.map((v, i) => `${MONTHS[i]} ${number(before.by_month[i]!)} to ${number(v)}`).join(', ')} ${currency}`"
    >
      <g font-size="11">
        <template v-for="v in lines" :key="v">
          <line :x1="LEFT" :x2="width" :y1="y(v)" :y2="y(v)" :stroke="v === 0 ? 'var(--rule-strong)' : 'var(--rule)'" />
          <text :x="LEFT - 6" :y="y(v) + 4" text-anchor="end" style="fill: var(--soft)">{{ number(v) }}</text>
        </template>
      </g>
      <g v-for="(bar, i) in bars" :key="i" class="month" @click="emit('pick', i === month ? -1 : i)">
        <title>
          {{ MONTHS[i] }}: {{ number(before.by_month[i]!, 2) }} before, {{ number(bar.total, 2) }} {{ currency }} after
        </title>
        <rect
          :x="LEFT + i * step"
          y="0"
          :width="step"
          :height="HEIGHT"
          :fill="i === month ? 'var(--wash)' : 'transparent'"
        />
        <rect
          :x="LEFT + i * step + step * 0.12"
          :y="Math.min(y(bar.total), y(0))"
          :width="step * 0.76"
          :height="Math.abs(y(bar.total) - y(0))"
          :fill="bar.total < 0 ? 'var(--yield)' : 'var(--current)'"
          opacity="0.75"
        />
        <rect
          v-if="bar.demand > 0"
          :x="LEFT + i * step + step * 0.12"
          :y="y(bar.demand)"
          :width="step * 0.76"
          :height="y(0) - y(bar.demand)"
          fill="var(--loss)"
          opacity="0.8"
        />
        <rect
          :x="LEFT + i * step + step * 0.12"
          :y="Math.min(y(before.by_month[i]!), y(0))"
          :width="step * 0.76"
          :height="Math.abs(y(before.by_month[i]!) - y(0))"
          fill="none"
          stroke="var(--haze)"
        />
        <text :x="LEFT + (i + 0.5) * step" :y="BASE + 16" font-size="11" text-anchor="middle" style="fill: var(--soft)">
          {{ MONTH_LETTERS[i] }}
        </text>
      </g>
    </svg>
    <p class="key">
      <b class="energy">energy, taxes, charges</b
      ><b v-if="after.demand_by_month.some((v) => v > 0)" class="demand">demand charge</b
      ><span class="soft">outline: before</span>
      <button v-if="highest" type="button" class="link" @click="moment.pick(highest.interval!)">
        {{ plain(highest.quantity) }} kW, {{ moment.words(highest.interval!) }}
      </button>
    </p>
  </figure>
</template>
<style scoped>
figure {
  margin: 0;
}
figcaption {
  font: 600 13px var(--serif);
}
.month {
  cursor: pointer;
}
.key {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
  font-size: 12px;
}
.energy {
  color: var(--current-text);
}
.demand {
  color: var(--loss-text);
}
</style>
