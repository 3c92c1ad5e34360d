<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { StorageAnswer } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { energyText } from '@/theme/format'

/** The year's energy as one river from its sources to its uses, through the battery. */
const props = defineProps<{ flows: StorageAnswer['year'] }>()
const [HEIGHT, TOP, BAR] = [196, 22, 7]
const width = useDrawnWidth(useTemplateRef('chart'), 700, 320)
const ARMS = computed(() => {
  const f = props.flows
  return [
    { from: 'Sun', to: 'Use', value: f.sun_use, tone: 'var(--yield)' },
    { from: 'Sun', to: 'Battery', value: f.sun_battery, tone: 'var(--sun)' },
    { from: 'Sun', to: 'To the grid', value: f.sun_grid, tone: 'var(--haze)' },
    { from: 'From the grid', to: 'Battery', value: f.grid_battery, tone: 'var(--current)' },
    { from: 'From the grid', to: 'Use', value: f.grid_use, tone: 'var(--current)' },
    { from: 'Battery', to: 'Use', value: f.battery_use, tone: 'var(--sun)' },
    { from: 'Battery', to: 'Lost', value: Math.max(0, f.lost), tone: 'var(--loss)' },
  ].filter((arm) => arm.value > 0.5)
})
const COLUMNS = [['Sun', 'From the grid'], ['Battery'], ['Use', 'To the grid', 'Lost']]
const sumOf = (name: string) => {
  const out = ARMS.value.filter((a) => a.from === name).reduce((n, a) => n + a.value, 0)
  return out || ARMS.value.filter((a) => a.to === name).reduce((n, a) => n + a.value, 0)
}
const GAP = 16
const nodes = computed(() => {
  const columns = COLUMNS.map((names) => names.map((name) => ({ name, value: sumOf(name) })).filter((n) => n.value > 0))
  const scale = Math.min(
    ...columns.map(
      (c) =>
        (HEIGHT - TOP - 10 - GAP * (c.length - 1)) /
        Math.max(
          1e-9,
          c.reduce((n, one) => n + one.value, 0),
        ),
    ),
  )
  const found: Record<string, { x: number; y: number; height: number; value: number; column: number }> = {}
  columns.forEach((column, c) => {
    const tall = column.reduce((n, one) => n + one.value * scale, 0) + GAP * (column.length - 1)
    let y = c === 1 ? TOP + (HEIGHT - TOP - 10 - tall) / 2 : TOP
    for (const one of column) {
      found[one.name] = {
        x: [0, 0.44, 1][c]! * (width.value - 300) + 118,
        y,
        height: one.value * scale,
        value: one.value,
        column: c,
      }
      y += one.value * scale + GAP
    }
  })
  return { found, scale }
})
const bands = computed(() => {
  const left: Record<string, number> = {}
  const right: Record<string, number> = {}
  return ARMS.value.map((arm) => {
    const [a, b] = [nodes.value.found[arm.from]!, nodes.value.found[arm.to]!]
    const tall = arm.value * nodes.value.scale
    const y0 = a.y + (left[arm.from] ?? 0)
    const y1 = b.y + (right[arm.to] ?? 0)
    left[arm.from] = (left[arm.from] ?? 0) + tall
    right[arm.to] = (right[arm.to] ?? 0) + tall
    const [x0, x1] = [a.x + BAR, b.x]
    const middle = (x0 + x1) / 2
    return {
      ...arm,
      path: `M${x0} ${y0}C${middle} ${y0} ${middle} ${y1} ${x1} ${y1}v${tall}C${middle} ${y1 + tall} ${middle} ${y0 + tall} ${x0} ${y0 + tall}Z`,
      x: x0 + 8,
      y: y0 + tall / 2 + 4,
      isTold: tall > 12,
    }
  })
})
const words = computed(() => ARMS.value.map((a) => `${a.from} to ${a.to}: ${energyText(a.value)}`).join('; '))
</script>
<template>
  <figure class="river">
    <figcaption><b class="serif">The year</b></figcaption>
    <svg ref="chart" :viewBox="`0 0 ${width} ${HEIGHT}`" width="100%" :height="HEIGHT" role="img" :aria-label="words">
      <path v-for="band in bands" :key="band.from + band.to" :d="band.path" :fill="band.tone" opacity="0.38">
        <title>{{ band.from }} to {{ band.to }}: {{ energyText(band.value) }}</title>
      </path>
      <template v-for="band in bands" :key="band.from + band.to">
        <text v-if="band.isTold" :x="band.x" :y="band.y" font-size="11.5" style="fill: var(--ink)">
          {{ energyText(band.value) }}
        </text>
      </template>
      <template v-for="(node, name) in nodes.found" :key="name">
        <rect
          :x="node.x"
          :y="node.y"
          :width="BAR"
          :height="Math.max(node.height, 1.5)"
          fill="var(--ink)"
          opacity="0.75"
        />
        <text
          :x="node.column === 0 ? node.x - 7 : node.x + BAR + 7"
          :y="node.column === 1 ? node.y - 6 : node.y + Math.min(node.height / 2, 40) + 4"
          :text-anchor="node.column === 0 ? 'end' : 'start'"
          font-size="12"
          font-weight="600"
          style="fill: var(--ink)"
        >
          {{ name }}
          <tspan font-weight="400" style="fill: var(--soft)">
            {{ node.column === 0 ? '' : energyText(node.value) }}
          </tspan>
        </text>
        <text
          v-if="node.column === 0"
          :x="node.x - 7"
          :y="node.y + Math.min(node.height / 2, 40) + 18"
          text-anchor="end"
          font-size="11.5"
          style="fill: var(--soft)"
        >
          {{ energyText(node.value) }}
        </text>
      </template>
    </svg>
  </figure>
</template>
<style scoped>
.river {
  margin: 12px 0 0;
}
figcaption {
  font-size: 14px;
}
</style>
