<script setup lang="ts">
import type { Reading, ReadingAnswer } from '@/api/client'
import { readNumber, readNumbers } from '@/theme/reading'
import ReadColumns from './ReadColumns.vue'
import { signed, SURE } from './sureness'

/** What a file was understood as, line by line: times, clock, marks, place and columns, each of which can be changed. */
const props = defineProps<{ reading: Reading; answer: ReadingAnswer }>()
const emit = defineEmits<{
  change: [values: Partial<Reading>]
  column: [place: number, values: Partial<Reading['columns'][number]>]
}>()
const finding = (subject: string) => props.reading.findings.find((f) => f.subject === subject)
function typed(event: Event, low: number, high: number): number | null {
  const value = readNumber((event.target as HTMLInputElement).value, { min: low, max: high })
  return Number.isFinite(value) && value >= low && value <= high ? value : null
}
function changeNumber(event: Event, name: keyof Reading, low: number, high: number) {
  const value = typed(event, low, high)
  if (value === null) (event.target as HTMLInputElement).value = String(props.reading[name] ?? '')
  else if (value !== props.reading[name]) emit('change', { [name]: value })
}
function changeMissing(event: Event) {
  const values = (event.target as HTMLInputElement).value.split(/[;\s]+/).filter(Boolean)
  const numbers = readNumbers(values)
  if (numbers.every(Number.isFinite)) emit('change', { missing: numbers })
}
const MARKS = [
  { value: '', text: 'none' },
  { value: ',', text: 'comma' },
  { value: '.', text: 'point' },
  { value: "'", text: 'apostrophe' },
  { value: '\u2019', text: 'raised comma' },
  { value: ' ', text: 'blank' },
  { value: '\u00a0', text: 'fixed blank' },
  { value: '\u202f', text: 'thin blank' },
]
/** Both marks at once: they must differ, so that a comma for the one takes it from the other. */
function changeMarks(decimal: string, thousands: string) {
  const other = decimal === '.' ? ',' : '.'
  if (thousands !== decimal) emit('change', { decimal: decimal as never, thousands: thousands as never })
  else if (decimal !== props.reading.decimal) emit('change', { decimal: decimal as never, thousands: '' })
  else emit('change', { decimal: other, thousands: thousands as never })
}
function changeCuts(event: Event) {
  const input = event.target as HTMLInputElement
  const cuts = input.value
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map((text) => Number(text) - 1)
  if (cuts.length && cuts.every((cut, i) => Number.isInteger(cut) && cut >= 0 && (!i || cut > cuts[i - 1]!)))
    emit('change', { cuts })
  else input.value = props.reading.cuts!.map((cut) => cut + 1).join(' ')
}
const role = (event: Event) => (event.target as HTMLSelectElement).value
</script>
<template>
  <ul>
    <li>
      <span class="dot ink" aria-hidden="true" />
      <label for="r-stamps">Times mark</label>
      <select id="r-stamps" :value="reading.stamps" @change="emit('change', { stamps: role($event) as never })">
        <option value="start">the start</option>
        <option value="middle">the middle</option>
        <option value="end">the end</option>
      </select>
      <span class="unit">of {{ reading.step }} min</span>
      <span :class="finding('time')?.sureness ?? 'certain'" :title="finding('time')?.reason">{{
        SURE[finding('time')?.sureness ?? 'certain']
      }}</span>
    </li>
    <li>
      <span />
      <label for="r-offset">Clock, UTC</label>
      <input
        id="r-offset"
        class="field"
        inputmode="decimal"
        :value="signed(reading.utc_offset, reading.utc_offset % 1 ? 2 : 0)"
        @change="changeNumber($event, 'utc_offset', -12, 14)"
      />
      <span class="unit">h</span>
      <span :class="finding('clock')?.sureness ?? 'guess'" :title="finding('clock')?.reason">{{
        SURE[finding('clock')?.sureness ?? 'guess']
      }}</span>
    </li>
    <li>
      <span />
      <label for="r-summer">Summer time</label>
      <input
        id="r-summer"
        class="field"
        placeholder="none"
        :value="reading.daylight_saving"
        @change="emit('change', { daylight_saving: ($event.target as HTMLInputElement).value.trim() })"
      />
      <span class="unit" />
      <span :class="finding('summer time')?.sureness ?? 'soft'" :title="finding('summer time')?.reason">{{
        finding('summer time') ? SURE[finding('summer time')!.sureness] : ''
      }}</span>
    </li>
    <li v-if="finding('date')">
      <span />
      <label for="r-order">Dates</label>
      <select id="r-order" :value="reading.date_order" @change="emit('change', { date_order: role($event) as never })">
        <option value="dmy">day first</option>
        <option value="mdy">month first</option>
      </select>
      <span class="unit" />
      <span :class="finding('date')!.sureness" :title="finding('date')!.reason">{{
        SURE[finding('date')!.sureness]
      }}</span>
    </li>
    <li v-if="reading.cuts?.length">
      <span />
      <label for="r-cuts">Columns begin at</label>
      <input id="r-cuts" class="field" :value="reading.cuts.map((cut) => cut + 1).join(' ')" @change="changeCuts" />
      <span class="unit" />
      <span class="likely" title="Where a digit stands in every row, and a blank or sign in some row after it">{{
        SURE.likely
      }}</span>
    </li>
    <li>
      <span />
      <label for="r-decimal">Decimals, thousands</label>
      <span class="pair">
        <select id="r-decimal" :value="reading.decimal" @change="changeMarks(role($event), reading.thousands ?? '')">
          <option value=".">point</option>
          <option value=",">comma</option>
        </select>
        <select
          :value="reading.thousands"
          aria-label="Mark between thousands"
          @change="changeMarks(reading.decimal ?? '.', role($event))"
        >
          <option v-for="mark in MARKS" :key="mark.value" :value="mark.value">{{ mark.text }}</option>
        </select>
      </span>
      <span class="unit" />
      <span />
    </li>
    <li v-if="reading.years.length > 1 || reading.is_typical">
      <span />
      <label for="r-year">Year</label>
      <select
        id="r-year"
        :value="reading.is_typical ? 'typical' : String(answer.calendar_year)"
        @change="
          emit(
            'change',
            role($event) === 'typical' ? { is_typical: true } : { is_typical: false, year: Number(role($event)) },
          )
        "
      >
        <option value="typical">typical</option>
        <option v-for="y in reading.years" :key="y" :value="String(y)">{{ y }}</option>
      </select>
      <span class="unit">of {{ reading.years.length }} years</span>
      <span class="certain" :title="finding('years')?.reason">{{
        finding('years') ? SURE[finding('years')!.sureness] : ''
      }}</span>
    </li>
    <li class="place">
      <span />
      <label for="r-lat">Place</label>
      <span class="pair">
        <input
          id="r-lat"
          class="field"
          aria-label="Latitude"
          :value="reading.latitude ?? ''"
          @change="changeNumber($event, 'latitude', -90, 90)"
        />
        <input
          class="field"
          aria-label="Longitude"
          :value="reading.longitude ?? ''"
          @change="changeNumber($event, 'longitude', -180, 180)"
        />
      </span>
      <span class="unit">°</span>
      <span :class="finding('latitude')?.sureness ?? 'guess'" :title="finding('latitude')?.reason">{{
        SURE[finding('latitude')?.sureness ?? 'guess']
      }}</span>
    </li>
    <ReadColumns :columns="reading.columns" @change="(place, values) => emit('column', place, values)" />
    <li>
      <span />
      <label for="r-missing">Missing is</label>
      <input
        id="r-missing"
        class="field"
        placeholder="an empty field"
        :value="reading.missing.join(' ')"
        @change="changeMissing"
      />
      <span class="unit" />
      <span :class="finding('missing values')?.sureness ?? 'soft'" :title="finding('missing values')?.reason">{{
        finding('missing values') ? SURE[finding('missing values')!.sureness] : ''
      }}</span>
    </li>
  </ul>
