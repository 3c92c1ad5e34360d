<script setup lang="ts">
import { computed, ref } from 'vue'
import { useDesign } from '@/stores/design'
import { useWorking } from '@/working/useWorking'
import { useMoment } from '@/tideline/useMoment'
import { useNotice } from '@/shell/useNotice'
import { energy, energyText, MONTHS, number, percent, signed } from '@/theme/format'
import type { CascadeLine } from '@/api/client'

const design = useDesign()
const working = useWorking()
const moment = useMoment()
const { say } = useNotice()
const all = ref(false)
const cascade = computed(() => design.evaluation?.cascade ?? null)
const base = computed(() => design.against?.cascade ?? null)

const GROUPS = [
  { key: 'sunlight', title: 'Sunlight' },
  { key: 'modules', title: 'Modules' },
  { key: 'strings', title: 'Strings and wires' },
  { key: 'grid', title: 'Inverter and grid' },
] as const
const SILENT = ['horizon', 'rows', 'partial_shade', 'quality', 'parallel', 'window', 'current_limit', 'clipping']
const isSilent = (line: CascadeLine) =>
  SILENT.includes(line.key) && Math.abs(line.share) < 5e-6 && Math.abs(baseLine(line.key)?.share ?? 0) < 5e-6
const lines = computed(
  () => cascade.value?.lines.filter((line) => line.key !== 'conversion' && (all.value || !isSilent(line))) ?? [],
)
const hidden = computed(() => cascade.value?.lines.filter(isSilent).length ?? 0)
const baseLine = (key: string) => base.value?.lines.find((line) => line.key === key)

