<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { pathThrough, scale } from '@/charts/picture'
import type { StorageAnswer } from '@/api/client'
import { axisStep, axisText } from '@/charts/dayShape'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import CopyTable from '@/tables/CopyTable.vue'
import { number, percent } from '@/theme/format'

type Line = StorageAnswer['sizes'][number]
/** What a battery of any size, or of any power, would bring in this year, with the point of today; a click takes it. */
const props = defineProps<{ answer: StorageAnswer; powers: Line[] | null }>()
const emit = defineEmits<{ size: [energy: number]; power: [kilowatts: number] }>()
const isByPower = defineModel<boolean>('isByPower', { required: true })
const isPower = computed(() => isByPower.value && props.powers !== null)
const lines = computed(() => (isPower.value ? props.powers! : props.answer.sizes))
const unit = computed(() => (isPower.value ? 'kW' : 'kWh'))
const sizeOf = (line: Line) => (isPower.value ? line.power : line.energy)
function take(size: number) {
  if (isPower.value) emit('power', size)
  else emit('size', size)
}
const MEASURES: { key: keyof Line; title: string; text: (v: number) => string; unit: string }[] = [
  { key: 'self_sufficiency', title: 'Self-sufficiency', text: (v) => percent(v), unit: '' },
  { key: 'self_consumption', title: 'Self-consumption', text: (v) => percent(v), unit: '' },
  { key: 'peak', title: 'Highest import', text: (v) => `${number(v, 1)} kW`, unit: 'kW' },
  { key: 'cycles', title: 'Full cycles', text: (v) => number(v), unit: 'a year' },
  { key: 'saving', title: 'Saving', text: (v) => number(v), unit: '' },
  { key: 'payback', title: 'Payback', text: (v) => `${number(v, 1)} years`, unit: 'years' },
]
const [HEIGHT, TOP, BASE, LEFT] = [210, 16, 178, 62]
const width = useDrawnWidth(useTemplateRef('chart'), 700, 320)
const shown = ref<keyof Line>('self_sufficiency')
const there = computed(() => MEASURES.filter((m) => lines.value.some((s) => s[m.key] !== null)))
const measure = computed(() => there.value.find((m) => m.key === shown.value) ?? there.value[0]!)
const points = computed(() =>
  lines.value.flatMap((s) =>
    s[measure.value.key] === null ? [] : [{ x: sizeOf(s), y: s[measure.value.key] as number }],
  ),
)
const most = computed(() => Math.max(...lines.value.map(sizeOf), 1e-9))
const top = computed(() => {
  const highest = Math.max(...points.value.map((p) => p.y), 1e-9)
  // A payback that runs away says no more than that it does.
  return measure.value.key === 'payback' ? Math.min(highest, 40) : highest
})
const x = computed(() => scale([0, most.value], [LEFT, width.value - 16]))
const up = computed(() => scale([0, top.value * 1.08], [BASE, TOP]))
const y = (value: number) => up.value(Math.max(0, Math.min(value, top.value * 1.02)))
const path = computed(() => pathThrough(points.value.map((p) => [x.value(p.x), y(p.y)])))
const xStep = computed(() => axisStep(most.value, 7))
const yStep = computed(() => axisStep(top.value, 4))
const ticks = (to: number, by: number) => Array.from({ length: Math.floor(to / by + 1e-9) }, (_, i) => (i + 1) * by)
const valueAt = (energy: number) => {
  const after = points.value.findIndex((p) => p.x >= energy)
  if (after <= 0) return points.value[Math.max(after, 0)]?.y ?? 0
  const [a, b] = [points.value[after - 1]!, points.value[after]!]
  return a.y + ((b.y - a.y) * (energy - a.x)) / (b.x - a.x)
}
const own = computed(() => props.answer.battery?.[isPower.value ? 'power' : 'energy'] ?? 0)
const at = ref<number | null>(null)
const under = computed(() => at.value ?? own.value)
function energyOf(event: PointerEvent | MouseEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const share = (event.clientX - box.left - LEFT) / (width.value - LEFT - 16)
  return Math.max(0, Math.min(1, share)) * most.value
}
function keys(event: KeyboardEvent) {
  const by = xStep.value / 10
  const next = { ArrowRight: under.value + by, ArrowLeft: under.value - by }[event.key]
  if (next !== undefined) {
    event.preventDefault()
    at.value = Math.max(0, Math.min(most.value, next))
  } else if (event.key === 'Enter' && at.value !== null) take(at.value)
  else if (event.key === 'Escape') at.value = null
}
const isShare = computed(() => measure.value.key.startsWith('self'))
const words = computed(
  () =>
    `${measure.value.title} by ${isPower.value ? 'power' : 'size'}, ${measure.value.text(valueAt(0))} without a battery, ${measure.value.text(valueAt(under.value))} at ${number(under.value, 1)} ${unit.value}`,
)
const proposed = computed(() => (isPower.value ? 0 : (props.answer.proposal?.energy ?? 0)))
</script>
<template>
  <figure class="sizes">
    <p class="tools">
      <b class="serif">{{ isPower ? 'Power' : 'Size' }}</b>
      <button v-if="answer.battery" type="button" class="link" @click="isByPower = !isByPower">
        {{ isPower ? 'by size' : 'by power' }}
      </button>
      <button
        v-for="m in there"
        :key="m.key"
        type="button"
        class="link"
        :aria-pressed="m.key === measure.key"
        @click="shown = m.key"
      >
        {{ m.title }}
      </button>
      <CopyTable within=".sizes" />
    </p>
    <svg
      ref="chart"
      :viewBox="`0 0 ${width} ${HEIGHT}`"
      width="100%"
      :height="HEIGHT"
      role="slider"
      tabindex="0"
      :aria-label="words"
      :aria-valuenow="Number(under.toFixed(2))"
      aria-valuemin="0"
      :aria-valuemax="Number(most.toFixed(2))"
      :aria-valuetext="`${number(under, 1)} ${unit}: ${measure.text(valueAt(under))}`"
      @pointermove="at = energyOf($event)"
      @pointerleave="at = null"
      @click="take(energyOf($event))"
      @keydown="keys"
    >
      <g font-size="11">
        <template v-for="v in ticks(top * 1.05, yStep)" :key="v">
          <line :x1="LEFT" :x2="width - 16" :y1="y(v)" :y2="y(v)" stroke="var(--rule)" />
          <text :x="LEFT - 6" :y="y(v) + 4" text-anchor="end" style="fill: var(--soft)">
            {{ isShare ? `${number(v * 100)} %` : axisText(v, yStep) }}
          </text>
        </template>
        <text
          v-for="(v, i) in ticks(most, xStep)"
          :key="v"
          :x="x(v)"
          :y="BASE + 16"
          text-anchor="middle"
          style="fill: var(--soft)"
        >
          {{ axisText(v, xStep) }}{{ i === ticks(most, xStep).length - 1 ? ` ${unit}` : '' }}
        </text>
        <text :x="LEFT" :y="BASE + 16" text-anchor="middle" style="fill: var(--soft)">none</text>
      </g>
      <line :x1="LEFT" :x2="width - 16" :y1="BASE" :y2="BASE" stroke="var(--rule-strong)" />
      <path :d="path" fill="none" stroke="var(--current)" stroke-width="2" />
      <template v-if="proposed">
        <line :x1="x(proposed)" :x2="x(proposed)" :y1="TOP" :y2="BASE" stroke="var(--yield)" stroke-dasharray="3 3" />
        <text
          :x="x(proposed) + (proposed > most * 0.8 ? -5 : 5)"
          :y="TOP + 4"
          font-size="11"
          :text-anchor="proposed > most * 0.8 ? 'end' : 'start'"
          style="fill: var(--yield-text)"
        >
          proposed
        </text>
      </template>
      <template v-if="own">
        <circle
          :cx="x(own)"
          :cy="y(valueAt(own))"
          r="5.5"
          fill="var(--current)"
          stroke="var(--sheet)"
          stroke-width="2"
        />
        <text
          :x="x(own)"
          :y="y(valueAt(own)) - 10"
          font-size="11.5"
          font-weight="600"
          text-anchor="middle"
          style="fill: var(--ink)"
        >
          yours
        </text>
      </template>
      <template v-if="at !== null">
        <line :x1="x(at)" :x2="x(at)" :y1="TOP" :y2="BASE" stroke="var(--ink)" opacity="0.4" />
        <text
          :x="x(at) + (at > most * 0.7 ? -6 : 6)"
          :y="BASE - 8"
          font-size="12"
          font-weight="600"
          :text-anchor="at > most * 0.7 ? 'end' : 'start'"
          style="fill: var(--ink)"
        >
          {{ number(at, 1) }} {{ unit }}: {{ measure.text(valueAt(at)) }}
        </text>
      </template>
    </svg>
    <figcaption class="soft">
      Click {{ isPower ? 'a power' : 'a size' }} to take it. The whole range is this year, hour by hour.
    </figcaption>
    <details>
      <summary>As a table</summary>
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col" class="num">Size, kWh</th>
            <th scope="col" class="num">Power, kW</th>
            <th v-for="m in there" :key="m.key" scope="col" class="num">
              {{ m.title }}{{ m.unit ? `, ${m.unit}` : m.key === 'saving' ? `, ${answer.currency}` : '' }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="line in lines" :key="sizeOf(line)">
            <th scope="row" class="num">{{ number(line.energy, 1) }}</th>
            <td class="num">{{ number(line.power, 1) }}</td>
            <td v-for="m in there" :key="m.key" class="num">
              {{ line[m.key] === null ? 'never' : m.text(line[m.key] as number).replace(/ (kW|years)$/, '') }}
            </td>
          </tr>
        </tbody>
      </table>
    </details>
  </figure>
</template>
<style scoped>
.sizes {
  margin: 14px 0 4px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  font-size: 12px;
}
.tools b {
  font-size: 14px;
}
svg {
  cursor: pointer;
  touch-action: none;
}
figcaption,
summary {
  font-size: 11.5px;
}
summary {
  cursor: pointer;
}
</style>
