<script setup lang="ts">
import { readNumber, readNumbers } from '@/theme/reading'
import { computed, ref } from 'vue'
import type { Reading } from '@/api/client'
import { number } from '@/theme/format'
import { ROLES, roleOf } from './roles'
import RawLines from './RawLines.vue'
import SunWitness from './SunWitness.vue'
import { useReading } from './useReading'
import { storeWeatherFile, type OpenFile } from './weatherFile'

/** How a file is understood, beside its lines: everything can be changed, and the year follows at once. */
const props = defineProps<{ opened: OpenFile }>()
const emit = defineEmits<{ close: [] }>()
const { answer, reading, problem, isAsking, canUndo, change, changeColumn, undo } = useReading(
  props.opened.file,
  props.opened.answer,
)
const isStoring = ref(false)
const sure = { certain: 'certain', likely: 'likely', guess: 'a guess' } as const
const finding = (subject: string) => reading.value.findings.find((f) => f.subject === subject)
const used = computed(() => reading.value.columns.filter((c) => c.role))
const left = computed(() => reading.value.columns.filter((c) => !c.role))
const isOpen = ref(false)
const shift = computed(() => {
  const best = answer.value.fit?.best ?? 0
  return Math.abs(best) >= 25 ? best : 0
})
const signed = (value: number, digits = 0) =>
  `${value > 0 ? '+' : value < 0 ? '−' : ''}${number(Math.abs(value), digits)}`
