<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { pathThrough } from '@/charts/picture'
import type { Acts, PriceAnswer } from '@/api/client'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { patchAt } from '@/api/mergePatch'
import { freshId } from '@/stores/schemeLists'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { rampCss } from '@/theme/ramp'
import { MONTHS, number } from '@/theme/format'
import PriceTiers from './PriceTiers.vue'
import { periodTones } from './useMoney'

/** The week of a season painted with prices: a period is picked as a brush and drawn over the hours. */
const props = defineProps<{ price: PriceAnswer; side: 'energy' | 'export'; currency: string }>()
const store = useSchemeStore()
const grid = useTemplateRef<SVGSVGElement>('grid')
const KINDS = ['weekday', 'saturday', 'sunday', 'holiday'] as const
/** Seven days of the week and the holiday, by the kind of day that each is. */
const DAYS = [
  { text: 'Mo', kind: 0 },
  { text: 'Tu', kind: 0 },
  { text: 'We', kind: 0 },
  { text: 'Th', kind: 0 },
  { text: 'Fr', kind: 0 },
  { text: 'Sa', kind: 1 },
  { text: 'Su', kind: 2 },
  { text: 'Hol', kind: 3 },
]
const [LEFT, TOP, CELL, ROW] = [26, 16, 31, 3.4]
const [WIDTH, HEIGHT] = [LEFT + DAYS.length * CELL, TOP + 48 * ROW + 4]
const season = ref(0)
const brush = ref('')
const week = computed(() => props.price.weeks[Math.min(season.value, props.price.weeks.length - 1)]!)
const tones = computed(() => periodTones(props.price.periods))
const isPainted = computed(() => props.price.form === 'periods')
const chosen = computed(() =>
  props.price.periods[brush.value] ? brush.value : (Object.keys(props.price.periods)[0] ?? ''),
)
const all = computed(() => props.price.weeks.flatMap((w) => w.prices.flat()))
const span = computed(() => ({ low: Math.min(...all.value), high: Math.max(...all.value) }))
const stroke = ref<{ day: number; from: number; to: number; lastDay: number } | null>(null)
function fill(kind: number, slot: number): string {
  const painting = stroke.value
  if (painting) {
    const [a, b] = [Math.min(painting.from, painting.to), Math.max(painting.from, painting.to)]
    if (paintedKinds.value.includes(kind) && slot >= a && slot <= b)
      return tones.value[chosen.value] ?? 'var(--current)'
  }
  if (isPainted.value) return tones.value[week.value.periods[kind]![slot]!] ?? 'var(--haze)'
  const { low, high } = span.value
  if (high - low < 1e-9) return 'color-mix(in oklab, var(--current) 45%, var(--sheet))'
  return rampCss((week.value.prices[kind]![slot]! - low) / (high - low))
}
const paintedKinds = computed(() => {
  const painting = stroke.value
  if (!painting) return []
  const [a, b] = [Math.min(painting.day, painting.lastDay), Math.max(painting.day, painting.lastDay)]
  return [...new Set(DAYS.slice(a, b + 1).map((d) => d.kind))]
})
function cellOf(event: PointerEvent) {
  const box = grid.value!.getBoundingClientRect()
  const scale = WIDTH / box.width
  const [px, py] = [(event.clientX - box.left) * scale, (event.clientY - box.top) * scale]
  return {
    day: Math.min(DAYS.length - 1, Math.max(0, Math.floor((px - LEFT) / CELL))),
    slot: Math.min(47, Math.max(0, 47 - Math.floor((py - TOP) / ROW))),
  }
}
function start(event: PointerEvent) {
  if (!props.price.can_be_painted || !chosen.value || !isPainted.value) return
  const { day, slot } = cellOf(event)
  stroke.value = { day, lastDay: day, from: slot, to: slot }
  grid.value!.setPointerCapture(event.pointerId)
}
function move(event: PointerEvent) {
  if (!stroke.value) return
  const { day, slot } = cellOf(event)
  stroke.value = { ...stroke.value, lastDay: day, to: slot }
}
async function end() {
  const painting = stroke.value
  if (!painting) return
  const [a, b] = [Math.min(painting.from, painting.to), Math.max(painting.from, painting.to)]
  await store.act('paint-week', {
    side: props.side,
    season: week.value.key,
    days: paintedKinds.value.map((kind) => KINDS[kind]!),
    start: a * 30,
    end: (b + 1) * 30,
    period: chosen.value,
  })
  stroke.value = null
}
/** The same by keyboard: hours typed for days of a kind. */
const typed = ref<{ days: (typeof KINDS)[number] | 'all'; from: string; to: string }>({
  days: 'weekday',
  from: '17',
  to: '21',
})
const minute = (text: string) => {
  const [h, m] = text.split(':').map(Number)
  return Math.round((h ?? 0) * 60 + (m ?? 0))
}
function paintTyped() {
  const days = typed.value.days === 'all' ? [...KINDS] : [typed.value.days]
  void store.act('paint-week', {
    side: props.side,
    season: week.value.key,
    days,
    start: minute(typed.value.from),
    end: minute(typed.value.to),
    period: chosen.value,
  })
}
const at = computed(() => `/money/tariff/${props.side}`)
async function addPeriod() {
  if (!isPainted.value) {
    // One price for all hours becomes the first period of a week.
    await store.act('paint-week', {
      side: props.side,
      season: 'year',
      days: ['weekday'],
      start: 0,
      end: 1440,
      period: 'standard',
    })
  }
  const periods = (store.at(`${at.value}/periods`) ?? {}) as unknown as Record<string, { price: number }>
  const key = freshId('period', Object.keys(periods))
  const price = Math.max(0, ...Object.values(periods).map((p) => p.price))
  store.edit(patchAt(`${at.value}/periods/${key}`, { name: 'new period', price }))
  brush.value = key
}
const months = ref<number[]>([])
const isDividing = ref(false)
async function divide() {
  await store.act('divide-year', { side: props.side, months: months.value.map((m) => m + 1) })
  months.value = []
  isDividing.value = false
}
/** A table of prices by hour, pasted or read from a file of text. */
const isTaking = ref(false)
const table = ref<{ text: string; per: Acts['take-prices']['per'] }>({ text: '', per: 'kWh' })
async function readTable(event: Event) {
  const input = event.target as HTMLInputElement
  const given = input.files?.[0]
  input.value = ''
  if (given) table.value.text = await given.text()
}
async function takeTable() {
  const before = store.at(`${at.value}/table`)
  await store.act('take-prices', { side: props.side, ...table.value })
  if (store.at(`${at.value}/table`) === before) return // refused: what was pasted stays
  table.value.text = ''
  isTaking.value = false
}
const used = (key: string) => props.price.weeks.some((w) => w.periods.some((row) => row.includes(key)))
const flows = computed(() => {
  const top = Math.max(...props.price.weeks.flatMap((w) => [...w.imported.flat(), ...w.exported.flat()]), 1e-9)
  const path = (kind: number, values: number[][], day: number) =>
    pathThrough(
      values[kind]!.map((v, slot) => [LEFT + day * CELL + (v / top) * (CELL - 4), TOP + (47 - slot + 0.5) * ROW]),
    )
  return DAYS.map((d, day) => ({
    taken: path(d.kind, week.value.imported, day),
    given: path(d.kind, week.value.exported, day),
  }))
})
</script>
<template>
  <figure>
    <p v-if="price.weeks.length > 1" class="seasons">
      <button
        v-for="(w, i) in price.weeks"
        :key="w.key"
        type="button"
        class="link"
        :aria-pressed="i === season"
        @click="season = i"
      >
        {{ w.title }}
      </button>
    </p>
    <svg
      ref="grid"
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      :style="{ width: '100%', maxWidth: `${WIDTH}px` }"
      role="img"
      :class="{ brushes: isPainted }"
      :aria-label="`Prices of a week, ${week.title}: ${Object.values(price.periods)
        .map((p) => `${p.name} ${p.price}`)
        .join(', ')}`"
      @pointerdown="start"
      @pointermove="move"
      @pointerup="end"
    >
      <g v-for="(d, day) in DAYS" :key="d.text">
        <text
          :x="LEFT + day * CELL + CELL / 2 - 1"
          y="11"
          font-size="11"
          text-anchor="middle"
          style="fill: var(--soft)"
        >
          {{ d.text }}
        </text>
        <rect
          v-for="slot in 48"
          :key="slot"
          :x="LEFT + day * CELL"
          :y="TOP + (48 - slot) * ROW"
          :width="CELL - 2"
          :height="ROW + 0.15"
          :fill="fill(d.kind, slot - 1)"
        />
        <path :d="flows[day]!.taken" fill="none" stroke="var(--ink)" stroke-width="0.9" opacity="0.75" />
        <path :d="flows[day]!.given" fill="none" stroke="var(--sun)" stroke-width="1.3" />
      </g>
      <text
        v-for="h in [0, 6, 12, 18, 24]"
        :key="h"
        :x="LEFT - 5"
        :y="TOP + (24 - h) * 2 * ROW + 4"
        font-size="11"
        text-anchor="end"
        style="fill: var(--soft)"
      >
        {{ h }}
      </text>
    </svg>
    <ul v-if="price.form !== 'tiers'" class="periods">
      <li v-for="(period, key) in price.periods" :key="key">
        <button
          type="button"
          class="swatch"
          :style="{ background: isPainted ? tones[key] : 'color-mix(in oklab, var(--current) 45%, var(--sheet))' }"
          :aria-pressed="chosen === key"
          :aria-label="`Paint with ${period.name}`"
          :title="isPainted ? 'Paint hours with this price' : ''"
          @click="brush = String(key)"
        />
        <BriefText
          v-if="isPainted"
          :value="period.name"
          :label="`Name of the period ${period.name}`"
          @change="store.edit(patchAt(`${at}/periods/${key}/name`, $event || null))"
        /><span v-else>{{ period.name }}</span>
        <BriefNumber :pointer="period.pointer" :label="`Price of ${period.name}`" unit="" />
        <button
          v-if="isPainted && !used(String(key))"
          type="button"
          class="link"
          :aria-label="`Delete ${period.name}`"
          @click="store.edit(patchAt(`${at}/periods/${key}`, null))"
        >
          ×
        </button>
      </li>
    </ul>
    <PriceTiers v-if="price.form === 'tiers'" :currency="currency" />
    <p v-else-if="price.form === 'table'" class="soft words">
      Prices by hour from a table: {{ number(span.low, 3) }} to {{ number(span.high, 3) }} {{ currency }}, the mean by
      kind of day here.
    </p>
    <p class="words">
      <button v-if="price.can_be_painted" type="button" class="link" @click="addPeriod">Add a price</button>
      <button v-if="isPainted" type="button" class="link" :aria-expanded="isDividing" @click="isDividing = !isDividing">
        Make a season
      </button>
      <button
        v-if="price.form === 'flat' && side === 'energy'"
        type="button"
        class="link"
        @click="store.act('set-tiers', {})"
      >
        Tiers by month
      </button>
      <button type="button" class="link" :aria-expanded="isTaking" @click="isTaking = !isTaking">
        Prices by hour…
      </button>
    </p>
    <div v-if="isTaking" class="taking">
      <textarea
        v-model="table.text"
        rows="5"
        spellcheck="false"
        aria-label="Prices by hour"
        placeholder="Paste a row an hour, of a day or of a year; or 24 hours by 12 months"
      />
      <p class="words">
        of a
        <select v-model="table.per" class="blank" aria-label="Prices of a">
          <option>kWh</option>
          <option>MWh</option>
        </select>
        <label class="link file"
          >From a file…<input type="file" class="sr" accept=".csv,.txt,.tsv,text/plain,text/csv" @change="readTable"
        /></label>
        <button type="button" class="button" :disabled="!table.text.trim()" @click="takeTable">
          Take these prices
        </button>
      </p>
    </div>
    <p v-if="isDividing" class="words">
      <label v-for="(m, i) in MONTHS" :key="m" class="month"
        ><input v-model="months" type="checkbox" :value="i" />{{ m }}</label
      >
      <button type="button" class="button" :disabled="!months.length || months.length > 11" @click="divide">
        Make it a season
      </button>
    </p>
    <p v-if="isPainted" class="soft words typed">
      Draw over the hours, or paint
      <select v-model="typed.days" class="blank" aria-label="Days to paint">
        <option v-for="k in KINDS" :key="k" :value="k">{{ k }}s</option>
        <option value="all">all days</option>
      </select>
      <input v-model="typed.from" class="blank" size="4" aria-label="From hour" /> to
      <input v-model="typed.to" class="blank" size="4" aria-label="To hour" /> with
      <b>{{ price.periods[chosen]?.name }}</b> <button type="button" class="link" @click="paintTyped">Paint</button>
    </p>
    <p class="soft words">Thin line: taken from the grid; yellow: given to it, on an average day.</p>
  </figure>
</template>
<style scoped>
figure {
  margin: 4px 0 0;
}
svg {
  display: block;
  max-width: 100%;
}
svg.brushes {
  cursor: crosshair;
  touch-action: none;
}
.seasons {
  display: flex;
  gap: 12px;
  font-size: 12px;
  margin-bottom: 4px;
}
.periods {
  list-style: none;
  margin: 6px 0 4px;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  font-size: 12px;
}
.periods li {
  display: inline-flex;
  gap: 5px;
  align-items: center;
}
.swatch {
  width: 13px;
  height: 13px;
}
.swatch[aria-pressed='true'] {
  outline: 2px solid var(--ink);
  outline-offset: 1px;
}
.words {
  font-size: 12px;
  margin-top: 3px;
  display: flex;
  gap: 3px 8px;
  flex-wrap: wrap;
  align-items: baseline;
}
.typed {
  display: block;
}
.taking textarea {
  width: 100%;
  font:
    12px ui-monospace,
    monospace;
  border: 1px solid var(--rule);
  background: transparent;
  color: inherit;
  padding: 5px 7px;
}
.file {
  cursor: pointer;
}
.file:focus-within {
  outline: 2px solid var(--ink);
}
.month {
  display: inline-flex;
  gap: 3px;
}
</style>
