<script setup lang="ts">
import { computed, ref } from 'vue'
import { axisLines, pathThrough, scale } from '@/charts/picture'
import { api, type InverterPage } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { number, power } from '@/theme/format'

/** An inverter in pictures: efficiency by load and voltage, its window, what heat and height leave. */
const props = defineProps<{ id?: string; page?: InverterPage | null }>()
const emit = defineEmits<{ close: [] }>()
const { answer: asked, fault } = useAnswer(
  () => (props.page ? null : (props.id ?? null)),
  (signal) => api.inverterPage(props.id!, signal),
)
const answer = computed(() => props.page ?? asked.value)
const [WIDTH, HEIGHT, LEFT, FOOT, TOP, RIGHT] = [430, 300, 44, 270, 12, 74]
const lowest = computed(() => {
  const all = answer.value?.lines.flatMap((line) => line.efficiency.slice(2)) ?? [80]
  return Math.floor(Math.min(...all) / 2) * 2
})
const highest = computed(() => Math.max(...(answer.value?.lines.flatMap((line) => line.efficiency) ?? [100])) + 0.4)
const x = scale([0, 1], [LEFT, WIDTH - RIGHT])
const up = computed(() => scale([lowest.value, Math.max(lowest.value + 1, highest.value)], [FOOT, TOP]))
const y = (e: number) => up.value(Math.max(e, lowest.value))
const path = (efficiency: number[]) => pathThrough(efficiency.map((e, i) => [x(answer.value!.loads[i]!), y(e)]))
const ticks = computed(() => axisLines(lowest.value, highest.value, 6))
const label = (i: number) => y(answer.value!.lines[i]!.efficiency.at(-1)!)
/** Labels of curves that end close together make room for one another. */
const labels = computed(() => {
  const order = (answer.value?.lines ?? []).map((_, i) => ({ i, y: label(i) })).toSorted((a, b) => a.y - b.y)
  order.forEach((one, n) => {
    if (n && one.y < order[n - 1]!.y + 13) one.y = order[n - 1]!.y + 13
  })
  return new Map(order.map((one) => [one.i, one.y]))
})
const span = computed(() => ({ from: 0, to: (answer.value?.maximum ?? 1000) * 1.06 }))
const volts = (v: number) => 10 + (v / span.value.to) * 360
const by = ref<'heat' | 'height'>('heat')
const derated = computed(() => {
  const a = answer.value
  if (!a) return ''
  const [at, share] = by.value === 'heat' ? [a.heats, a.by_heat] : [a.heights, a.by_height]
  const along = scale([at[0]!, at.at(-1)!], [40, 360])
  return pathThrough(share.map((s, i) => [along(at[i]!), 82 - s * 70]))
})
</script>
<template>
  <div
    class="page"
    :class="{ inside: page }"
    role="dialog"
    :aria-label="`Curves of ${answer?.title ?? 'the inverter'}`"
  >
    <header role="none" v-if="!page">
      <h2>{{ answer?.title ?? '…' }}</h2>
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div v-else-if="answer" class="two">
      <figure>
        <svg
          :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
          width="100%"
          role="img"
          aria-label="Efficiency over load by input voltage"
        >
          <path :d="`M${LEFT} ${TOP}V${FOOT}H${WIDTH - RIGHT}`" class="axis" />
          <g v-for="e in ticks" :key="e">
            <path :d="`M${LEFT} ${y(e)}H${WIDTH - RIGHT}`" class="rule" />
            <text :x="LEFT - 6" :y="y(e) + 4" text-anchor="end">{{ number(e) }} %</text>
          </g>
          <text
            v-for="p in [0, 0.2, 0.4, 0.6, 0.8, 1]"
            :key="p"
            :x="x(p) - (p === 1 ? 9 : 0)"
            :y="FOOT + 15"
            :text-anchor="p === 1 ? 'start' : 'middle'"
          >
            {{ number(p * 100) }}{{ p === 1 ? ' % of rated' : '' }}
          </text>
          <g v-for="(line, i) in answer.lines" :key="line.voltage">
            <path :d="path(line.efficiency)" class="curve" :style="{ opacity: 1 - i * 0.25 }" />
            <circle
              v-for="[p, e] in line.points"
              :key="p"
              :cx="x(p)"
              :cy="y(e)"
              r="2.4"
              :style="{ opacity: 1 - i * 0.25 }"
            />
            <text :x="WIDTH - RIGHT + 6" :y="labels.get(i)! + 4">{{ number(line.voltage) }} V</text>
          </g>
        </svg>
        <figcaption class="soft">
          {{
            answer.is_from_points
              ? 'Points are the datasheet’s, lines the loss polynomial through them.'
              : 'From the peak and the European efficiency alone.'
          }}
        </figcaption>
      </figure>
      <div>
        <table class="ledger">
          <thead>
            <tr>
              <th>Input</th>
              <th class="num">European</th>
              <th class="num">Californian</th>
              <th v-if="answer.is_from_points" class="num">Worst point off by</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in answer.lines" :key="line.voltage">
              <td>{{ number(line.voltage) }} V</td>
              <td class="num">{{ number(line.european, 2) }} %</td>
              <td class="num">{{ number(line.californian, 2) }} %</td>
              <td v-if="answer.is_from_points" class="num">{{ number(line.worst, 2) }} points</td>
            </tr>
          </tbody>
        </table>
        <p class="soft small">
          Without output it takes {{ power(answer.no_load) }}. Loss polynomial: Schmidt and Sauer 1996.
        </p>
        <h3>Input voltage</h3>
        <svg viewBox="0 0 400 62" width="100%" role="img" aria-label="Voltages of the input">
          <rect
            :x="volts(answer.lowest)"
            y="18"
            :width="volts(answer.highest) - volts(answer.lowest)"
            height="18"
            class="window"
          />
          <rect
            :x="volts(answer.full_power)"
            y="18"
            :width="volts(answer.highest) - volts(answer.full_power)"
            height="18"
            class="window"
          />
          <path :d="`M10 36H380`" class="axis" />
          <path :d="`M${volts(answer.maximum)} 12V40`" class="limit" />
          <path :d="`M${volts(answer.start)} 14V40`" class="start" />
          <text :x="volts(answer.start)" y="10" text-anchor="middle">starts at {{ number(answer.start) }}</text>
          <text :x="volts(answer.lowest)" y="50" text-anchor="middle">{{ number(answer.lowest) }}</text>
          <text :x="volts(answer.full_power)" y="50" text-anchor="middle">{{ number(answer.full_power) }}</text>
          <text :x="volts(answer.highest)" y="50" text-anchor="middle">{{ number(answer.highest) }}</text>
          <text :x="volts(answer.maximum)" y="10" text-anchor="end" class="max">
            at most {{ number(answer.maximum) }} V
          </text>
        </svg>
        <h3>
          Derating
          <small v-if="answer.has_derating">
            <button type="button" class="link" :aria-pressed="by === 'heat'" @click="by = 'heat'">
              by temperature
            </button>
            <button type="button" class="link" :aria-pressed="by === 'height'" @click="by = 'height'">by height</button>
          </small>
        </h3>
        <svg
          v-if="answer.has_derating"
          viewBox="0 0 400 104"
          width="100%"
          role="img"
          aria-label="Share of rated power that is left"
        >
          <path d="M40 12V82H360" class="axis" />
          <text x="34" y="16" text-anchor="end">100 %</text>
          <text x="34" y="86" text-anchor="end">0</text>
          <path :d="derated" class="curve" />
          <text x="40" y="98" text-anchor="middle">{{ by === 'heat' ? '20 °C' : '0 m' }}</text>
          <text x="360" y="98" text-anchor="middle">{{ by === 'heat' ? '80 °C' : '5,000 m' }}</text>
        </svg>
        <p v-else class="soft small">The datasheet says nothing of it: rated power at any temperature and height.</p>
      </div>
    </div>
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
h3 {
  margin-top: 8px;
}
h3 small {
  font: 12px var(--sans);
  margin-left: 8px;
  display: inline-flex;
  gap: 10px;
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
.rule {
  stroke: var(--rule);
}
.curve {
  stroke: var(--current);
  stroke-width: 1.8;
}
circle {
  fill: var(--current);
}
.window {
  fill: var(--current);
  opacity: 0.16;
}
.limit {
  stroke: var(--loss);
  stroke-width: 1.8;
}
.max {
  fill: var(--loss-text);
}
.start {
  stroke: var(--sun);
  stroke-width: 1.8;
}
.small {
  font-size: 11.5px;
}
</style>
