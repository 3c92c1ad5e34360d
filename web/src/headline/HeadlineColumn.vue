<script setup lang="ts">
import { computed } from 'vue'
import { useDesign } from '@/stores/design'
import { useWorking } from '@/working/useWorking'
import { energy, energyChange, number, percent, signed } from '@/theme/format'
import type { Headline } from '@/api/client'
import MonthBars from '@/charts/MonthBars.vue'
import CheckList from './CheckList.vue'

const design = useDesign()
const working = useWorking()
const now = computed(() => design.evaluation?.headline ?? null)
const base = computed(() => design.against?.headline ?? null)

interface Row {
  key: keyof Headline
  title: string
  text: (h: Headline) => string
  change: (h: Headline, b: Headline) => [string, number]
}
const difference =
  (key: keyof Headline, decimals: number, by = 1): Row['change'] =>
  (h, b) => {
    const change = ((h[key] as number) - (b[key] as number)) * by
    return [signed(change, decimals), Math.round(change * 10 ** decimals)]
  }
const rows: Row[] = [
  {
    key: 'specific_yield',
    title: 'Specific yield',
    text: (h) => `${number(h.specific_yield)} kWh/kW`,
    change: difference('specific_yield', 0),
  },
  {
    key: 'performance_ratio',
    title: 'Performance ratio',
    text: (h) => percent(h.performance_ratio),
    change: difference('performance_ratio', 1, 100),
  },
  {
    key: 'temperature_corrected_performance_ratio',
    title: 'the same at 25 °C',
    text: (h) => percent(h.temperature_corrected_performance_ratio),
    change: difference('temperature_corrected_performance_ratio', 1, 100),
  },
  { key: 'dc_power', title: 'DC power', text: (h) => `${number(h.dc_power, 2)} kW`, change: difference('dc_power', 2) },
  {
    key: 'dc_ac_ratio',
    title: 'DC to AC',
    text: (h) => number(h.dc_ac_ratio, 2),
    change: difference('dc_ac_ratio', 2),
  },
  {
    key: 'capacity_factor',
    title: 'Capacity factor',
    text: (h) => percent(h.capacity_factor),
    change: difference('capacity_factor', 1, 100),
  },
  {
    key: 'plane_irradiation',
    title: 'Plane irradiation',
    text: (h) => `${number(h.plane_irradiation)} kWh/m²`,
    change: difference('plane_irradiation', 0),
  },
]
/** Figures whose rise is no gain by itself. */
const NEUTRAL = ['dc_power', 'dc_ac_ratio']
</script>
<template>
  <h2 class="sr">Headline</h2>
  <div v-if="now" :class="{ stale: design.isStale }" :aria-busy="design.isStale">
    <button type="button" class="big" @click="working.show('energy')">
      <span class="sr">Show the working of</span><span class="soft">Energy in a year</span>
      <span class="serif figure"
        >{{ energy(now.energy).value }} <small>{{ energy(now.energy).unit }}</small></span
      >
    </button>
    <p v-if="base" class="change" :class="now.energy >= base.energy ? 'good' : 'bad'">
      {{ energyChange(now.energy - base.energy, now.energy) }} on {{ design.pinnedLetter }}
    </p>
    <p v-else class="soft change">pinned; other schemes are compared with it</p>
    <p v-if="design.away" class="bad stale-note" role="status">
      The server is away. These figures belong to an earlier state.
    </p>
    <dl>
      <div v-for="row in rows" :key="row.key">
        <dt>
          <button type="button" :aria-label="`${row.title}: show its working`" @click="working.show(row.key)">
            {{ row.title }}
          </button>
        </dt>
        <dd>{{ row.text(now) }}</dd>
        <dd
          v-if="base"
          class="delta"
          :class="
            NEUTRAL.includes(row.key) || row.change(now, base)[1] === 0
              ? 'soft'
              : row.change(now, base)[1] > 0
                ? 'good'
                : 'bad'
          "
        >
          {{ row.change(now, base)[0] }}
        </dd>
      </div>
    </dl>
    <MonthBars
      :values="now.monthly_energy"
      :against="base?.monthly_energy"
      unit="kWh"
      label="Energy delivered by month"
      :against-name="`scheme ${design.pinnedLetter}`"
    />
  </div>
  <div v-else class="empty">
    <p class="serif">No figures yet.</p>
    <p class="soft">{{ design.evaluation?.benches.find((b) => b.say)?.say ?? 'Mend what is marked in the Brief.' }}</p>
  </div>
  <CheckList />
</template>
<style scoped>
.big {
  display: grid;
  width: 100%;
}
.figure {
  font-size: 31px;
  font-weight: 600;
  line-height: 1.12;
}
.figure small {
  font-size: 17px;
  font-weight: 600;
}
.change {
  font-weight: 600;
  font-size: 12px;
}
.change.soft {
  font-weight: 400;
}
.stale-note {
  font-size: 12px;
  margin-top: 6px;
}
.stale .figure,
.stale dd {
  opacity: 0.55;
  transition: opacity 0.15s 0.25s;
}
dl {
  margin: 10px 0 12px;
  display: grid;
  gap: 4px;
  font-size: 12.5px;
}
dl div {
  display: grid;
  grid-template-columns: 1fr auto;
  column-gap: 8px;
}
dt button {
  color: var(--soft);
  border-bottom: 1px dotted transparent;
}
dt button:hover {
  color: var(--ink);
  border-color: var(--haze);
}
dd {
  margin: 0;
  font-weight: 600;
  text-align: right;
  white-space: nowrap;
}
.delta {
  grid-column: 2;
  font-size: 11px;
  line-height: 1.2;
}
.empty {
  display: grid;
  gap: 6px;
  margin: 8px 0 18px;
}
.empty .serif {
  font-size: 22px;
  font-weight: 600;
}
</style>
