<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, useTemplateRef } from 'vue'
import { api, type UseReading, type UseReadingAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { energyText, number, plain } from '@/theme/format'
import { rampCss } from '@/theme/ramp'

/** How a file of a meter is understood: columns, step and clock, each with its reason and open to change; its week and its days beside. */
const props = defineProps<{ file: File }>()
const emit = defineEmits<{ close: []; take: [source: object] }>()
const store = useSchemeStore()
const answer = shallowRef<UseReadingAnswer | null>(null)
const fault = ref('')
const isBusy = ref(true)
const box = useTemplateRef<HTMLElement>('box')
const zone = computed(() => (store.at('/site/time_zone') as string | undefined) ?? '')
const ROLES = [
  { value: '', text: 'left out' },
  { value: 'power', text: 'power' },
  { value: 'energy', text: 'energy of the interval' },
  { value: 'counter', text: 'reading of the meter' },
  { value: 'export', text: 'given or produced, left out' },
]
const { newest } = useNewest()
async function ask(reading: UseReading | null) {
  isBusy.value = true
  try {
    const found = await newest(() => api.readUse(props.file, reading, zone.value))
    if (!found) return
    answer.value = found
    fault.value = ''
  } catch (error) {
    fault.value = (error as Error).message
  }
  isBusy.value = false
}
onMounted(() => {
  box.value?.focus()
  void ask(null)
})
const change = (part: Partial<UseReading>) => void ask({ ...answer.value!.reading, ...part } as UseReading)
function changeColumn(place: number, part: { role?: string; unit?: string }) {
  const { reading, units } = answer.value!
  const values = (reading.values ?? []).map((c) => {
    if (c.place !== place) return c
    const next = { ...c, ...part }
    const allowed = units[next.role ?? ''] ?? []
    return { ...next, unit: allowed.includes(next.unit ?? '') ? next.unit : (allowed[0] ?? '') }
  })
  change({ values } as Partial<UseReading>)
}
async function take() {
  isBusy.value = true
  try {
    const row = await api.storeUse(props.file, answer.value!.reading, zone.value)
    emit('take', { name: row.title || 'Meter', interval: { digest: row.digest, title: row.title } })
  } catch (error) {
    fault.value = (error as Error).message
    isBusy.value = false
  }
}
const top = computed(() => Math.max(...(answer.value?.week ?? []), 1e-9))
const perDay = computed(() => Math.max(1, (answer.value?.week.length ?? 168) / 7))
const DAYS = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su']
const years = computed(() => (answer.value ? answer.value.days / 365.25 : 0))
const most = computed(() => Math.max(...(answer.value?.daily ?? []).map((v) => v ?? 0), 1e-9))
</script>
<template>
  <section
    ref="box"
    tabindex="-1"
    class="use"
    role="dialog"
    aria-label="How the interval data are understood"
    @keydown.esc="emit('close')"
  >
    <header>
      <h3>{{ file.name }}</h3>
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <p v-else-if="!answer" class="soft">Reading the file…</p>
    <template v-if="answer">
      <p v-if="answer.problem" class="bad">{{ answer.problem }}</p>
      <p v-else class="serif said">
        <b>{{ energyText(answer.energy) }}</b> in {{ number(answer.days) }} days from {{ answer.first_day }}, every
        {{ answer.step }} min, at most <b>{{ plain(answer.peak) }} kW</b
        ><template v-if="Math.abs(years - 1) > 0.1"
          >; a year of it would be {{ energyText(answer.energy / Math.max(years, 1e-9)) }}</template
        >.
      </p>
      <div class="halves">
        <div>
          <p class="line">
            Rows stand at the
            <select
              class="blank"
              :value="answer.reading.stamps"
              aria-label="What a time marks of its interval"
              @change="change({ stamps: ($event.target as HTMLSelectElement).value as UseReading['stamps'] })"
            >
              <option v-for="s in ['start', 'middle', 'end']" :key="s" :value="s">{{ s }}</option>
            </select>
            of {{ answer.reading.step }} min; their clock
            <select
              class="blank"
              :value="answer.reading.clock"
              aria-label="Clock of the file"
              @change="change({ clock: ($event.target as HTMLSelectElement).value as UseReading['clock'] })"
            >
              <option value="civil">keeps daylight saving time</option>
              <option value="standard">is standard time all year</option></select
            ><template v-if="answer.reading.time_zone"> ({{ answer.reading.time_zone }})</template>.
          </p>
          <table v-if="answer.reading.values?.length" class="ledger">
            <thead>
              <tr>
                <th scope="col">Column</th>
                <th scope="col">is</th>
                <th scope="col">in</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="column in answer.reading.values" :key="column.place" :title="column.reason">
                <td>{{ column.heading || `column ${column.place + 1}` }}</td>
                <td>
                  <select
                    class="blank"
                    :value="column.role"
                    :aria-label="`What ${column.heading} is`"
                    @change="changeColumn(column.place, { role: ($event.target as HTMLSelectElement).value })"
                  >
                    <option v-for="role in ROLES" :key="role.value" :value="role.value">{{ role.text }}</option>
                  </select>
                </td>
                <td>
                  <select
                    v-if="column.role"
                    class="blank"
                    :value="column.unit"
                    :aria-label="`Unit of ${column.heading}`"
                    @change="changeColumn(column.place, { unit: ($event.target as HTMLSelectElement).value })"
                  >
                    <option v-for="unit in answer.units[column.role]" :key="unit" :value="unit">{{ unit }}</option>
                  </select>
                </td>
              </tr>
            </tbody>
          </table>
          <ul class="found">
            <li v-for="finding in answer.reading.findings" :key="finding.subject + finding.value">
              <b>{{ finding.subject }}</b>: {{ finding.value }}.
              <span class="soft">{{ finding.reason }} ({{ finding.sureness }})</span>
            </li>
            <li v-if="answer.is_remembered">
              <b>as before</b>: read as the last file with these columns was, with what you put right then.
            </li>
            <li v-for="note in answer.notes" :key="note" class="care">{{ note }}</li>
          </ul>
        </div>
        <figure v-if="answer.week.length">
          <figcaption class="soft">Mean week, up to {{ plain(top) }} kW</figcaption>
          <svg viewBox="0 0 252 158" width="252" height="158" role="img" aria-label="Mean power by weekday and hour">
            <g v-for="(name, day) in DAYS" :key="name">
              <text :x="22 + day * 33 + 15" y="10" font-size="11" text-anchor="middle" style="fill: var(--soft)">
                {{ name }}
              </text>
              <rect
                v-for="hour in perDay"
                :key="hour"
                :x="22 + day * 33"
                :y="14 + (perDay - hour) * (144 / perDay)"
                width="31"
                :height="144 / perDay + 0.2"
                :fill="rampCss((answer.week[day * perDay + hour - 1] ?? 0) / top)"
              />
            </g>
            <text
              v-for="h in [0, 12, 24]"
              :key="h"
              x="17"
              :y="158 - h * 6 + (h === 24 ? 8 : 0)"
              font-size="10.5"
              text-anchor="end"
              style="fill: var(--soft)"
            >
              {{ h }}
            </text>
          </svg>
          <figcaption class="soft">Energy of each day, up to {{ plain(most) }} kWh</figcaption>
          <svg
            viewBox="0 0 252 46"
            width="252"
            height="46"
            preserveAspectRatio="none"
            role="img"
            aria-label="Energy of each day"
          >
            <rect
              v-for="(v, i) in answer.daily"
              :key="i"
              :x="(i / answer.daily.length) * 252"
              :y="v === null ? 0 : 46 - (v / most) * 46"
              :width="252 / answer.daily.length + 0.1"
              :height="v === null ? 46 : (v / most) * 46"
              :fill="v === null ? 'var(--loss)' : 'var(--current)'"
              :opacity="v === null ? 0.35 : 0.7"
            />
          </svg>
        </figure>
      </div>
      <p class="acts">
        <button type="button" class="button strong" :disabled="isBusy || answer.problem !== ''" @click="take">
          Use it as a source
        </button>
        <button type="button" class="button quiet" @click="emit('close')">Cancel</button>
      </p>
    </template>
  </section>
</template>
<style scoped>
.use {
  border: 1px solid var(--rule-strong);
  border-radius: 8px;
  padding: 12px 16px;
  margin: 6px 0 14px;
  display: grid;
  gap: 8px;
}
header {
  display: flex;
  justify-content: space-between;
}
.said {
  font-size: 14.5px;
}
.halves {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 24px;
}
.line {
  font: 13.5px/1.6 var(--serif);
}
.found {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
  font-size: 12px;
  display: grid;
  gap: 2px;
}
figure {
  margin: 0;
  font-size: 11.5px;
}
td,
th {
  padding: 2px 6px !important;
}
</style>