function typed(event: Event, low: number, high: number): number | null {
  const value = readNumber((event.target as HTMLInputElement).value, { min: low, max: high })
  return Number.isFinite(value) && value >= low && value <= high ? value : null
}
function changeNumber(event: Event, name: keyof Reading, low: number, high: number) {
  const value = typed(event, low, high)
  if (value === null) (event.target as HTMLInputElement).value = String(reading.value[name] ?? '')
  else if (value !== reading.value[name]) change({ [name]: value })
}
function changeMissing(event: Event) {
  const values = (event.target as HTMLInputElement).value.split(/[;\s]+/).filter(Boolean)
  const numbers = readNumbers(values)
  if (numbers.every(Number.isFinite)) change({ missing: numbers })
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
  if (thousands !== decimal) change({ decimal: decimal as never, thousands: thousands as never })
  else if (decimal !== reading.value.decimal) change({ decimal: decimal as never, thousands: '' })
  else change({ decimal: other, thousands: thousands as never })
}
function changeCuts(event: Event) {
  const input = event.target as HTMLInputElement
  const cuts = input.value
    .split(/[\s,;]+/)
    .filter(Boolean)
    .map((text) => Number(text) - 1)
  if (cuts.length && cuts.every((cut, i) => Number.isInteger(cut) && cut >= 0 && (!i || cut > cuts[i - 1]!)))
    change({ cuts })
  else input.value = reading.value.cuts!.map((cut) => cut + 1).join(' ')
}
const role = (event: Event) => (event.target as HTMLSelectElement).value
function changeRole(place: number, event: Event) {
  const key = role(event)
  changeColumn(place, { role: key as never, unit: roleOf(key)?.units[0] ?? '' })
}
async function use(by = 0) {
  isStoring.value = true
  await storeWeatherFile(props.opened.file, by ? { ...reading.value, shift: reading.value.shift + by } : reading.value)
  isStoring.value = false
}
</script>
<template>
  <section class="reading" role="dialog" aria-modal="true" aria-label="How the file is understood">
    <header role="none">
      <h2>Reading {{ opened.file.name }}</h2>
      <span class="soft">
        {{ number(answer.line_count) }} lines{{ reading.sheet ? `, sheet ${reading.sheet}` : '' }}
        <template v-if="answer.is_remembered">· as the last file of this make was read</template>
      </span>
    </header>
    <div class="two">
      <RawLines :lines="answer.lines" :reading="reading" />
      <div class="understood">
        <h3>Understood as</h3>
        <ul>
          <li>
            <span class="dot ink" aria-hidden="true" />
            <label for="r-stamps">Times mark</label>
            <select id="r-stamps" :value="reading.stamps" @change="change({ stamps: role($event) as never })">
              <option value="start">the start</option>
              <option value="middle">the middle</option>
              <option value="end">the end</option>
            </select>
            <span class="unit">of {{ reading.step }} min</span>
            <span :class="finding('time')?.sureness ?? 'certain'" :title="finding('time')?.reason">{{
              sure[finding('time')?.sureness ?? 'certain']
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
              sure[finding('clock')?.sureness ?? 'guess']
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
              @change="change({ daylight_saving: ($event.target as HTMLInputElement).value.trim() })"
            />
            <span class="unit" />
            <span :class="finding('summer time')?.sureness ?? 'soft'" :title="finding('summer time')?.reason">{{
              finding('summer time') ? sure[finding('summer time')!.sureness] : ''
            }}</span>
          </li>
          <li v-if="finding('date')">
            <span />
            <label for="r-order">Dates</label>
            <select id="r-order" :value="reading.date_order" @change="change({ date_order: role($event) as never })">
              <option value="dmy">day first</option>
              <option value="mdy">month first</option>
            </select>
            <span class="unit" />
            <span :class="finding('date')!.sureness" :title="finding('date')!.reason">{{
              sure[finding('date')!.sureness]
            }}</span>
          </li>
          <li v-if="reading.cuts?.length">
            <span />
            <label for="r-cuts">Columns begin at</label>
            <input
              id="r-cuts"
              class="field"
              :value="reading.cuts.map((cut) => cut + 1).join(' ')"
              @change="changeCuts"
            />
            <span class="unit" />
            <span class="likely" title="Where a digit stands in every row, and a blank or sign in some row after it">{{
              sure.likely
            }}</span>
          </li>
          <li>
            <span />
            <label for="r-decimal">Decimals, thousands</label>
            <span class="pair">
              <select
                id="r-decimal"
                :value="reading.decimal"
                @change="changeMarks(role($event), reading.thousands ?? '')"
              >
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
                change(
                  role($event) === 'typical' ? { is_typical: true } : { is_typical: false, year: Number(role($event)) },
                )
              "
            >
              <option value="typical">typical</option>
              <option v-for="y in reading.years" :key="y" :value="String(y)">{{ y }}</option>
            </select>
            <span class="unit">of {{ reading.years.length }} years</span>
            <span class="certain" :title="finding('years')?.reason">{{
              finding('years') ? sure[finding('years')!.sureness] : ''
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
              sure[finding('latitude')?.sureness ?? 'guess']
            }}</span>
          </li>
          <li v-for="c in used" :key="c.place">
            <span class="dot" :class="roleOf(c.role)?.colour" aria-hidden="true" />
            <span class="heading" :title="c.heading">{{ c.heading || `column ${c.place + 1}` }}</span>
            <select
              :aria-label="`What ${c.heading || `column ${c.place + 1}`} holds`"
              :value="c.role"
              @change="changeRole(c.place, $event)"
            >
              <option value="">not used</option>
              <option v-for="r in ROLES" :key="r.key" :value="r.key">{{ r.name }}</option>
            </select>
            <select
              v-if="roleOf(c.role)?.units.length"
              class="unit"
              :aria-label="`Unit of ${c.heading || `column ${c.place + 1}`}`"
              :value="c.unit"
              @change="changeColumn(c.place, { unit: role($event) })"
            >
              <option v-for="unit in roleOf(c.role)!.units" :key="unit">{{ unit }}</option>
            </select>
            <span v-else class="unit" />
            <span :class="c.sureness" :title="c.reason">{{ sure[c.sureness] }}</span>
          </li>
          <li v-if="left.length">
            <span />
            <button type="button" class="link wide" :aria-expanded="isOpen" @click="isOpen = !isOpen">
              {{ left.length }} column{{ left.length > 1 ? 's' : '' }} not used
            </button>
          </li>
          <template v-if="isOpen">
            <li v-for="c in left" :key="c.place">
              <span />
              <span class="heading" :title="c.heading">{{ c.heading || `column ${c.place + 1}` }}</span>
              <select
                :aria-label="`What ${c.heading || `column ${c.place + 1}`} holds`"
                value=""
                @change="changeRole(c.place, $event)"
              >
                <option value="">not used</option>
                <option v-for="r in ROLES" :key="r.key" :value="r.key">{{ r.name }}</option>
              </select>
              <span class="unit" />
              <span class="soft" :title="c.reason" />
            </li>
          </template>
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
              finding('missing values') ? sure[finding('missing values')!.sureness] : ''
            }}</span>
          </li>
        </ul>
      </div>
    </div>
    <SunWitness v-if="answer.fit" :fit="answer.fit" />
    <p v-else class="soft">Without GHI and a place, the sun cannot tell whether the time is right.</p>
    <div class="year" aria-live="polite">
      <p v-if="problem" class="care" role="alert">△ {{ problem }}</p>
      <template v-else-if="answer.year">
        <p>
          <b>{{ number(answer.intervals) }}</b> intervals: GHI <b>{{ number(answer.year.annual_ghi) }}</b>, DNI
          {{ number(answer.year.annual_dni) }}, DHI {{ number(answer.year.annual_dhi) }} kWh/m²;
          {{ number(answer.year.lowest_temperature, 1) }} to {{ number(answer.year.highest_temperature, 1) }} °C.
        </p>
        <details>
          <summary class="soft">{{ answer.notes.length }} notes on what is done</summary>
          <ul class="notes">
            <li v-for="note in answer.notes" :key="note">{{ note }}</li>
          </ul>
        </details>
      </template>
    </div>
    <footer>
      <button
        type="button"
        class="button"
        :class="{ strong: !shift }"
        :disabled="!answer.year || isStoring || isAsking"
        @click="use()"
      >
        Use this year
      </button>
      <button
        v-if="shift"
        type="button"
        class="button strong"
        :disabled="!answer.year || isStoring || isAsking"
        @click="use(shift)"
      >
        Shift by {{ signed(shift) }} min and use
      </button>
      <button type="button" class="button" :disabled="!canUndo" @click="undo">Undo</button>
      <button type="button" class="link" @click="emit('close')">Close without using it</button>
      <span class="soft">{{
        isAsking ? 'Reading…' : isStoring ? 'Keeping…' : 'The same reading is offered for the next file of this make.'
      }}</span>
    </footer>
  </section>
