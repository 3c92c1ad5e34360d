<script setup lang="ts">
import { computed } from 'vue'
import type { WeatherAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { quantity } from '@/theme/format'

/** Where the year comes from, step by step, and what the scheme does to it; each of its own steps can be switched off. */
const props = defineProps<{ year: WeatherAnswer }>()
const store = useSchemeStore()
type Kind = 'gap_filling' | 'height_correction' | 'monthly_factors' | 'calibration' | 'warmer_climate'
const KINDS: { key: Kind; title: string; fresh: () => JsonObject; monthly?: string; label?: string }[] = [
  { key: 'gap_filling', title: 'Fill marked values', fresh: () => ({}) },
  { key: 'height_correction', title: 'Correct temperature and pressure to the site’s elevation', fresh: () => ({}) },
  {
    key: 'monthly_factors',
    title: 'Irradiance times a factor by month',
    fresh: () => ({ irradiance: Array.from({ length: 12 }, () => 1) }),
    monthly: 'irradiance',
    label: 'Irradiance factor',
  },
  {
    key: 'calibration',
    title: 'Calibrate to monthly irradiation of another source [kWh/m²]',
    fresh: () => ({ monthly_ghi: props.year.summary.monthly_ghi.map((v) => Math.round(v * 10) / 10) }),
    monthly: 'monthly_ghi',
    label: 'GHI',
  },
  {
    key: 'warmer_climate',
    title: 'Warmer climate, kelvins by month',
    fresh: () => ({ temperature: Array.from({ length: 12 }, () => 2) }),
    monthly: 'temperature',
    label: 'Temperature shift',
  },
]
const at = (key: Kind) => store.at(`/weather/${key}`) as JsonObject | undefined
const set = computed(() => KINDS.filter(({ key }) => at(key)))
const unset = computed(() => KINDS.filter(({ key }) => !at(key)))
const edit = (key: Kind, patch: JsonObject | null) => store.edit({ weather: { [key]: patch } })
const isOn = (key: Kind) => at(key)?.is_on !== false
const steps = computed(() => props.year.steps as { kind: string; words: string }[])
const isDerived = computed(() => {
  const given = (props.year.reading as { given?: string[] }).given
  return given !== undefined && !given.includes('dni') && !given.includes('dhi')
})
const high = computed(() => (store.site.elevation ?? 0) - props.year.elevation)
</script>
<template>
  <section class="steps">
    <h3>Where it comes from</h3>
    <ol>
      <li v-if="!steps.length">{{ year.source || year.file_name }}</li>
      <li v-for="(step, i) in steps" :key="i">{{ step.words }}</li>
      <li v-if="isDerived">
        DNI and DHI derived from GHI by
        <BriefChoice pointer="/weather/decomposition" label="Decomposition" />
        <span class="soft">{{
          store.at('/weather/decomposition') === 'ridley'
            ? '(by the hour, the day and the hours around)'
            : '(by the clearness of the hour)'
        }}</span>
      </li>
      <li v-for="kind in set" :key="kind.key" :class="{ off: !isOn(kind.key) }">
        <label>
          <input
            type="checkbox"
            :checked="isOn(kind.key)"
            :aria-label="`${kind.title}: in use`"
            @change="edit(kind.key, { is_on: ($event.target as HTMLInputElement).checked ? null : false })"
          />
          {{ kind.title }}
        </label>
        <span v-if="kind.key === 'gap_filling'">
          by <BriefChoice pointer="/weather/gap_filling/method" label="Filling method" />
          <label
            ><input
              type="checkbox"
              :checked="at('gap_filling')?.includes_doubtful === true"
              @change="
                edit('gap_filling', {
                  includes_doubtful: ($event.target as HTMLInputElement).checked || null,
                })
              "
            />
            doubtful ones too</label
          >
        </span>
        <span v-else-if="kind.key === 'height_correction'">
          by <BriefNumber pointer="/weather/height_correction/lapse_rate" label="Lapse rate" />
          <span class="soft">{{
            Math.abs(high) < 0.5
              ? '(the weather is for this elevation)'
              : `(the site is ${quantity(Math.abs(high), 'm')} ${high > 0 ? 'higher' : 'lower'})`
          }}</span>
        </span>
        <button type="button" class="link" :aria-label="`Delete: ${kind.title}`" @click="edit(kind.key, null)">
          ×
        </button>
        <MonthlyValues
          v-if="kind.monthly"
          :pointer="`/weather/${kind.key}/${kind.monthly}`"
          :label="kind.label!"
          is-needed
        />
      </li>
    </ol>
    <p v-if="unset.length" class="acts">
      <span class="soft">Adjust:</span>
      <button v-for="kind in unset" :key="kind.key" type="button" class="link" @click="edit(kind.key, kind.fresh())">
        {{ kind.title }}…
      </button>
    </p>
  </section>
</template>
<style scoped>
.steps {
  font-size: 12.5px;
}
ol {
  margin: 4px 0 6px;
  padding-left: 20px;
  display: grid;
  gap: 4px;
}
.off {
  color: var(--soft);
}
.off > label {
  text-decoration: line-through;
}
.acts {
  font-size: 12px;
  gap: 4px 12px;
}
.steps :deep(.months) {
  grid-template-columns: repeat(12, minmax(0, 1fr));
  margin-top: 4px;
}
li > .link {
  margin-left: 8px;
}
</style>
