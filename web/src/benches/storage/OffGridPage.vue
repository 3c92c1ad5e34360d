<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { pathThrough, scale } from '@/charts/picture'
import { api } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import MonthBars from '@/charts/MonthBars.vue'
import { axisStep, axisText } from '@/charts/dayShape'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { number, percent, plain } from '@/theme/format'
import { rampCss } from '@/theme/ramp'
import BusLine from './BusLine.vue'

/** A place without a grid: the worksheet as a derivation, and beside it what the same system does in every hour, over all sizes. */
const store = useSchemeStore()
const working = useWorking()
const AT = '/storage/off_grid'
const { answer, fault } = useAnswer(
  () => (store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision}` : null),
  (signal) => api.offGrid(store.shown!.id, signal),
)
/** The last run over the years of the record, which is begun on the Weather bench. */
const { answer: record } = useAnswer(
  () => (store.shown ? `${store.shown.id}` : null),
  (signal) => api.latestJob(store.shown!.id, 'years', signal),
)
const generator = computed(() => store.at(`${AT}/generator`) as { quiet?: string } | undefined)
const [HEIGHT, TOP, BASE, LEFT] = [286, 10, 252, 46]
const width = useDrawnWidth(useTemplateRef('chart'), 340, 240)
const cellWidth = computed(() => (width.value - LEFT - 8) / Math.max(answer.value?.arrays.length ?? 1, 1))
const cellHeight = computed(() => (BASE - TOP) / Math.max(answer.value?.batteries.length ?? 1, 1))
const mostArray = computed(() => answer.value?.arrays.at(-1) ?? 1)
const mostBattery = computed(() => answer.value?.batteries.at(-1) ?? 1)
const x = computed(() => scale([0, mostArray.value], [LEFT, width.value - 8]))
const y = computed(() => scale([0, mostBattery.value], [BASE, TOP]))
/** From dark, where most is missing, to light, where nothing is; by powers of ten from all down to a thousandth. */
const tone = (share: number) => rampCss(1 - Math.min(1, Math.max(0, (Math.log10(Math.max(share, 1e-3)) + 3) / 3)))
const cells = computed(() =>
  (answer.value?.loss ?? []).flatMap((row, j) =>
    row.map((share, i) => ({
      key: `${i} ${j}`,
      x: LEFT + i * cellWidth.value,
      y: BASE - (j + 1) * cellHeight.value,
      share,
    })),
  ),
)
const contours = computed(() => {
  const a = answer.value
  if (!a) return []
  return a.lines
    .map(({ level, batteries }) => {
      const points = batteries.flatMap((energy, i) =>
        energy === null ? [] : [{ x: x.value(a.arrays[i]!), y: y.value(energy) }],
      )
      return {
        level,
        points,
        path: pathThrough(points.map((p) => [p.x, p.y])),
      }
    })
    .filter((line) => line.points.length > 1)
})
/** Lines of equal cost, with the place of their figure: where they leave the map at the left or at the top. */
const costs = computed(() =>
  (answer.value?.cost_lines ?? []).map((line) => {
    const leaves = line.battery <= mostBattery.value ? 0 : line.array * (1 - mostBattery.value / line.battery)
    return { ...line, x: x.value(leaves), y: y.value(Math.min(line.battery, mostBattery.value)) }
  }),
)
const sheetArray = computed(() => answer.value?.worksheet.find((line) => line.key === 'array')?.value ?? null)
const sheetBattery = computed(() => answer.value?.worksheet.find((line) => line.key === 'battery')?.value ?? null)
/** The size that is pointed at, or walked to with the arrow keys. */
const at = ref<{ i: number; j: number; energy: number; share: number; array: number } | null>(null)
function cellAt(i: number, j: number) {
  const a = answer.value!
  const share = a.loss[j]?.[i]
  return share === undefined ? null : { i, j, energy: a.batteries[j]!, array: a.arrays[i]!, share }
}
function under(event: PointerEvent | MouseEvent) {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  const i = Math.floor((event.clientX - box.left - LEFT) / cellWidth.value)
  return cellAt(i, Math.floor((BASE - (event.clientY - box.top)) / cellHeight.value))
}
const nearest = (values: number[], value: number) =>
  values.reduce((best, v, i) => (Math.abs(v - value) < Math.abs(values[best]! - value) ? i : best), 0)
const STEPS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowDown: [0, -1],
  ArrowUp: [0, 1],
}
function walk(event: KeyboardEvent) {
  const a = answer.value!
  const step = STEPS[event.key]
  if (step) {
    event.preventDefault()
    const here = at.value ?? cellAt(nearest(a.arrays, a.array), nearest(a.batteries, a.battery))!
    at.value = cellAt(here.i + step[0], here.j + step[1]) ?? here
  } else if (event.key === 'Enter' && at.value) {
    event.preventDefault()
    void take(at.value.array, at.value.energy)
  } else if (event.key === 'Escape') at.value = null
}
function click(event: MouseEvent) {
  const found = under(event)
  if (found) void take(found.array, found.energy)
}
/** Array and battery together; where the modules have places on the scene, the battery alone. */
const take = (array: number, energy: number) =>
  answer.value!.is_laid ? store.act('size-battery', { energy }) : store.act('size-system', { array, energy })
const text = (value: number | null) => (value === null ? 'none' : value % 1 ? plain(value) : number(value))
</script>
<template>
  <section class="place">
    <p v-if="fault" class="soft">{{ fault }}</p>
    <div v-if="answer" class="two">
      <div>
        <table class="ledger" aria-label="Worksheet">
          <thead>
            <tr>
              <th scope="col">By the worksheet</th>
              <th scope="col" class="num">proposed</th>
              <th scope="col" class="num">yours</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in answer.worksheet" :key="line.key">
              <th scope="row">
                {{ line.title }} <small class="soft">{{ line.rule }}</small>
              </th>
              <td class="num">
                <b>{{ text(line.value) }}</b> {{ line.unit }}
              </td>
              <td
                class="num"
                :class="{ care: line.is_short, good: line.verdict && !line.is_short }"
                :title="line.verdict"
              >
                {{ line.chosen === null ? '' : text(line.chosen) }}
              </td>
            </tr>
          </tbody>
        </table>
        <p
          v-for="line in answer.worksheet.filter((l) => l.verdict)"
          :key="line.key"
          :class="line.is_short ? 'care' : 'good'"
          class="verdict"
        >
          {{ [line.title, text(line.chosen), line.unit].filter(Boolean).join(' ') }}: {{ line.verdict }}
        </p>
        <p class="said">
          <BriefNumber :pointer="`${AT}/autonomy`" label="Days without sun" /> without sun, down to a depth of
          <BriefNumber :pointer="`${AT}/depth`" label="Depth of discharge" />, an array that performs at
          <BriefNumber :pointer="`${AT}/performance`" label="Performance of the array" />,
          <BriefNumber :pointer="`${AT}/voltage`" label="System voltage" />, an inverter
          <BriefNumber :pointer="`${AT}/inverter_margin`" label="Margin of the inverter" /> over the peak.
        </p>
        <BusLine />
        <p class="said">
          <a class="link" :href="api.offGridSheet(store.shown!.id)">Summary on one page (PDF)</a>
        </p>
        <p class="said">
          <button v-if="!generator" type="button" class="link" @click="store.edit(patchAt(`${AT}/generator`, {}))">
            Add a generator
          </button>
          <template v-else
            >A generator of <BriefNumber :pointer="`${AT}/generator/power`" label="Power of the generator" /> starts at
            <BriefNumber :pointer="`${AT}/generator/start`" label="Starts at a charge of" /> and stops at
            <BriefNumber :pointer="`${AT}/generator/stop`" label="Stops at a charge of" />, with at least
            <BriefNumber :pointer="`${AT}/generator/least`" label="Least load" /> of its power; quiet at
            <BriefText
              :value="generator.quiet ?? ''"
              label="Quiet hours, such as 22-7"
              @change="store.edit(patchAt(`${AT}/generator/quiet`, $event || null))"
            />.
            <button type="button" class="link" @click="store.edit(patchAt(`${AT}/generator`, null))">
              Remove it
            </button></template
          >
        </p>
      </div>
      <div>
        <p class="head serif">
          Share of the energy that is missing in a year{{ generator ? ', without the generator' : '' }}
        </p>
        <div
          class="walked"
          tabindex="0"
          role="group"
          aria-label="Sizes on the map: arrow keys walk over them, Enter takes one"
          @keydown="walk"
          @blur="at = null"
        >
          <svg
            ref="chart"
            :viewBox="`0 0 ${width} ${HEIGHT}`"
            width="100%"
            :height="HEIGHT"
            role="img"
            :aria-label="`Map of sizes: ${percent(answer.proof.loss_of_load, 2)} is missing at ${number(answer.array, 1)} kW and ${number(answer.battery, 1)} kWh`"
            @pointermove="at = under($event)"
            @pointerleave="at = null"
            @click="click"
          >
            <rect
              v-for="cell in cells"
              :key="cell.key"
              :x="cell.x"
              :y="cell.y"
              :width="cellWidth + 0.5"
              :height="cellHeight + 0.5"
              :fill="tone(cell.share)"
            />
            <clipPath id="size-map">
              <rect :x="LEFT" :y="TOP" :width="width - LEFT - 8" :height="BASE - TOP" />
            </clipPath>
            <g v-for="line in costs" :key="line.cost">
              <line
                :x1="x(0)"
                :y1="y(line.battery)"
                :x2="x(line.array)"
                :y2="y(0)"
                clip-path="url(#size-map)"
                stroke="#fffdf8"
                stroke-dasharray="2 4"
                stroke-width="1.4"
              />
              <text :x="line.x + 4" :y="line.y + 13" class="cost" font-size="10.5">{{ number(line.cost) }}</text>
            </g>
            <template v-for="line in contours" :key="line.level">
              <path :d="line.path" fill="none" stroke="#1b2a3a" :stroke-width="line.level === 0.01 ? 2 : 1" />
              <text
                :x="line.points[Math.floor(line.points.length / 3)]!.x + 3"
                :y="line.points[Math.floor(line.points.length / 3)]!.y - 4"
                font-size="11"
                font-weight="600"
                style="fill: #1b2a3a"
              >
                {{ number(line.level * 100, line.level < 0.01 ? 1 : 0) }} %
              </text>
            </template>
            <circle
              v-if="
                sheetArray !== null && sheetBattery !== null && sheetArray <= mostArray && sheetBattery <= mostBattery
              "
              :cx="x(sheetArray)"
              :cy="y(sheetBattery)"
              r="6"
              fill="none"
              stroke="#fffdf8"
              stroke-width="2.5"
            >
              <title>worksheet</title>
            </circle>
            <path
              v-if="answer.cheapest"
              :d="`M${x(answer.cheapest.array)} ${y(answer.cheapest.battery) - 8}l8 8l-8 8l-8 -8z`"
              fill="#3f7d58"
              stroke="#fffdf8"
              stroke-width="2"
            >
              <title>cheapest</title>
            </path>
            <rect
              v-if="at"
              :x="LEFT + at.i * cellWidth"
              :y="BASE - (at.j + 1) * cellHeight"
              :width="cellWidth"
              :height="cellHeight"
              fill="none"
              stroke="#fffdf8"
              stroke-width="2"
            />
            <circle
              :cx="x(answer.array)"
              :cy="y(answer.battery)"
              r="6"
              fill="#2f5d8c"
              stroke="#fffdf8"
              stroke-width="2"
            >
              <title>yours</title>
            </circle>
            <g font-size="11" style="fill: var(--soft)">
              <text
                v-for="(v, i) in [1, 2, 3, 4].map((n) => n * axisStep(mostArray, 4)).filter((n) => n <= mostArray)"
                :key="i"
                :x="x(v)"
                :y="BASE + 15"
                text-anchor="middle"
              >
                {{ axisText(v, axisStep(mostArray, 4)) }}
              </text>
              <text
                v-for="(v, i) in [1, 2, 3, 4, 5]
                  .map((n) => n * axisStep(mostBattery, 4))
                  .filter((n) => n <= mostBattery)"
                :key="`b${i}`"
                :x="LEFT - 5"
                :y="y(v) + 4"
                text-anchor="end"
              >
                {{ axisText(v, axisStep(mostBattery, 4)) }}
              </text>
              <text :x="width - 8" :y="BASE + 30" text-anchor="end">kW of array across, kWh of battery up</text>
            </g>
          </svg>
        </div>
        <p class="soft note" role="status">
          <template v-if="at"
            >{{ number(at.array, 1) }} kW, {{ number(at.energy, 1) }} kWh: <b>{{ percent(at.share, 2) }}</b> missing
          </template>
          <template v-else
            >● yours, ○ the worksheet<template v-if="answer.cheapest">, ◆ the cheapest</template
            ><template v-if="costs.length">; dashed: equal cost a year, in {{ answer.currency }}</template
            >. Click, or arrow keys and Enter, to take
            {{
              answer.is_laid ? 'a battery: the modules have their places on the scene' : 'array and battery'
            }}.</template
          >
        </p>
        <p class="said">
          At most <BriefNumber :pointer="`${AT}/accepted_loss`" label="Share of the energy that may be missing" /> may
          be missing. {{ answer.words }}
          <button
            v-if="answer.cheapest"
            type="button"
            class="link"
            @click="take(answer.cheapest.array, answer.cheapest.battery)"
          >
            {{ answer.is_laid ? 'Take the battery' : 'Take it' }}
          </button>
        </p>
        <p class="said serif">
          Yours leaves
          <button type="button" class="go" @click="working.show('dark_hours')">
            {{ number(answer.proof.dark_hours) }} hours
          </button>
          dark, {{ number(answer.proof.longest_gap) }} h at a stretch;
          <button type="button" class="go" @click="working.show('lost_load')">
            {{ percent(answer.proof.loss_of_load, 2) }}
          </button>
          of the energy is missing, and {{ number(answer.proof.unused) }} kWh of the sun are not used. The charge is
          {{ percent(answer.proof.mean_charge, 0) }} in the mean, {{ percent(answer.proof.lowest, 0) }} at the lowest.
          <template v-if="answer.proof.generator_hours"
            >The generator runs {{ number(answer.proof.generator_hours) }} h in
            {{ number(answer.proof.generator_starts) }} starts and takes
            <button type="button" class="go" @click="working.show('fuel')">{{ number(answer.proof.fuel) }} l</button
            >. </template
          >{{ answer.proof.words }}
          <template v-if="record?.result?.dark_words"
            >{{ record.result.dark_words }}
            <template v-if="record.result.revision !== store.saved?.revision"
              >That is of an earlier state of the scheme.
            </template>
          </template>
          <template v-if="answer.served_cost !== null"
            >A kWh that is served costs
            <button type="button" class="go" @click="working.show('levelised_cost')">
              {{ number(answer.served_cost, 2) }} {{ answer.currency }}</button
            >, all years together.</template
          >
        </p>
        <MonthBars
          v-if="answer.proof.dark_hours"
          :values="answer.proof.dark_by_month"
          unit="h"
          label="Dark hours by month"
          :height="74"
        />
      </div>
    </div>
  </section>
</template>
<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: 26px;
}
.two > div {
  display: grid;
  gap: 6px;
  align-content: start;
}
.two > div {
  min-width: 0;
}
.ledger th[scope='row'] {
  font-weight: 400;
  white-space: normal;
}
.ledger small {
  display: block;
  white-space: normal;
  font-size: 11px;
}
td,
th {
  padding: 3px 6px !important;
}
.verdict {
  font-size: 12px;
  font-weight: 600;
}
.said {
  font-size: 13px;
  line-height: 1.6;
}
.head {
  font-weight: 600;
  font-size: 13.5px;
}
.note {
  font-size: 12px;
}
.cost {
  fill: #fffdf8;
  paint-order: stroke;
  stroke: #1b2a3a99;
  stroke-width: 2.5px;
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
svg {
  cursor: crosshair;
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: 1fr;
  }
}
</style>