</template>
<!-- The lines of the columns are laid on the same grid, by another component. -->
<style>
.understood ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.understood li {
  display: grid;
  grid-template-columns: 12px 96px minmax(0, 1fr) 74px 48px;
  gap: 8px;
  align-items: center;
  padding: 2px 0;
  border-bottom: 1px solid var(--rule);
  font-size: 12.5px;
  min-height: 27px;
}
.understood .field,
.understood select {
  width: 100%;
  min-width: 0;
  padding: 1px 3px;
  border: 0;
  border-bottom: 1.5px dotted var(--haze);
  background: transparent;
  font-weight: 600;
}
.understood select option {
  background: var(--sheet);
  color: var(--ink);
}
.understood select.unit {
  font-weight: 400;
}
.understood .pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.understood .heading {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.understood .wide {
  grid-column: 2 / -1;
  justify-self: start;
}
.understood .dot {
  width: 10px;
  height: 10px;
  border-radius: 3px;
}
.understood .dot.sun {
  background: var(--sun);
}
.understood .dot.loss {
  background: var(--loss);
}
.understood .dot.current {
  background: var(--current);
}
.understood .dot.yield {
  background: var(--yield);
}
.understood .dot.haze {
  background: var(--haze);
}
.understood .dot.ink {
  background: var(--rule-strong);
}
.understood .certain {
  color: var(--yield-text);
}
.understood .likely {
  color: var(--caution-text);
}
.understood .guess {
  color: var(--loss-text);
}
</style>