/** The bar: what is left, over what would be there at the rated efficiency with the light on the flat. */
const efficiency = computed(() => {
  const line = cascade.value?.lines.find((l) => l.key === 'conversion')
  return line ? 1 + line.share : 1
})
const beyond = computed(() => {
  let seen = false
  return new Set(
    cascade.value?.lines
      .filter((l) => {
        if (l.key === 'conversion') seen = true
        return seen
      })
      .map((l) => l.key),
  )
})
const left = (line: CascadeLine, after: boolean) => {
  const start = cascade.value!.start * (beyond.value.has(line.key) ? efficiency.value : 1)
  return (line.before + (after ? line.energy : 0)) / start
}
const span = computed(() => {
  const values = lines.value.flatMap((line) => [left(line, false), left(line, true)])
  const low = Math.min(...values, 1),
    high = Math.max(...values, 1)
  return { low: Math.max(0, Math.floor((low - 0.05) * 20) / 20), high: high + 0.01 }
})
const x = (value: number) => ((value - span.value.low) / (span.value.high - span.value.low)) * 100
const monthTop = (line: CascadeLine) => Math.max(...line.monthly.map(Math.abs), 1e-9)
const conversion = computed(() => cascade.value?.lines.find((line) => line.key === 'conversion'))
const unit = computed(() => energy(cascade.value?.delivered ?? 0).unit)
const by = computed(() => ({ kWh: 1, MWh: 1000, GWh: 1e6 })[unit.value] ?? 1)
const decimals = computed(() => (unit.value === 'kWh' ? 0 : 2))
const pointed = (line: CascadeLine) => moment.show(`loss_${line.key}`)
async function copy() {
  const rows = [
    ['line', 'kWh', 'share of what was left [%]', ...MONTHS.map((m) => `${m} [kWh]`)],
    ...(cascade.value?.lines ?? []).map((l) => [l.title, l.energy, l.share * 100, ...l.monthly]),
  ]
  await navigator.clipboard.writeText(rows.map((row) => row.join('\t')).join('\n'))
  say('The account is copied as cells, every line with its months.')
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Losses</h2>
      <div class="tools">
        <button v-if="hidden && !all" type="button" class="link" @click="all = true">
          Show {{ hidden }} lines of nothing</button
        ><button v-else-if="all" type="button" class="link" @click="all = false">Hide lines of nothing</button
        ><button type="button" class="link" :disabled="!cascade" @click="copy">Copy as cells</button>
      </div>
    </header>
    <p v-if="!cascade" class="soft empty">The account opens once there are weather, modules and an inverter.</p>
    <table v-else class="account" :class="{ compared: base }">
      <caption class="sr">
        The Cascade: where the energy goes
      </caption>
      <thead>
        <tr>
          <th scope="col" />
          <th scope="col" class="num">of what was left</th>
          <th scope="col">what is left, from {{ number(span.low * 100) }} %</th>
          <th scope="col" class="num">{{ unit }}</th>
          <th v-if="base" scope="col" class="num">on {{ design.pinnedLetter }}</th>
          <th scope="col">when it goes</th>
        </tr>
      </thead>
      <tbody v-for="group in GROUPS" :key="group.key">
        <tr class="group">
          <th scope="rowgroup" colspan="6" class="cap">{{ group.title }}</th>
        </tr>
        <tr v-if="group.key === 'sunlight'" class="total">
          <td colspan="3">
            <button type="button" @click="working.show('start')">
              On the flat, {{ number(design.evaluation!.headline!.horizontal_irradiation) }} kWh/m² on
              {{ number(cascade.area) }} m²
            </button>
          </td>
          <td class="num sunny">{{ number(cascade.start / by, decimals ? 1 : 0) }}</td>
          <td v-if="base" />
          <td />
        </tr>
        <tr v-if="group.key === 'modules' && conversion" class="total">
          <td colspan="3">
            <button type="button" @click="working.show('loss_conversion')">
              Converted at {{ number(efficiency * 100, 1) }} %, as rated
            </button>
          </td>
          <td class="num electric">{{ number((conversion.before + conversion.energy) / by, decimals ? 1 : 0) }}</td>
          <td v-if="base" />
          <td />
        </tr>
        <tr
          v-for="line in lines.filter((l) => l.group === group.key)"
          :key="line.key"
          class="line"
          :class="{ picked: moment.quantity.value === `loss_${line.key}`, still: Math.abs(line.share) < 5e-6 }"
        >
          <td>
            <button
              type="button"
              :aria-label="`${line.title}: show its working`"
              @click="working.show(`loss_${line.key}`)"
            >
              {{ line.title }}
            </button>
          </td>
          <td class="num" :class="line.energy > 0 ? 'good' : Math.abs(line.share) < 5e-6 ? 'soft' : 'bad'">
            <b>{{ signed(line.share * 100, Math.abs(line.share) < 0.001 ? 2 : 1) }} %</b>
          </td>
          <td class="bar">
            <svg width="100%" height="14" preserveAspectRatio="none" aria-hidden="true">
              <rect
                x="0"
                y="1"
                :width="`${x(Math.min(left(line, false), left(line, true)))}%`"
                height="12"
                :fill="group.key === 'sunlight' ? 'var(--sun)' : 'var(--current)'"
                opacity=".24"
              />
              <rect
                :x="`${x(Math.min(left(line, false), left(line, true)))}%`"
                y="1"
                :width="`${Math.max(0.3, Math.abs(x(left(line, true)) - x(left(line, false))))}%`"
                height="12"
                :fill="line.energy > 0 ? 'var(--yield)' : 'var(--loss)'"
                :opacity="Math.abs(line.share) < 5e-6 ? 0.3 : 0.9"
              />
            </svg>
          </td>
          <td class="num">{{ number(Math.abs(line.energy) / by, decimals) }}</td>
          <td
            v-if="base"
            class="num change"
            :class="line.share - (baseLine(line.key)?.share ?? 0) >= 0 ? 'good' : 'bad'"
          >
            {{
              Math.abs(line.share - (baseLine(line.key)?.share ?? 0)) < 0.0005
                ? ''
                : signed((line.share - (baseLine(line.key)?.share ?? 0)) * 100, 1)
            }}
          </td>
          <td class="months">
            <button
              type="button"
              :aria-label="`Show ${line.title} in the Tideline`"
              :disabled="line.key === 'transposition'"
              :title="line.key === 'transposition' ? '' : 'Show its hours in the Tideline'"
              @click="pointed(line)"
            >
              <svg viewBox="0 0 72 16" width="72" height="16" aria-hidden="true">
                <rect
                  v-for="(value, i) in line.monthly"
                  :key="i"
                  :x="i * 6"
                  :y="15 - (Math.abs(value) / monthTop(line)) * 14"
                  width="4.4"
                  :height="Math.max(0.8, (Math.abs(value) / monthTop(line)) * 14)"
                  :fill="value > 0 ? 'var(--yield)' : 'var(--loss)'"
                  opacity=".75"
                />
              </svg>
            </button>
          </td>
        </tr>
      </tbody>
      <tbody>
        <tr class="total delivered">
          <td colspan="2"><button type="button" @click="working.show('energy')">Delivered</button></td>
          <td class="bar">
            <svg width="100%" height="14" aria-hidden="true">
              <rect
                x="0"
                y="0"
                :width="`${x(cascade.delivered / (cascade.start * efficiency))}%`"
                height="14"
                fill="var(--yield)"
              />
            </svg>
          </td>
          <td class="num yielded">{{ number(cascade.delivered / by, decimals ? 1 : 0) }}</td>
          <td v-if="base" />
          <td />
        </tr>
      </tbody>
    </table>
    <p v-if="cascade" class="soft foot">
      It closes: {{ energyText(cascade.start) }} of light in, delivered and booked the same, to
      {{
        cascade.residual
          .toExponential(0)
          .replace('e-', ' × 10⁻')
          .replace(/⁻(\d+)/, (_, d) => '⁻' + [...d].map((c) => '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)]).join(''))
      }}. A line opens its working and its setting; its months turn the Tideline to it.
      {{ percent(cascade.delivered / cascade.start) }} of the light on the flat is delivered.
    </p>
  </div>
</template>
<style scoped>
.bench {
  padding: 14px 20px 20px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
.tools {
  display: flex;
  gap: 16px;
  font-size: 12px;
}
.account {
  width: 100%;
  border-collapse: collapse;
  margin-top: 6px;
}
thead th {
  font-weight: 400;
  font-size: 11px;
  color: var(--soft);
  text-align: left;
  padding: 0 6px 2px;
  white-space: nowrap;
}
thead th.num {
  text-align: right;
}
td {
  padding: 0.6px 6px;
  vertical-align: middle;
}
td:first-child {
  padding-left: 14px;
  white-space: nowrap;
}
.group th {
  padding: 7px 0 2px 2px;
  border-bottom: 1px solid var(--rule);
  text-align: left;
}
.line button:hover,
.total button:hover {
  text-decoration: underline;
  text-decoration-thickness: 1px;
  text-underline-offset: 3px;
}
.line:hover td,
.picked td {
  background: var(--pick);
}
.still {
  color: var(--soft);
}
.total td {
  font: 600 14.5px/1.5 var(--serif);
  padding-left: 2px !important;
  padding-block: 2px;
}
.bar {
  width: 38%;
}
.bar svg {
  display: block;
}
.change {
  font-size: 12px;
}
.months {
  width: 84px;
}
.months svg {
  display: block;
}
.total td.bar {
  padding-left: 6px !important;
}
.sunny {
  color: var(--sun-text);
}
.electric {
  color: var(--current-text);
}
.yielded {
  color: var(--yield-text);
}
.delivered td {
  border-top: 1px solid var(--ink);
  padding-top: 5px;
}
.foot {
  font-size: 12px;
  margin-top: 10px;
  max-width: 640px;
}
.empty {
  padding: 60px 0;
  text-align: center;
}
</style>
