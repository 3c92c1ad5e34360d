<script setup lang="ts">
import { computed, ref } from 'vue'
import { axisLines, pathThrough, scale } from '@/charts/picture'
import { api, type ModulePage } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useMoment } from '@/tideline/useMoment'
import { number, percent, plain, quantity, signed } from '@/theme/format'
import { rampCss } from '@/theme/ramp'
import CurveFit from './CurveFit.vue'

/** A module in pictures: its curves by light or by temperature, the fit behind them, its efficiency over both. */
const props = defineProps<{ id?: string; page?: ModulePage | null }>()
const emit = defineEmits<{ close: [] }>()
const { answer: asked, fault } = useAnswer(
  () => (props.page ? null : (props.id ?? null)),
  (signal) => api.modulePage(props.id!, signal),
)
const answer = computed(() => props.page ?? asked.value)
/** The Tideline's moment on a sub-array of this module, where the open scheme has one. */
const store = useSchemeStore()
const moment = useMoment()
const strings = computed(() => store.subarrays.find((s) => s.module === props.id))
const subarray = computed(() => strings.value?.id ?? '')
const { answer: now } = useAnswer(
  () =>
    !props.page && subarray.value && store.saved && store.evaluation?.headline
      ? `${store.saved.id}:${subarray.value} ${store.saved.revision} ${moment.interval.value}`
      : null,
  (signal) => api.trackerCurve(store.saved!.id, subarray.value, moment.interval.value, signal),
)
const light = computed(() => now.value?.members.find((m) => m.subarray === subarray.value) ?? null)
const { answer: momentPage } = useAnswer(
  () =>
    light.value && light.value.irradiance > 1
      ? `${props.id} ${light.value.irradiance} ${light.value.cell_temperature}`
      : null,
  (signal) => api.modulePage(props.id!, signal, light.value!),
)
const momentCurve = computed(() => momentPage.value?.moment ?? null)
const by = ref<'light' | 'heat'>('light')
const isPower = ref(false)
const [WIDTH, HEIGHT, LEFT, FOOT, TOP, RIGHT] = [430, 330, 40, 302, 12, 84]
const curves = computed(() => (by.value === 'light' ? answer.value?.by_light : answer.value?.by_heat) ?? [])
const valuesOf = (curve: { voltage: number[]; current: number[] }) =>
  isPower.value ? curve.current.map((a, i) => a * curve.voltage[i]!) : curve.current
const most = computed(() => ({
  x: Math.max(1, ...curves.value.map((c) => c.voltage.at(-1)!)) * 1.02,
  y: Math.max(0.1, ...curves.value.flatMap(valuesOf)) * 1.06,
}))
const x = computed(() => scale([0, most.value.x], [LEFT, WIDTH - RIGHT]))
const y = computed(() => scale([0, most.value.y], [FOOT, TOP]))
const path = (c: { voltage: number[]; current: number[] }) =>
  pathThrough(valuesOf(c).map((v, i) => [x.value(c.voltage[i]!), y.value(v)]))
const nameOf = (c: { irradiance: number; cell_temperature: number }) =>
  by.value === 'light' ? `${number(c.irradiance)} W/m²` : `${quantity(c.cell_temperature, '°C')}`
