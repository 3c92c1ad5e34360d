<script setup lang="ts">
import { computed, onMounted, useTemplateRef, watch } from 'vue'
import type { Columns } from '@/api/columns'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { drawTideline, HEIGHT } from '@/tideline/drawTideline'
import { boundsOf, sunTimesOf } from '@/tideline/yearFigures'
import { MONTHS, number } from '@/theme/format'
import { RAMP_GRADIENT } from '@/theme/ramp'
import { useTheme } from '@/theme/useTheme'

/** The whole year of power as a strip: days across, hours up, sunrise and sunset drawn through it. */
const props = defineProps<{ year: Columns }>()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const width = useDrawnWidth(canvas, 900)
const { dark } = useTheme()
const MINUTES_A_DAY = 1440
const perDay = computed(() => MINUTES_A_DAY / props.year.step)
const column = (key: string) => props.year.columns.find((one) => one.key === key)?.values
const bounds = computed(() => boundsOf(column('delivered'), 'delivered', 'W'))
function draw() {
  const daylight = column('daylight')
  if (!canvas.value || !daylight) return
  drawTideline(canvas.value, {
    width: width.value,
    days: daylight.length / perDay.value,
    perDay: perDay.value,
    interval: null,
    range: null,
    values: column('delivered'),
    daylight,
    sunTimes: sunTimesOf(daylight, perDay.value),
    bounds: bounds.value,
    always: false,
    marks: [],
  })
}
onMounted(draw)
watch([() => props.year, width, dark], draw)
</script>
<template>
  <figure>
    <canvas
      ref="canvas"
      role="img"
      aria-label="The power of every hour of the year: days across, hours up"
      :style="{ height: `${HEIGHT}px` }"
    />
    <div class="months" aria-hidden="true">
      <span v-for="month in MONTHS" :key="month">{{ month }}</span>
    </div>
    <figcaption class="soft">
      Power delivered, every hour of the year
      <i :style="{ background: RAMP_GRADIENT }" /> 0 to {{ number(bounds.high / 1000, 1) }} kW
    </figcaption>
  </figure>
</template>
<style scoped>
figure {
  margin: 0;
}
canvas {
  display: block;
  width: 100%;
}
.months {
  display: grid;
  grid-template-columns: repeat(12, 1fr);
  font-size: 11px;
  color: var(--soft);
}
figcaption {
  font-size: 12px;
}
i {
  display: inline-block;
  width: 70px;
  height: 7px;
  margin: 0 4px 1px 8px;
}
</style>
