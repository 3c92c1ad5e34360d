<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { axisLines, pathThrough, scale } from '@/charts/picture'
import { api } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number, percent, power, quantity } from '@/theme/format'
import { useMoment } from '@/tideline/useMoment'

/** What the strings on a tracker give at the Tideline's moment, over the voltage that they share. */
const props = defineProps<{ subarray: string }>()
const store = useSchemeStore()
const moment = useMoment()
const { answer, fault } = useAnswer(
  () =>
    store.saved && store.evaluation?.headline
      ? `${store.saved.id}:${props.subarray} ${store.saved.revision} ${moment.interval.value}`
      : null,
  (signal) => api.trackerCurve(store.saved!.id, props.subarray, moment.interval.value, signal),
)
const HEIGHT = 190
const [LEFT, RIGHT, TOP, FOOT] = [46, 50, 12, 160]
const width = useDrawnWidth(useTemplateRef('chart'), 700, 420)
const total = computed(() => {
  const members = answer.value?.members ?? []
  return (answer.value?.voltage ?? []).map((_, i) => members.reduce((sum, m) => sum + m.current[i]!, 0))
})
const isDark = computed(() => (answer.value?.maximum_power ?? 0) <= 0)
/** The scales stay from hour to hour: by full sun on all strings, not by the moment. */
const most = computed(() => {
  const members = answer.value?.members ?? []
  const rated = members.reduce(
    (sum, m) => sum + (store.circuits.subarrays[m.subarray]?.short_circuit_current ?? 10 * m.strings),
    0,
  )
  return {
    current: Math.max(rated * 1.1, ...total.value),
    voltage: Math.max(answer.value?.highest ?? 0, ...(answer.value?.voltage ?? []), 1),
  }
})
const x = computed(() => scale([0, most.value.voltage], [LEFT, width.value - RIGHT]))
const y = computed(() => scale([0, most.value.current], [FOOT, TOP]))
const line = (currents: number[]) =>
  pathThrough(currents.map((amperes, i) => [x.value(answer.value!.voltage[i]!), y.value(amperes)]))
const powers = computed(() => total.value.map((amperes, i) => amperes * answer.value!.voltage[i]!))
const mostPower = computed(() => most.value.current * most.value.voltage * 0.6)
const powerLine = computed(() => line(powers.value.map((watts) => (watts / mostPower.value) * most.value.current)))
const ticks = (highest: number) => axisLines(0, highest, 5)
const nameOf = (id: string) => store.surfaces.find((s) => s.id === id)?.name ?? id
</script>
<template>
  <section class="curve">
    <h3>
      I-V curve of tracker {{ answer?.tracker ?? '' }}
      <small class="soft">{{ moment.words(moment.interval.value) }}; drag on the Tideline</small>
    </h3>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <template v-else-if="answer">
      <svg
        ref="chart"
        :viewBox="`0 0 ${width} ${HEIGHT}`"
        width="100%"
        role="img"
        :aria-label="
          isDark
            ? 'No light at this moment'
            : `Current over voltage of the strings; together they give ${power(answer.maximum_power)} at ${number(answer.maximum_voltage)} volts`
        "
      >
        <rect
          :x="x(answer.lowest)"
          :y="TOP"
          :width="x(answer.highest) - x(answer.lowest)"
          :height="FOOT - TOP"
          class="window"
        />
        <path :d="`M${LEFT} ${TOP}V${FOOT}H${width - RIGHT}`" class="axis" />
        <g v-for="v in ticks(most.voltage)" :key="`v${v}`">
          <text :x="x(v)" :y="FOOT + 15" text-anchor="middle">{{ number(v) }}</text>
        </g>
        <text :x="width - RIGHT + 8" :y="FOOT + 15">V</text>
        <g v-for="a in ticks(most.current)" :key="`a${a}`">
          <text :x="LEFT - 7" :y="y(a) + 4" text-anchor="end">
            {{ number(a) }}{{ a === ticks(most.current).at(-1) ? ' A' : '' }}
          </text>
        </g>
        <text :x="x(answer.lowest) + 4" :y="TOP + 11">MPP window</text>
        <template v-if="!isDark">
          <path v-for="m in answer.members" :key="m.subarray" :d="line(m.current)" class="one" />
          <path :d="powerLine" class="power" />
          <path :d="line(total)" class="all" />
          <path
            :d="`M${x(answer.maximum_voltage)} ${FOOT}V${y(answer.maximum_power / answer.maximum_voltage)}`"
            class="mark"
          />
          <circle
            :cx="x(answer.maximum_voltage)"
            :cy="y(answer.maximum_power / answer.maximum_voltage)"
            r="4"
            class="top"
          />
          <text
            :x="x(answer.maximum_voltage) + 8"
            :y="y(answer.maximum_power / answer.maximum_voltage) - 5"
            class="value"
          >
            {{ power(answer.maximum_power) }} at {{ number(answer.maximum_voltage) }} V
          </text>
        </template>
      </svg>
      <p class="soft small">
        <template v-if="isDark">No light at this moment.</template>
        <template v-else>
          Current (dark blue, all strings), power (gold).
          <template v-if="answer.members.length > 1">
            By sharing one voltage they lose <b>{{ percent(answer.mismatch, 2) }}</b> at this moment:
          </template>
          <span v-for="m in answer.members" :key="m.subarray" class="member"
            >{{ m.strings > 1 ? `${m.strings} × ` : '' }}{{ m.modules }} on {{ nameOf(m.surface) }} in
            {{ number(m.irradiance) }} W/m² at {{ quantity(m.cell_temperature, '°C') }}.
          </span>
          Before mismatch, tolerance and cables; row shade as its mean.
        </template>
      </p>
    </template>
  </section>
</template>
<style scoped>
.curve {
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  margin-top: 12px;
}
h3 small {
  font-weight: 400;
  margin-left: 8px;
}
text {
  font-size: 11px;
  fill: var(--soft);
}
.value {
  fill: var(--ink);
  font-weight: 600;
}
path {
  fill: none;
}
.window {
  fill: var(--current);
  opacity: 0.08;
}
.axis {
  stroke: var(--rule-strong);
}
.one {
  stroke: var(--current);
  stroke-width: 1;
  opacity: 0.7;
}
.all {
  stroke: var(--current);
  stroke-width: 2.2;
}
.power {
  stroke: var(--sun);
  stroke-width: 1.4;
  stroke-dasharray: 5 3;
}
.mark {
  stroke: var(--ink);
  stroke-dasharray: 2 3;
}
.top {
  fill: var(--ink);
}
.small {
  font-size: 12px;
}
.member {
  margin-right: 4px;
}
</style>
