<script setup lang="ts">
import { computed, ref } from 'vue'
import type { HorizonEffectAnswer } from '@/api/client'
import MonthHours from '@/charts/MonthHours.vue'
import CopyTable from '@/tables/CopyTable.vue'
import { number, percent } from '@/theme/format'
import { RAMP_GRADIENT } from '@/theme/ramp'

/** What horizon and obstacles cost, by month and hour: of the direct and of the diffuse light, or as solar access. */
const props = defineProps<{ effect: HorizonEffectAnswer; surface: string }>()
const SHOWN = [
  { key: 'lost', text: 'all light lost' },
  { key: 'direct', text: 'direct' },
  { key: 'diffuse', text: 'diffuse' },
  { key: 'access', text: 'solar access' },
] as const
const shown = ref<(typeof SHOWN)[number]['key']>('lost')
const sum = (table: number[][]) => table.reduce((all, row) => all + row.reduce((a, b) => a + b, 0), 0)
const lost = computed(() =>
  props.effect.direct_lost.map((row, m) => row.map((v, h) => v + props.effect.diffuse_lost[m]![h]!)),
)
const table = computed(() => {
  if (shown.value === 'access') return props.effect.access
  return shown.value === 'lost'
    ? lost.value
    : shown.value === 'direct'
      ? props.effect.direct_lost
      : props.effect.diffuse_lost
})
const isAccess = computed(() => shown.value === 'access')
const total = computed(() => sum(props.effect.free))
const most = computed(() => (isAccess.value ? 1 : Math.max(1e-6, ...lost.value.flat())))
const hours = computed(() => {
  const lit = props.effect.free.reduce<number[]>(
    (all, row) => all.map((v, h) => v + row[h]!),
    Array.from({ length: 24 }, () => 0),
  )
  const [first, last] = [lit.findIndex((v) => v > 0), lit.findLastIndex((v) => v > 0)]
  return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => first + i)
})
const cell = (m: number, h: number) => table.value[m]![h]!
const isLit = (m: number, h: number) => props.effect.free[m]![h]! > 0
const rowWords = (m: number) => {
  if (!isAccess.value)
    return number(
      hours.value.reduce((all, h) => all + cell(m, h), 0),
      1,
    )
  const free = hours.value.reduce((all, h) => all + props.effect.free[m]![h]!, 0)
  const taken = hours.value.reduce((all, h) => all + lost.value[m]![h]!, 0)
  return free ? number(1 - taken / free, 2) : '–'
}
</script>
<template>
  <section>
    <h3>What it costs {{ surface }}</h3>
    <p>
      <b class="bad">{{ percent(total ? sum(lost) / total : 0) }}</b> of {{ number(total) }} kWh/m² a year:
      {{ number(sum(effect.direct_lost), 1) }} of direct and {{ number(sum(effect.diffuse_lost), 1) }} kWh/m² of diffuse
      light.
    </p>
    <div class="tools soft">
      <button
        v-for="s in SHOWN"
        :key="s.key"
        type="button"
        class="link"
        :aria-pressed="shown === s.key"
        @click="shown = s.key"
      >
        {{ s.text }}
      </button>
      <CopyTable within="section" />
    </div>
    <MonthHours
      :label="`${SHOWN.find((s) => s.key === shown)!.text} by month and hour`"
      :hours="hours"
      :value="(m, h) => (isLit(m, h) ? cell(m, h) : null)"
      :high="most"
      :words="(v) => `${number(v, 2)} ${isAccess ? '' : 'kWh/m²'}`"
      :row-head="isAccess ? '' : 'kWh/m²'"
      :row-words="rowWords"
      :is-blank="(v) => !isAccess && v <= most / 500"
    />
    <p class="legend soft">
      <span>0</span><i :style="{ background: RAMP_GRADIENT }" /><span
        >{{ number(most, isAccess ? 0 : 1) }} {{ isAccess ? '' : 'kWh/m² an hour of the day in the month' }}</span
      >
    </p>
  </section>
</template>
<style scoped>
section {
  margin-top: 14px;
  display: grid;
  gap: 6px;
}
.legend {
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 11px;
}
.legend i {
  width: 160px;
  height: 6px;
  border-radius: 3px;
}
</style>
