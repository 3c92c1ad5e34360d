<script setup lang="ts">
import { computed } from 'vue'
import type { DemandAnswer, DemandKinds } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { useGesture } from '@/brief/useGesture'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number } from '@/theme/format'
import HoursLine from './HoursLine.vue'
import ApplianceRows from './ApplianceRows.vue'
import BillsByMonth from './BillsByMonth.vue'
import ShapePicture from './ShapePicture.vue'

/** The values of a source, as a sentence for each kind. */
const props = defineProps<{ source: string; demand: DemandAnswer; kinds: DemandKinds; tone: string }>()
const emit = defineEmits<{ gone: [] }>()
const store = useSchemeStore()
const library = useLibrary()
const at = computed(() => `/demand/sources/${props.source}`)
const entry = computed(() => (store.at(at.value) ?? {}) as Record<string, unknown>)
const kind = computed(() => Object.keys(props.kinds.kinds).find((key) => entry.value[key]) ?? '')
const field = (name: string) => `${at.value}/${kind.value}/${name}`
const isOn = computed(() => entry.value.is_on !== false)
const notes = computed(() => props.demand.notes[props.source] ?? [])
const unserved = computed(() => props.demand.unserved[props.source] ?? 0)
const shape = computed(
  () => (store.at(field('shape')) as string | undefined) ?? (library.field(field('shape'))?.default as string) ?? '',
)
const line = computed(() => props.demand.sources.find((s) => s.key === props.source))
const hours = computed(() => props.demand.hours[props.source] as [number, number][] | undefined)
const gesture = useGesture()
const appliances = computed(() => props.demand.appliances[props.source])
function remove() {
  store.edit(patchAt(at.value, null))
  emit('gone')
}
</script>
<template>
  <section class="sheet">
    <p class="head">
      <BriefText
        class="name"
        :value="(entry.name as string | undefined) ?? kinds.kinds[kind]"
        label="Name of the source"
        @change="store.edit(patchAt(`${at}/name`, $event || null))"
      />
      <span class="soft">{{ kinds.kinds[kind] }}, times <BriefNumber :pointer="`${at}/factor`" label="Factor" /></span
      ><span class="tools"
        ><button
          type="button"
          class="link"
          :aria-pressed="isOn"
          @click="store.edit(patchAt(`${at}/is_on`, isOn ? false : null))"
        >
          {{ isOn ? 'in use' : 'not in use' }}</button
        ><button type="button" class="link" @click="remove">Delete</button></span
      >
    </p>
    <ApplianceRows v-if="kind === 'appliances' && appliances" :source="source" :line="appliances" :tone="tone" />
    <p v-else-if="kind === 'per_area'">
      <BriefNumber :pointer="field('use')" label="Use by floor area" /> a year on
      <BriefNumber :pointer="field('area')" label="Floor area" />, with the shape of a
      <BriefChoice :pointer="field('shape')" label="Shape" />.
    </p>
    <template v-else-if="kind === 'monthly'">
      <p>
        Energy by month as bills have it, with the shape of a <BriefChoice :pointer="field('shape')" label="Shape" />.
        Months left empty follow the weather.
      </p>
      <BillsByMonth
        :pointer="field('energies')"
        :monthly="demand.sources.find((s) => s.key === source)?.monthly ?? []"
      />
    </template>
    <p v-else-if="kind === 'interval'">
      Measured values of <b>{{ store.at(field('title')) || 'a file' }}</b><template
        v-if="store.at(field('energy')) === undefined && store.at(field('peak')) === undefined"
        >, as they were measured</template
      ><template v-if="store.at(field('energy')) !== undefined"
        >, scaled to <BriefNumber :pointer="field('energy')" label="Energy a year" /> a year</template
      ><template v-if="store.at(field('peak')) !== undefined"
        >, with a highest power of <BriefNumber :pointer="field('peak')" label="Highest power" /></template
      >.
      <span class="scales"
        ><button
          v-for="(value, name) in { energy: line?.energy ?? 1, peak: line?.peak ?? 1 }"
          :key="name"
          type="button"
          class="link"
          @click="
            store.edit(patchAt(field(name), store.at(field(name)) === undefined ? Number(value.toPrecision(4)) : null))
          "
        >
          {{ store.at(field(name)) === undefined ? 'Scale' : 'Do not scale' }}
          {{ name === 'energy' ? 'the energy' : 'the peak' }}
        </button></span
      >
    </p>
    <p v-else-if="kind === 'heating'">
      A building that loses <BriefNumber :pointer="field('heat_loss')" label="Heat loss" /> is heated when it is colder
      than <BriefNumber :pointer="field('base')" label="Heated below" /> outside, at a coefficient of performance of
      <BriefNumber :pointer="field('cop')" label="COP at 7 °C" /> at 7 °C, which changes by
      <BriefNumber :pointer="field('cop_slope')" label="Change of the COP" />.
    </p>
    <p v-else-if="kind === 'cooling'">
      A building that gains <BriefNumber :pointer="field('heat_gain')" label="Heat gain" /> is cooled when it is hotter
      than <BriefNumber :pointer="field('base')" label="Cooled above" /> outside, at a coefficient of performance of
      <BriefNumber :pointer="field('cop')" label="COP at 35 °C" /> at 35 °C, which falls by
      <BriefNumber :pointer="field('cop_slope')" label="Fall of the COP" />.
    </p>
    <p v-else-if="kind === 'hot_water'">
      <BriefNumber :pointer="field('litres')" label="Water a day" /> a day, from
      <BriefNumber :pointer="field('cold')" label="Cold water" /> to
      <BriefNumber :pointer="field('hot')" label="Hot water" />, drawn at
      <BriefText
        :value="(store.at(field('hours')) as string | undefined) ?? (library.field(field('hours'))?.default as string)"
        label="Hours at which water is drawn"
        @change="store.edit(patchAt(field('hours'), $event || null))"
      />; the store loses <BriefNumber :pointer="field('loss')" label="Loss of the store" /> a day. Heated with
      <BriefNumber :pointer="field('power')" label="Power" /> at a coefficient of performance of
      <BriefNumber :pointer="field('cop')" label="COP" />, <BriefChoice :pointer="field('timing')" label="Heated" />.
    </p>
    <p v-else-if="kind === 'vehicle'">
      Drives <BriefNumber :pointer="field('weekday_km')" label="Kilometres on a working day" /> on a working day and
      <BriefNumber :pointer="field('weekend_km')" label="Kilometres on a day off" /> on a day off, at
      <BriefNumber :pointer="field('consumption')" label="Consumption" />. Comes home at
      <BriefNumber :pointer="field('arrival')" label="Comes home at" />, leaves at
      <BriefNumber :pointer="field('leaving')" label="Leaves at" /><button
        type="button"
        class="link days"
        :aria-pressed="Boolean(store.at(field('stays_on_weekends')))"
        @click="store.edit(patchAt(field('stays_on_weekends'), store.at(field('stays_on_weekends')) ? null : true))"
      >
        {{ store.at(field('stays_on_weekends')) ? 'at home on days off' : 'also on days off' }}</button
      >. Charged with <BriefNumber :pointer="field('charger')" label="Charger" />,
      <BriefChoice :pointer="field('timing')" label="Charged" />.
    </p>
    <p v-else-if="kind === 'pump'">
      Lifts <BriefNumber :pointer="field('volume')" label="Volume a day" /> a day by
      <BriefNumber :pointer="field('head')" label="Static head" /> and
      <BriefNumber :pointer="field('pipe')" label="Friction head" /> of friction, at an efficiency of
      <BriefNumber :pointer="field('efficiency')" label="Efficiency" /> and
      <BriefNumber :pointer="field('power')" label="Rated power" />, within
      <BriefText
        :value="(store.at(field('hours')) as string | undefined) ?? (library.field(field('hours'))?.default as string)"
        label="Hours at which it may run"
        @change="store.edit(patchAt(field('hours'), $event || null))"
      />, <BriefChoice :pointer="field('timing')" label="Pumps" /><template
        v-if="store.at(field('timing')) === 'by the sun alone'"
        >: its flow follows the sun, into a tank of <BriefNumber :pointer="field('tank')" label="Tank" /></template
      >.
      <MonthlyValues :pointer="field('volume_by_month')" label="Volume a day by month" />
    </p>
    <div v-if="hours && kind !== 'appliances'" class="hours">
      <HoursLine
        :ranges="hours"
        label="Hours"
        :tone="tone"
        @change="store.edit(patchAt(field('hours'), $event), gesture.name())"
      />
      <p class="soft" aria-hidden="true">
        <span v-for="h in [0, 6, 12, 18, 24]" :key="h">{{ h }}</span>
      </p>
    </div>
    <ShapePicture v-if="shape && kinds.shapes[shape]" :shape="kinds.shapes[shape]!" :title="shape" :tone="tone" />
    <p v-for="note in notes" :key="note" class="soft note">{{ note }}</p>
    <p v-if="unserved > 0.5" class="care note">{{ number(unserved) }} kWh a year are not served.</p>
  </section>
</template>
<style scoped>
.sheet {
  display: grid;
  gap: 7px;
  padding: 8px 0 4px;
}
.sheet > p {
  font: 14px/1.65 var(--serif);
}
.sheet > p.note {
  font: 12px/1.4 var(--sans);
}
.head {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
}
.head .soft {
  font: 12.5px var(--sans);
}
.name {
  font: 600 15.5px var(--serif);
}
.tools {
  margin-left: auto;
  display: inline-flex;
  gap: 14px;
  font: 12px var(--sans);
}
.scales {
  display: inline-flex;
  gap: 12px;
  font: 12px var(--sans);
  margin-left: 8px;
}
.hours {
  max-width: 420px;
}
.hours p {
  display: flex;
  justify-content: space-between;
  font-size: 11px;
}
.days {
  margin-left: 6px;
  font: 12.5px var(--sans);
}
</style>
