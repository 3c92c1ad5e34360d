<script setup lang="ts">
import { computed } from 'vue'
import type { FigureText, MoneyAnswer } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import { useWorking } from '@/stores/useWorking'
import CopyTable from '@/tables/CopyTable.vue'
import { decimalsFor, number, percent } from '@/theme/format'
import CashLine from './CashLine.vue'

/** The cash of the years, what comes of it, and what it is most sensitive to. */
const props = defineProps<{ money: MoneyAnswer }>()
const store = useSchemeStore()
const working = useWorking()
const KEYS = [
  'net_present_value', 'rate_of_return', 'payback', 'discounted_payback', 'levelised_cost', 'value_of_more', 'saving', 'bill_share', 'avoided_carbon',
] // prettier-ignore
const figures = computed(() =>
  KEYS.map((key) => props.money.figures.find((f) => f.key === key)).filter((f): f is FigureText => !!f),
)
const text = (f: FigureText) =>
  f.value === null
    ? f.without
    : f.is_percentage
      ? percent(f.value, f.decimals)
      : `${number(f.value, decimalsFor(f.value, f.decimals))} ${f.unit}`
const base = computed(() => props.money.figures.find((f) => f.key === 'net_present_value')?.value ?? 0)
const reach = computed(() =>
  Math.max(
    ...props.money.sensitivities.flatMap((s) => [Math.abs(s.less - base.value), Math.abs(s.more - base.value)]),
    1e-9,
  ),
)
const bar = (value: number) => ((value - base.value) / reach.value) * 46
const payback = computed(() => props.money.figures.find((f) => f.key === 'payback')?.value ?? null)
const hasCarbonTable = computed(() => ((store.at('/money/carbon_by_hour') as number[] | undefined) ?? []).length > 0)
/** A column of g/kWh, for the hours of a day, of a day by month, or of the year. */
async function takeCarbon() {
  await store.act('take-carbon', { text: await navigator.clipboard.readText() })
}
const many = computed(() => props.money.rates_of_return.length)
</script>
<template>
  <section class="cash">
    <CashLine :total="money.total" :running="money.running" :payback="payback" :currency="money.currency" />
    <div class="two">
      <dl class="ruled">
        <div v-for="figure in figures" :key="figure.key">
          <dt>
            <button type="button" :aria-label="`${figure.title}: show its working`" @click="working.show(figure.key)">
              {{ figure.title }}
            </button>
          </dt>
          <dd>
            <b>{{ text(figure) }}</b>
          </dd>
        </div>
      </dl>
      <div>
        <p class="head serif">What the net present value is most sensitive to</p>
        <div v-for="one in money.sensitivities" :key="one.key" class="bar">
          <span
            >{{ one.title }}, ± <BriefNumber :pointer="`/money/step_of_${one.key}`" :label="`Step of ${one.title}`"
          /></span>
          <svg
            viewBox="-50 0 100 14"
            preserveAspectRatio="none"
            height="14"
            width="100%"
            role="img"
            :aria-label="`${one.title}: ${number(one.less)} to ${number(one.more)} ${money.currency}`"
          >
            <rect
              :x="Math.min(0, bar(one.less))"
              y="2"
              :width="Math.abs(bar(one.less))"
              height="10"
              :fill="one.less < base ? 'var(--loss)' : 'var(--yield)'"
              opacity="0.75"
            />
            <rect
              :x="Math.min(0, bar(one.more))"
              y="2"
              :width="Math.abs(bar(one.more))"
              height="10"
              :fill="one.more < base ? 'var(--loss)' : 'var(--yield)'"
              opacity="0.75"
            />
            <line x1="0" x2="0" y1="0" y2="14" stroke="var(--ink)" vector-effect="non-scaling-stroke" />
          </svg>
          <small class="soft">{{ number(one.less) }} to {{ number(one.more) }}</small>
        </div>
        <p class="soft note">
          CO₂ of energy from the grid
          <template v-if="hasCarbonTable">by hour</template>
          <BriefNumber v-else pointer="/money/carbon" label="CO₂ of energy from the grid" />
          (<button type="button" class="link" @click="takeCarbon">paste values by hour</button
          ><template v-if="hasCarbonTable"
            >,
            <button type="button" class="link" @click="store.act('take-carbon', { text: '' })">
              one value
            </button></template
          >), prices of energy changing by
          <BriefNumber pointer="/money/price_change" label="Change of energy prices a year" /> a year.
        </p>
        <p v-if="many > 1" class="care note">
          These flows have {{ many }} rates of return: {{ money.rates_of_return.map((r) => percent(r)).join(', ') }}.
          Look at the net present value.
        </p>
        <p class="note serif">{{ money.statement }}</p>
      </div>
    </div>
    <details class="table">
      <summary>Year by year</summary>
      <p class="copy"><CopyTable within=".table" /></p>
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col">Year</th>
            <th v-for="flow in money.flows" :key="flow.title" scope="col" class="num">{{ flow.title }}</th>
            <th scope="col" class="num">Flow, {{ money.currency }}</th>
            <th scope="col" class="num">Sum, {{ money.currency }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(total, year) in money.total" :key="year">
            <th scope="row">{{ year }}</th>
            <td v-for="flow in money.flows" :key="flow.title" class="num">{{ number(flow.amounts[year]!) }}</td>
            <td class="num">{{ number(total) }}</td>
            <td class="num">{{ number(money.running[year]!) }}</td>
          </tr>
        </tbody>
      </table>
    </details>
  </section>
</template>
<style scoped>
.cash {
  display: grid;
  gap: 14px;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 30px;
}
.head {
  font-weight: 600;
  font-size: 13.5px;
  margin-bottom: 6px;
}
.bar {
  display: grid;
  font-size: 12px;
  margin-bottom: 5px;
}
.note {
  font-size: 12.5px;
  margin-top: 6px;
}
.table summary {
  cursor: pointer;
  font: 600 13px var(--serif);
}
.copy {
  font-size: 12px;
  text-align: right;
}
.table {
  overflow-x: auto;
}
td,
th {
  padding: 2px 6px !important;
}
tbody th {
  font-weight: 400;
}
</style>
