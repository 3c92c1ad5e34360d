<script setup lang="ts">
import { computed } from 'vue'
import type { DemandKinds } from '@/api/client'
import { MONTH_LETTERS } from '@/theme/format'
import { stepBand, stepPath } from '@/charts/dayShape'

/** A shape of use before it is used: its day in working week and on days off, and its year. */
const props = defineProps<{ shape: DemandKinds['shapes'][string]; title: string; tone: string }>()
const [WIDTH, HEIGHT, BASE] = [420, 66, 52]
const top = computed(() => Math.max(...props.shape.weekday, ...props.shape.day_off))
const x = (share: number) => 4 + share * 240
const y = (value: number) => BASE - (value / top.value) * 46
const months = computed(() => Math.max(...props.shape.months))
</script>
<template>
  <svg
    :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
    :width="WIDTH"
    :height="HEIGHT"
    role="img"
    :aria-label="`Shape of a ${title}: its day on working days and days off, and its months`"
  >
    <path
      :d="
        stepBand(
          Array.from({ length: 24 }, () => 0),
          shape.weekday,
          x,
          y,
        )
      "
      :fill="tone"
      opacity="0.35"
    />
    <path
      :d="stepPath(shape.day_off, x, y)"
      fill="none"
      stroke="var(--ink)"
      stroke-width="1.1"
      stroke-dasharray="3 2"
    />
    <g font-size="10.5" style="fill: var(--soft)">
      <text v-for="h in [0, 6, 12, 18, 24]" :key="h" :x="x(h / 24)" y="64" text-anchor="middle">{{ h }}</text>
      <template v-for="(m, i) in shape.months" :key="i">
        <rect
          :x="266 + i * 12.5"
          :y="BASE - (m / months) * 46"
          width="9"
          :height="(m / months) * 46"
          :fill="tone"
          opacity="0.6"
        />
        <text :x="270.5 + i * 12.5" y="64" text-anchor="middle">{{ MONTH_LETTERS[i] }}</text>
      </template>
    </g>
  </svg>
</template>
