<script setup lang="ts">
import { computed } from 'vue'
import { pathThrough, scale } from '@/charts/picture'
import type { SurfaceView } from '@/stores/schemeLists'
import { MONTH_LETTERS, number, signed } from '@/theme/format'
import type { DayOfPlane } from './usePlanes'

/** A plane that moves: how it stands now, and its rotation or tilt through the day; of seasons, its tilt through the year. */
const props = defineProps<{ surface: SurfaceView; day: DayOfPlane | null; elevation: number[]; now: number }>()
const W = 200
const [LEFT, RIGHT, TOP, BOTTOM] = [30, 196, 86, 150]
const radian = Math.PI / 180

/** Of a plane that turns about an axis its rotation, else its tilt. */
const values = computed(() => {
  const one = props.day
  if (!one) return []
  const all = one.rotation ?? one.tilt
  return props.elevation.map((_, i) => all[i] ?? all[0]!)
})
const angle = computed(() => values.value[props.now] ?? 0)
const isRotation = computed(() => Boolean(props.day?.rotation))
const seasons = computed(() =>
  Object.values(props.surface.seasonal ?? {})
    .map((c) => ({ from: c.month - 1 + ((c.day ?? 1) - 1) / 31, tilt: c.tilt }))
    .sort((a, b) => a.from - b.from),
)
const span = computed(() => {
  if (!isRotation.value) return { low: 0, high: 90 }
  const most = Math.max(10, ...values.value.map(Math.abs))
  return { low: -most, high: most }
})
const y = computed(() => scale([span.value.low, span.value.high], [BOTTOM, TOP]))
const x = scale([0, 1], [LEFT, RIGHT])
const curve = computed(() => {
  if (seasons.value.length) {
    const all = seasons.value
    let path = `M${x(0)} ${y.value(all.at(-1)!.tilt)}`
    for (const { from, tilt } of all) path += `H${x(from / 12)}V${y.value(tilt)}`
    return `${path}H${x(1)}`
  }
  return pathThrough(
    values.value.map((value, i) => [x(i / 144), y.value(value)]),
    (i) => props.elevation[i]! > 0,
  )
})
const isLit = computed(() => (props.elevation[props.now] ?? -1) > 0)
/** The row's half length in the drawing; a neighbour stands as far as the pitch says. */
const half = 30
const others = computed(() => {
  const rows = props.surface.rows
  if (!rows || !isRotation.value) return []
  const apart = (half * 2 * rows.pitch) / rows.width
  return [-apart, apart].filter((d) => Math.abs(d) < 100)
})
const lean = computed(() => angle.value * radian)
</script>
<template>
  <svg
    :viewBox="`0 0 ${W} 166`"
    width="100%"
    role="img"
    :aria-label="`${isRotation ? 'Rotation' : 'Tilt'} ${number(angle)}° now`"
  >
    <line x1="0" y1="66" :x2="W" y2="66" stroke="var(--ink)" />
    <g v-for="d in [...others, 0]" :key="d" :transform="`translate(${100 + d} 40)`" :opacity="d ? 0.35 : 1">
      <line x1="0" y1="0" x2="0" y2="26" stroke="var(--haze)" stroke-width="2" />
      <line
        :x1="-half * Math.cos(lean)"
        :y1="-half * Math.sin(lean)"
        :x2="half * Math.cos(lean)"
        :y2="half * Math.sin(lean)"
        stroke="var(--current)"
        stroke-width="5"
        stroke-linecap="round"
      />
    </g>
    <g v-if="isLit" :transform="`rotate(${angle} 100 40)`">
      <line x1="100" y1="36" x2="100" y2="12" stroke="var(--sun)" stroke-dasharray="3 3" />
    </g>
    <text x="196" y="12" font-size="12" text-anchor="end" font-weight="600">
      {{ isRotation ? signed(angle) : number(angle) }}°
    </text>
    <text v-if="isRotation" x="4" y="80" font-size="10" style="fill: var(--soft)">across the axis, seen along it</text>
    <g font-size="10" style="fill: var(--soft)">
      <path :d="`M${LEFT} ${TOP}V${BOTTOM}H${RIGHT}`" fill="none" stroke="var(--rule)" />
      <line
        v-if="isRotation"
        :x1="LEFT"
        :x2="RIGHT"
        :y1="y(0)"
        :y2="y(0)"
        stroke="var(--rule)"
        stroke-dasharray="2 3"
      />
      <text :x="LEFT - 4" :y="TOP + 4" text-anchor="end">{{ number(span.high) }}°</text>
      <text :x="LEFT - 4" :y="BOTTOM" text-anchor="end">{{ number(span.low) }}°</text>
      <template v-if="seasons.length">
        <text v-for="(m, i) in MONTH_LETTERS" :key="i" :x="x((i + 0.5) / 12)" y="162" text-anchor="middle">
          {{ m }}
        </text>
      </template>
      <template v-else>
        <text v-for="h in [6, 12, 18]" :key="h" :x="x(h / 24)" y="162" text-anchor="middle">{{ h }}:00</text>
      </template>
    </g>
    <path :d="curve" fill="none" stroke="var(--current)" stroke-width="1.6" />
    <circle
      v-if="!seasons.length && isLit"
      :cx="x(now / 144)"
      :cy="y(angle)"
      r="3.5"
      fill="var(--sun)"
      stroke="var(--sheet)"
    />
  </svg>
</template>
