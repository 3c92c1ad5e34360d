<script setup lang="ts">
import NumberField from '@/brief/NumberField.vue'
import { computed } from 'vue'
import type { ShadeAnswer } from '@/api/client'
import { rampCss } from '@/theme/ramp'
import { MONTH_LETTERS, MONTHS, number } from '@/theme/format'
import { useSchemeStore } from '@/stores/useSchemeStore'
import CopyTable from '@/tables/CopyTable.vue'
import { isDark, modulesInLight, threshold } from './useScene'

/** Solar access of each surface by month and over the year, against a threshold of one's own. */
const props = defineProps<{ shade: ShadeAnswer }>()
const emit = defineEmits<{ remove: [modules: Record<string, string[]>] }>()
const store = useSchemeStore()
/** Energy at the meter by surface, once the year belongs to the same state of the design. */
const energy = computed<Record<string, number>>(() =>
  store.saved?.revision === props.shade.revision && store.evaluation?.state === 'exact'
    ? (store.evaluation.energy_by_surface ?? {})
    : {},
)
const rows = computed(() =>
  props.shade.surfaces.map((s) => ({
    ...s,
    months: s.free.map((free, m) => {
      const mean = s.received[m]!.reduce((sum, v) => sum + v, 0) / Math.max(s.received[m]!.length, 1)
      return free > 0.05 ? mean / free : null
    }),
    annual: s.free.reduce((sum, v) => sum + v, 0) * s.access,
    energy: s.surface ? (energy.value[s.surface] ?? null) : null,
  })),
)
/** Large energies are shown in MWh: the table is narrow. */
const isLarge = computed(() => rows.value.some((row) => (row.energy ?? 0) >= 10_000))
/** Months are darker than the year: the ramp begins at the darkest of them. */
const lowest = computed(() =>
  Math.min(0.9, Math.floor(Math.min(1, ...rows.value.flatMap((r) => r.months.map((m) => m ?? 1))) * 20) / 20),
)
const verdict = computed(() => {
  const off = props.shade.access * 100 - threshold.value
  return off >= 0 ? `over your ${threshold.value} %` : `${number(-off, 1)} points under your ${threshold.value} %`
})
/** The modules under the threshold, or else the darkest few, and what they give. */
const worst = computed(() => {
  const all = modulesInLight(props.shade).toSorted((a, b) => a.got / a.free - b.got / b.free)
  // Of the light alone: what a module gives to the meter depends on its string.
  const total = all.reduce((sum, m) => sum + m.got, 0)
  const dark = all.filter(isDark)
  const few = dark.length ? dark : all.slice(0, Math.min(6, Math.floor(all.length / 5)))
  if (!few.length || !total) return null
  const modules: Record<string, string[]> = {}
  for (const m of few) (modules[m.surface] ??= []).push(m.id)
  return {
    count: few.length,
    isDark: dark.length > 0,
    share: few.reduce((sum, m) => sum + m.got, 0) / total,
    part: few.length / all.length,
    access: few.reduce((sum, m) => sum + m.got / m.free, 0) / few.length,
    modules,
  }
})
</script>
<template>
  <div class="access">
    <table aria-label="Solar access by surface and month">
      <thead>
        <tr>
          <th scope="col">Solar access, %</th>
          <th v-for="(letter, m) in MONTH_LETTERS" :key="m" scope="col" :title="MONTHS[m]" class="month">
            {{ letter }}
          </th>
          <th scope="col" class="end">Year</th>
          <th scope="col" class="end" title="Orientation factor: this plane unshaded over the best fixed plane">
            Orient.
          </th>
          <th scope="col" class="end" title="Solar resource (access × orientation), TSRF">Resource</th>
          <th scope="col" class="end">kWh/m²</th>
          <th scope="col" class="end" title="Energy at the meter in a year">{{ isLarge ? 'MWh' : 'kWh' }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.face">
          <th scope="row">{{ row.name }}</th>
          <td
            v-for="(value, m) in row.months"
            :key="m"
            class="month"
            :title="value === null ? 'no light' : `${MONTHS[m]}: ${number(value * 100, 1)} %`"
          >
            <i v-if="value !== null" :style="{ background: rampCss((value - lowest) / (1 - lowest)) }" /><span
              class="sr"
              >{{ value === null ? '' : number(value * 100, 1) }}</span
            >
          </td>
          <td class="end strong">{{ number(row.access * 100, 1) }}</td>
          <td class="end">{{ number(row.orientation * 100, 1) }}</td>
          <td class="end">{{ number(row.product * 100, 1) }}</td>
          <td class="end">{{ number(row.annual) }}</td>
          <td class="end">
            {{ row.energy === null ? '' : isLarge ? number(row.energy / 1000, 1) : number(row.energy) }}
          </td>
        </tr>
      </tbody>
    </table>
    <p class="soft words">
      <template v-if="shade.modules">{{ shade.modules }} modules </template
      ><b :class="shade.access * 100 >= threshold ? 'good' : 'bad'">{{ number(shade.access * 100, 1) }} %</b>,
      {{ verdict }}. Threshold
      <NumberField
        class="blank"
        :value="threshold"
        :limits="{ min: 0, max: 100 }"
        aria-label="Threshold of solar access [%]"
        @change="threshold = $event ?? 0"
      />
      %.
      <template v-if="worst">
        {{
          worst.isDark
            ? `${worst.count} modules under it`
            : worst.count === 1
              ? 'The darkest'
              : `The darkest ${worst.count}`
        }}
        {{ worst.count === 1 ? 'receives' : 'receive' }} {{ number(worst.access * 100) }} %,
        {{ worst.count === 1 ? 'has' : 'have' }} {{ number(worst.share * 100, 1) }} % of the irradiation on all modules
        and {{ worst.count === 1 ? 'is' : 'are' }} {{ number(worst.part * 100, 1) }} % of the modules:
        <button type="button" class="link" @click="emit('remove', worst.modules)">delete them</button>.
      </template>
      <CopyTable within=".access" />
    </p>
  </div>
</template>
<style scoped>
.access {
  min-width: 0;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 11.5px;
}
th {
  font-weight: 400;
  text-align: left;
  color: var(--soft);
}
thead th {
  font-size: 10.5px;
}
tbody th {
  color: var(--ink);
  max-width: 96px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
td,
th {
  padding: 2px 2px;
}
.end {
  text-align: right;
}
.month {
  text-align: center;
  padding: 2px 0.5px;
}
.month i {
  display: block;
  height: 13px;
  min-width: 5px;
}
.strong {
  font-weight: 600;
}
.words {
  font-size: 12px;
  margin: 4px 0 0;
}
.words input {
  width: 3.4em;
}
.good {
  color: var(--yield-text);
}
</style>