const ticks = (highest: number) => axisLines(0, highest, 5)
const range = computed(() => {
  const all = answer.value?.efficiency.flat() ?? [0, 1]
  return { low: Math.min(...all), high: Math.max(...all) }
})
const colour = (e: number) => rampCss((e - range.value.low) / Math.max(1e-9, range.value.high - range.value.low))
</script>
<template>
  <div class="page" :class="{ inside: page }" role="dialog" :aria-label="`Curves of ${answer?.title ?? 'the module'}`">
    <header role="none">
      <h2>{{ answer?.title ?? '…' }}</h2>
      <template v-for="k in ['light', 'heat'] as const" :key="k">
        <button type="button" class="link" :aria-pressed="by === k" @click="by = k">
          {{ k === 'light' ? 'by irradiance' : 'by temperature' }}
        </button>
      </template>
      <button type="button" class="link" :aria-pressed="!isPower" @click="isPower = false">current</button>
      <button type="button" class="link" :aria-pressed="isPower" @click="isPower = true">power</button>
      <button v-if="!page" type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div v-else-if="answer" class="two">
      <figure>
        <svg
          :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
          width="100%"
          role="img"
          :aria-label="`${isPower ? 'Power' : 'Current'} over voltage ${by === 'light' ? 'by irradiance at 25 °C' : 'by cell temperature at 1000 W/m²'}`"
        >
          <path :d="`M${LEFT} ${TOP}V${FOOT}H${WIDTH - RIGHT}`" class="axis" />
          <text v-for="v in ticks(most.x)" :key="`x${v}`" :x="x(v)" :y="FOOT + 15" text-anchor="middle">
            {{ number(v) }}{{ v === ticks(most.x).at(-1) ? ' V' : '' }}
          </text>
          <text v-for="v in ticks(most.y)" :key="`y${v}`" :x="LEFT - 6" :y="y(v) + 4" text-anchor="end">
            {{ number(v, v % 1 ? 1 : 0) }}{{ v === ticks(most.y).at(-1) ? (isPower ? ' W' : ' A') : '' }}
          </text>
          <g v-if="momentCurve" class="moment">
            <path :d="path(momentCurve)" />
            <circle
              :cx="x(momentCurve.maximum_voltage)"
              :cy="y(isPower ? momentCurve.maximum_voltage * momentCurve.maximum_current : momentCurve.maximum_current)"
              r="3.4"
            />
          </g>
          <g v-for="(c, i) in curves" :key="nameOf(c)">
            <path :d="path(c)" class="curve" :style="{ opacity: 1 - i * 0.15 }" />
            <circle
              :cx="x(c.maximum_voltage)"
              :cy="y(isPower ? c.maximum_voltage * c.maximum_current : c.maximum_current)"
              r="3"
            />
            <text
              :x="WIDTH - RIGHT + 6"
              :y="by === 'light' ? y(valuesOf(c)[isPower ? 34 : 4]!) + 4 : TOP + 12 + i * 16"
            >
              {{ nameOf(c) }}
            </text>
          </g>
        </svg>
        <figcaption class="soft">
          {{ by === 'light' ? 'At 25 °C cell temperature.' : 'At 1,000 W/m², from cold (dark) to hot (light).' }} Points
          mark the maximum power.
          <template v-if="momentCurve">
            Gold: {{ moment.words(moment.interval.value) }} on {{ strings?.name }},
            {{ number(momentCurve.irradiance) }} W/m² at {{ quantity(momentCurve.cell_temperature, '°C') }},
            {{ number(momentCurve.maximum_voltage * momentCurve.maximum_current) }} W.
          </template>
        </figcaption>
      </figure>
      <div>
        <dl class="ruled">
          <div>
            <dt>Maximum power against the datasheet</dt>
            <dd>{{ signed(answer.power_error * 100, 3) }} %</dd>
          </div>
          <div>
            <dt>Temperature coefficients Voc, power</dt>
            <dd>{{ number(answer.voc_coefficient, 3) }}, {{ number(answer.power_coefficient, 3) }} %/K</dd>
          </div>
          <div>
            <dt>Light current, series resistance</dt>
            <dd>{{ plain(answer.light_current) }} A, {{ plain(answer.series_resistance) }} Ω</dd>
          </div>
          <div>
            <dt>Shunt resistance, ideality</dt>
            <dd>{{ plain(answer.shunt_resistance) }} Ω, {{ number(answer.ideality, 3) }}</dd>
          </div>
        </dl>
        <p v-if="answer.low_light.length" class="soft small">
          Low light, datasheet and fit:
          <span v-for="[light, stated, found] in answer.low_light" :key="light"
            >{{ number(light) }} W/m² {{ percent(stated) }}, {{ percent(found) }}.
          </span>
        </p>
        <p v-for="finding in answer.findings" :key="finding" class="care">△ {{ finding }}</p>
        <table class="map" aria-label="Efficiency by irradiance and cell temperature">
          <caption class="soft">
            Efficiency by irradiance [W/m²] and cell temperature,
            {{
              percent(range.low)
            }}
            to
            {{
              percent(range.high)
            }}
          </caption>
          <thead>
            <tr>
              <th scope="col"><span class="sr">Condition</span></th>
              <th v-for="g in answer.map_lights" :key="g">{{ g % 200 ? '' : number(g) }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(row, i) in answer.efficiency" :key="i">
              <th>{{ quantity(answer.map_heats[i]!, '°C') }}</th>
              <td
                v-for="(e, j) in row"
                :key="j"
                :style="{ background: colour(e) }"
                :title="`${number(answer.map_lights[j]!)} W/m², ${number(answer.map_heats[i]!)} °C: ${percent(e, 2)}`"
              >
                <span class="sr">{{ percent(e, 2) }}</span>
              </td>
            </tr>
          </tbody>
        </table>
        <p class="soft small">One diode, five parameters (De Soto, Klein and Beckman 2006).</p>
      </div>
    </div>
    <CurveFit v-if="id && !page" :id="id" />
  </div>
</template>
<style scoped>
.page {
  background: var(--sheet);
  border-radius: 12px;
  padding: 16px 22px;
  display: grid;
  gap: 10px;
  font-size: 12.5px;
}
.page.inside {
  padding: 0;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h2 {
  margin-right: auto;
}
.two {
  display: grid;
  grid-template-columns: 430fr 380fr;
  gap: 22px;
}
figure {
  margin: 0;
}
text {
  font-size: 11px;
  fill: var(--soft);
}
path {
  fill: none;
}
.axis {
  stroke: var(--rule-strong);
}
.curve {
  stroke: var(--current);
  stroke-width: 1.8;
}
circle {
  fill: var(--ink);
}
.moment path {
  stroke: var(--sun);
  stroke-width: 2.2;
}
.moment circle {
  fill: var(--sun);
}
.map {
  border-spacing: 1px;
  border-collapse: separate;
  width: 100%;
  table-layout: fixed;
  font-size: 11px;
  margin-top: 10px;
}
.map caption {
  text-align: left;
  font-size: 12px;
  margin-bottom: 2px;
}
.map th {
  font-weight: 400;
  color: var(--soft);
  white-space: nowrap;
  overflow: visible;
}
.map th:first-child {
  width: 44px;
  text-align: right;
  padding-right: 4px;
}
.map td {
  height: 14px;
}
.small {
  font-size: 11.5px;
}
</style>
