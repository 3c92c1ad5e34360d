<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { useMoment } from '@/tideline/useMoment'
import { useNotice } from '@/notice/useNotice'
import { MONTHS, energy, energyText, number, percent, powerOfTen, quantity } from '@/theme/format'
import type { CascadeLine } from '@/api/client'
import CascadeRow from './CascadeRow.vue'
import { conversionOf, GROUPS, leftAround, useCascade } from './useCascade'

const store = useSchemeStore()
const working = useWorking()
const moment = useMoment()
const { say } = useNotice()
const { cascade, base, lines, hidden, showsAll, change, span, x } = useCascade()

const conversion = computed(() => conversionOf(cascade.value!))
const unit = computed(() => energy(cascade.value?.delivered ?? 0).unit)
const by = computed(() => ({ kWh: 1, MWh: 1000, GWh: 1e6 })[unit.value] ?? 1)
const decimals = computed(() => (unit.value === 'kWh' ? 0 : 2))
const total = (value: number) => number(value / by.value, decimals.value ? 1 : 0)
function bar(line: CascadeLine) {
  const { before, after } = leftAround(cascade.value!, line)
  return { before: x(before), after: x(after) }
}
async function copy() {
  const rows = [
    ['line', 'kWh', 'share of remaining energy [%]', ...MONTHS.map((m) => `${m} [kWh]`)],
    ...(cascade.value?.lines ?? []).map((l) => [l.title, l.energy, l.share * 100, ...l.monthly]),
  ]
  await navigator.clipboard.writeText(rows.map((row) => row.join('\t')).join('\n'))
  say('Losses copied to the clipboard, with monthly values.')
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Losses</h2>
      <div class="tools">
        <button v-if="hidden" type="button" class="link" @click="showsAll = true">Show {{ hidden }} zero losses</button
        ><button v-else-if="showsAll" type="button" class="link" @click="showsAll = false">Hide zero losses</button
        ><button type="button" class="link" :disabled="!cascade" @click="copy">Copy as cells</button>
      </div>
    </header>
    <p v-if="!cascade" class="soft empty">Add weather, modules and an inverter to see the losses.</p>
    <table v-else class="account" :class="{ compared: base }">
      <caption class="sr">
        The Cascade: where the energy goes
      </caption>
      <thead>
        <tr>
          <th scope="col"><span class="sr">Bar</span></th>
          <th scope="col" class="num">% of remaining energy</th>
          <th scope="col">Remaining energy (axis from {{ number(span.low * 100) }} %)</th>
          <th scope="col" class="num">{{ unit }}</th>
          <th v-if="base" scope="col" class="num" title="Difference of the shares, in percentage points">
            against {{ store.pinnedLetter }}, points
          </th>
          <th scope="col">By month</th>
        </tr>
      </thead>
      <tbody v-for="group in GROUPS" :key="group.key">
        <tr class="group">
          <th scope="rowgroup" colspan="6" class="cap">{{ group.title }}</th>
        </tr>
        <tr v-if="group.key === 'sunlight'" class="total">
          <td colspan="3">
            <button type="button" @click="working.show('start')">
              Horizontal irradiation: {{ number(store.evaluation!.headline!.horizontal_irradiation) }} kWh/m² on
              {{ quantity(cascade.area, 'm²') }}
            </button>
          </td>
          <td class="num sunny">{{ total(cascade.start) }}</td>
          <td v-if="base" />
          <td />
        </tr>
        <tr v-if="group.key === 'modules' && conversion.line" class="total">
          <td colspan="3">
            <button type="button" @click="working.show('loss_conversion')">
              Converted at rated efficiency: {{ number(conversion.efficiency * 100, 1) }} %
            </button>
          </td>
          <td class="num electric">{{ total(conversion.line.before + conversion.line.energy) }}</td>
          <td v-if="base" />
          <td />
        </tr>
        <CascadeRow
          v-for="line in lines.filter((l) => l.group === group.key)"
          :key="line.key"
          :line="line"
          :left="bar(line)"
          :energy="number(Math.abs(line.energy) / by, decimals)"
          :change="change(line)"
          :is-compared="base !== null"
          :is-picked="moment.quantity.value === `loss_${line.key}`"
          @working="working.show(`loss_${line.key}`)"
          @hours="moment.show(`loss_${line.key}`)"
        />
      </tbody>
      <tbody>
        <tr class="total delivered">
          <td colspan="2"><button type="button" @click="working.show('energy')">Energy delivered</button></td>
          <td class="bar">
            <svg width="100%" height="14" aria-hidden="true">
              <rect
                x="0"
                y="0"
                :width="`${x(cascade.delivered / (cascade.start * conversion.efficiency))}%`"
                height="14"
                fill="var(--yield)"
              />
            </svg>
          </td>
          <td class="num yielded">{{ total(cascade.delivered) }}</td>
          <td v-if="base" />
          <td />
        </tr>
      </tbody>
    </table>
    <p v-if="cascade" class="soft foot">
      The energy balance closes to {{ powerOfTen(cascade.residual) }}: {{ energyText(cascade.start) }} of sunlight =
      energy delivered + losses. Click a line for its working; click its months to show it on the Tideline.
      {{ percent(cascade.delivered / cascade.start) }} of the horizontal irradiation is delivered.
    </p>
  </div>
</template>
<style scoped>
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
.group th {
  padding: 7px 0 2px 2px;
  border-bottom: 1px solid var(--rule);
  text-align: left;
}
.total button:hover {
  text-decoration: underline;
  text-decoration-thickness: 1px;
  text-underline-offset: 3px;
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
@media (max-width: 1150px) {
  .bar {
    width: 26%;
  }
  thead th {
    padding-inline: 4px;
    white-space: normal;
    vertical-align: bottom;
  }
}
</style>
