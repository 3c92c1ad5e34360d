<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { MONTH_LETTERS, MONTHS, plain } from '@/theme/format'
import { useDrawnWidth } from './useDrawnWidth'

/** Twelve bars, with a mark at each for the pinned scheme. */
const props = withDefaults(
  defineProps<{
    values: number[]
    against?: number[]
    unit: string
    label: string
    againstName?: string
    height?: number
    tone?: string
  }>(),
  {
    height: 76,
    tone: 'var(--yield)',
    against: undefined,
    againstName: '',
  },
)
const top = computed(() => Math.max(...props.values, ...(props.against ?? []), 1e-9))
const width = useDrawnWidth(useTemplateRef('chart'), 192)
const room = computed(() => props.height - 17)
const step = computed(() => width.value / 12)
const tall = (value: number) => (Math.max(0, value) / top.value) * room.value
const words = computed(
  () => `${props.label}: ${props.values.map((v, i) => `${MONTHS[i]} ${plain(v)}`).join(', ')} ${props.unit}`,
)
</script>
<template>
  <svg ref="chart" :viewBox="`0 0 ${width} ${height}`" width="100%" :height="height" role="img" :aria-label="words">
    <g v-for="(value, i) in values" :key="i">
      <title>
        {{ MONTHS[i] }}: {{ plain(value) }} {{ unit
        }}{{ against ? `, ${againstName} ${plain(against[i]!)} ${unit}` : '' }}
      </title>
      <rect :x="i * step" y="0" :width="step" :height="height" fill="transparent" />
      <rect
        :x="i * step + step * 0.14"
        :y="room - tall(value)"
        :width="step * 0.72"
        :height="tall(value)"
        :fill="tone"
      />
      <rect
        v-if="against"
        :x="i * step + 0.5"
        :y="room - tall(against[i]!) - 0.9"
        :width="step - 1"
        height="1.8"
        fill="var(--ink)"
        opacity="0.75"
      />
      <text :x="i * step + step / 2" :y="height - 4" font-size="11" text-anchor="middle" style="fill: var(--soft)">
        {{ MONTH_LETTERS[i] }}
      </text>
    </g>
    <line x1="0" :x2="width" :y1="room" :y2="room" stroke="var(--rule-strong)" stroke-width="0.8" />
  </svg>
</template>