</template>
<style scoped>
.reading {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 16px 20px 14px;
  display: grid;
  gap: 12px;
  max-height: calc(100vh - 40px);
  overflow: auto;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 14px;
}
header .soft,
footer .soft {
  font-size: 12px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 420px;
  gap: 18px;
}
.two > .raw {
  max-height: 356px;
}
.understood {
  max-height: 356px;
  overflow: auto;
}
.understood h3 {
  margin-bottom: 4px;
}
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
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px;
}
.heading {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.wide {
  grid-column: 2 / -1;
  justify-self: start;
}
.dot {
  width: 10px;
  height: 10px;
  border-radius: 3px;
}
.dot.sun {
  background: var(--sun);
}
.dot.loss {
  background: var(--loss);
}
.dot.current {
  background: var(--current);
}
.dot.yield {
  background: var(--yield);
}
.dot.haze {
  background: var(--haze);
}
.dot.ink {
  background: var(--rule-strong);
}
.certain {
  color: var(--yield-text);
}
.likely {
  color: var(--caution-text);
}
.guess {
  color: var(--loss-text);
}
.notes {
  margin: 4px 0 0;
  padding-left: 18px;
  font-size: 12.5px;
}
footer {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  border-top: 1px solid var(--rule);
  padding-top: 10px;
}
footer .soft {
  margin-left: auto;
}
@media (max-width: 1060px) {
  .two {
    grid-template-columns: minmax(0, 1fr) 380px;
  }
}
</style>
