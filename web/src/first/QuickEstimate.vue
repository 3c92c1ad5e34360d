<script setup lang="ts">
import { useQuestions } from '@/brief/useQuestions'
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '@/api/client'
import { useLibrary } from '@/stores/library'
import { useNotice } from '@/notice/useNotice'
import { MONTHS, azimuthWords, energy, number, percent, quantity } from '@/theme/format'
import BlankNumber from '@/brief/BlankNumber.vue'
import MonthBars from '@/charts/MonthBars.vue'
import CopyTable from '@/tables/CopyTable.vue'
import PlaceSearch from '@/places/PlaceSearch.vue'
import YearBand from './YearBand.vue'
import { sharesUse, STARTS, useEstimate } from './useEstimate'

/** The shortest Brief: one sentence with blanks, answered as it is typed. */
const props = defineProps<{ place: string }>()
const AZIMUTHS = [
  ['north', 0],
  ['north-east', 45],
  ['east', 90],
  ['south-east', 135],
  ['south', 180],
  ['south-west', 225],
  ['west', 270],
  ['north-west', 315],
] as const
const library = useLibrary()
const router = useRouter()
const { range } = useQuestions('estimate')
const { say, warn } = useNotice()
const { asked, start, answer, refused, busy, recall, startFrom, sayUse, setAmount, moveTo } = useEstimate()
/** What is wrong with a blank as it is typed; it comes before what the server says. */
const slip = ref<string | null>(null)
/** Why the place that stands in the sentence is none yet; what is answered is another place's. */
const unplaced = ref<string | null>(null)
const fault = computed(
  () =>
    slip.value ??
    (unplaced.value ? `${unplaced.value}. The figures are still those of ${asked.place}.` : refused.value),
)
const headline = computed(() => answer.value?.evaluation.headline ?? null)
const proposed = computed(() => {
  const part = answer.value && library.inverters.get(answer.value.inverter)
  if (!answer.value || !part) return 'the best inverter'
  return `${answer.value.inverters > 1 ? answer.value.inverters : 'a'} ${part.maker} ${part.name}`
})
const SHAPES = computed(() => library.field('/demand/sources/any/yearly/shape')?.choices ?? [])
const showsMonths = ref(false)
/** What the plant is worth, in the order in which people ask. */
const WORTH = ['purchase', 'saving', 'payback', 'bill_share', 'self_consumption', 'self_sufficiency']
/** What is asked for stands first. */
const asWorth = computed(() => (asked.start === 'value' ? ['net_present_value', ...WORTH.slice(0, -1)] : WORTH))
const worth = computed(() =>
  asWorth.value
    .map((key) => answer.value?.evaluation.figures?.find((f) => f.key === key))
    .filter((f) => f !== undefined)
    .map((f) => ({
      key: f.key,
      title: f.title,
      text:
        f.value === null
          ? f.without
          : f.is_percentage
            ? percent(f.value, 0)
            : `${number(f.value, f.unit === 'years' ? 1 : 0)} ${f.unit}`,
    })),
)
onMounted(() => recall(props.place))

async function goOn() {
  if (!answer.value) return
  try {
    const project = await api.beginProject({
      name: asked.place ? `${asked.place[0]!.toUpperCase()}${asked.place.slice(1)}` : 'New project',
      document: { ...answer.value.document, name: 'First idea' },
    })
    await router.push(`/projects/${project.id}/${project.schemes[0]!.id}/surfaces`)
  } catch (error) {
    warn((error as Error).message)
  }
}
async function copy() {
  const [a, h] = [answer.value, headline.value]
  if (!a || !h) return
  const plant = `A ${number(a.power, 2)} kW array of ${a.modules} modules near ${asked.place}, ${asked.mounting === 'tracker' ? 'on level single-axis trackers' : `tilted ${asked.tilt}°, azimuth ${azimuthWords(asked.azimuth)}`}`
  const year = `${number(h.energy)} kWh in an average year, ${number(h.specific_yield)} kWh/kW, performance ratio ${percent(h.performance_ratio)}`
  await navigator.clipboard.writeText(`${plant}: ${year} (weather from long-term maps, not measured).`)
  say('Estimate copied as a sentence.')
}
</script>
<template>
  <section class="estimate" aria-label="Quick estimate">
    <div class="left">
      <p class="cap starts">
        <span>Quick estimate&ensp;·&ensp;start from</span
        ><button
          v-for="s in STARTS"
          :key="s.key"
          type="button"
          class="link"
          :aria-pressed="asked.start === s.key"
          @click="startFrom(s.key)"
        >
          {{ s.label }}
        </button>
      </p>
      <p class="serif sentence">
        <template v-if="asked.start === 'power'">A</template
        ><template v-else-if="asked.start === 'area'">Up to</template
        ><template v-else-if="asked.start === 'value'">The best net present value on up to</template
        ><template v-else-if="asked.start === 'demand'">Enough for</template
        ><template v-else-if="sharesUse(asked.start)">To cover</template>{{ ' '
        }}<BlankNumber
          live
          :value="asked.amount"
          :label="`Amount: ${start.unit}`"
          :range="range('amount', { min: start.step })"
          :step="start.step"
          @change="setAmount"
          @problem="slip = $event"
        />
        {{ start.unit }}<template v-if="asked.start === 'power'"> array of </template
        ><template v-else-if="asked.start !== 'modules'">: </template>{{ ' '
        }}<select v-model="asked.module" class="blank" aria-label="Module">
          <option v-for="m in library.parts.modules" :key="m.id" :value="m.id">
            {{ m.maker }} {{ m.name }}
          </option></select
        ><template v-if="asked.start !== 'modules'"> modules</template> near
        <PlaceSearch plain :start="asked.place" label="Place" @found="moveTo" @unsettled="unplaced = $event" /><template
          v-if="asked.mounting !== 'tracker'"
          >, tilted
          <BlankNumber
            live
            :value="asked.tilt"
            label="Tilt in degrees"
            :range="range('tilt')"
            :step="1"
            @change="asked.tilt = $event"
            @problem="slip = $event"
          />°, azimuth
          <select v-model.number="asked.azimuth" class="blank" aria-label="Azimuth">
            <option v-if="!AZIMUTHS.some(([, a]) => a === asked.azimuth)" :value="asked.azimuth">
              {{ azimuthWords(asked.azimuth) }}
            </option>
            <option v-for="[name, a] in AZIMUTHS" :key="a" :value="a">{{ name }}</option>
          </select></template
        >
        on a
        <span class="tied"
          ><select v-model="asked.mounting" class="blank" aria-label="Mounting">
            <option value="roof, ventilated">roof</option>
            <option value="roof, flush">flush-mounted roof</option>
            <option value="integrated">building-integrated roof</option>
            <option value="open rack">open rack</option>
            <option value="tracker">level single-axis tracker</option></select
          >,</span
        >
        feeding
        <select v-model="asked.inverter" class="blank" aria-label="Inverter">
          <option value="">{{ proposed }}</option>
          <option v-for="i in library.parts.inverters" :key="i.id" :value="i.id">
            {{ i.maker }} {{ i.name }}
          </option></select
        >…
      </p>
      <p v-if="asked.use" class="serif money">
        It uses
        <BlankNumber
          live
          :value="asked.use"
          label="Use a year in kWh"
          :range="range('use')"
          :step="100"
          @change="asked.use = $event"
          @problem="slip = $event"
        />
        kWh a year as a
        <select v-model="asked.use_shape" class="blank" aria-label="Shape of the use">
          <option v-for="shape in SHAPES" :key="shape" :value="shape">{{ shape }}</option></select
        >, at
        <BlankNumber
          live
          :value="asked.price"
          label="Price of a kWh from the grid"
          :range="range('price')"
          :step="0.01"
          @change="asked.price = $event"
          @problem="slip = $event"
        />
        a kWh and
        <BlankNumber
          live
          :value="asked.export_price"
          label="Price of a kWh to the grid"
          :range="range('export_price')"
          :step="0.01"
          @change="asked.export_price = $event"
          @problem="slip = $event"
        />
        for what is left; mounting and work
        <BlankNumber
          live
          :value="asked.work"
          label="Mounting and work for a kW"
          :range="range('work')"
          :step="50"
          @change="asked.work = $event"
          @problem="slip = $event"
        />
        {{ answer?.currency ?? '' }} a kW.
        <button type="button" class="link out" @click="sayUse(false)">Leave it out</button>
      </p>
      <p v-else class="says-money">
        <button type="button" class="link" @click="sayUse(true)">
          What is it worth? Say what is used, and at what price
        </button>
      </p>
      <p v-if="fault" class="bad says" role="alert">{{ fault }}</p>
      <p v-else-if="answer" class="soft says">
        {{ number(answer.modules) }} modules, {{ quantity(answer.area, 'm²', 1) }}, {{ number(answer.power, 2) }} kW.
        Size limited by {{ answer.limited_by }}{{ answer.leftover ? `; ${answer.leftover} left over` : '' }}. Weather
        from long-term maps, ±{{ number((answer.weather_error ?? 0) * 100) }} % a year; not measured. Elevation
        {{ quantity(answer.elevation, 'm') }}.
      </p>
    </div>
    <div class="right" :class="{ busy: busy && !answer, old: fault }" aria-live="polite">
      <p class="soft">…gives in an average year</p>
      <p class="serif result">
        {{ headline ? energy(headline.energy).value : '–' }}
        <small>{{ headline ? energy(headline.energy).unit : '' }}</small>
      </p>
      <MonthBars v-if="headline" :values="headline.monthly_energy" unit="kWh" label="Energy by month" :height="112" />
      <p v-if="headline && answer" class="figures">
        <span
          ><b>{{ number(headline.specific_yield) }}</b> <span class="soft">kWh/kW</span></span
        ><span
          ><b>{{ percent(headline.performance_ratio) }}</b> <span class="soft">PR</span></span
        ><span
          ><b>{{ percent(answer.against_best) }}</b>
          <span class="soft"
            >{{ asked.mounting === 'tracker' ? 'over the best fixed plane' : 'below the best' }} ({{
              number(answer.best_tilt)
            }}°, {{ azimuthWords(answer.best_azimuth) }})</span
          ></span
        >
      </p>
      <dl v-if="asked.use && worth.length" class="worth">
        <div v-for="one in worth" :key="one.key">
          <dt class="soft">{{ one.title }}</dt>
          <dd>{{ one.text }}</dd>
        </div>
      </dl>
      <p v-if="asked.use && answer?.battery" class="soft battery">
        <template v-if="answer.battery_taken"
          >With <b>{{ answer.battery_taken }}</b>.</template
        ><template v-else>A battery?</template>
        {{ answer.battery }}
        <button type="button" class="link" :aria-pressed="asked.battery" @click="asked.battery = !asked.battery">
          {{ asked.battery ? 'Leave the battery out' : 'Put it in' }}
        </button>
      </p>
      <p class="acts">
        <button type="button" class="button strong" :disabled="!answer || !!fault" @click="goOn">Go on from here</button
        ><button type="button" class="button" :disabled="!answer || !!fault" @click="copy">Copy</button
        ><button
          type="button"
          class="link"
          :aria-expanded="showsMonths"
          :disabled="!answer"
          @click="showsMonths = !showsMonths"
        >
          By month
        </button>
      </p>
    </div>
    <div v-if="answer && showsMonths" class="months">
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col"><CopyTable within=".months" /></th>
            <th v-for="m in MONTHS" :key="m" scope="col" class="num">{{ m }}</th>
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row">Irradiation a day, kWh/m²</th>
            <td v-for="(row, i) in answer.months" :key="i" class="num">{{ number(row.irradiation, 2) }}</td>
          </tr>
          <tr>
            <th scope="row">Energy, kWh</th>
            <td v-for="(row, i) in answer.months" :key="i" class="num">{{ number(row.energy) }}</td>
          </tr>
          <tr v-if="asked.use">
            <th scope="row">Saved, {{ answer.currency }}</th>
            <td v-for="(row, i) in answer.months" :key="i" class="num">
              {{ row.value === null ? '' : number(row.value) }}
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <YearBand v-if="answer" :year="answer.year" :class="{ faded: fault }" />
  </section>
</template>
<style scoped>
.estimate {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 14px;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 400px;
  column-gap: 40px;
  padding: 26px 36px 0;
  position: relative;
}
@media (max-width: 999px) {
  .estimate {
    grid-template-columns: minmax(0, 1fr);
    padding: 16px 16px 0;
  }
}
.starts {
  display: flex;
  gap: 14px;
  flex-wrap: wrap;
}
.starts .link {
  letter-spacing: 0.06em;
  text-transform: uppercase;
  font-size: 11px;
}
.sentence {
  font-size: 28px;
  line-height: 1.5;
  margin-top: 16px;
}
.sentence :deep(.blank) {
  border-bottom-width: 2px;
}
.money {
  font-size: 17px;
  line-height: 1.6;
  margin-top: 10px;
}
.out,
.says-money {
  font: 12.5px var(--sans);
}
.says-money {
  margin-top: 8px;
}
.battery {
  font-size: 12.5px;
  margin-top: 8px;
}
.worth {
  display: grid;
  grid-template-columns: repeat(3, auto);
  gap: 4px 18px;
  margin: 8px 0 0;
  font-size: 12px;
}
.worth dd {
  margin: 0;
  font-weight: 600;
  font-size: 14px;
}
.months {
  grid-column: 1 / -1;
  overflow-x: auto;
  padding-bottom: 10px;
}
.months td,
.months th {
  padding: 2px 6px;
}
.says {
  margin: 12px 0 14px;
  max-width: 600px;
  min-height: 38px;
}
.result {
  font-size: 54px;
  font-weight: 600;
  line-height: 1.1;
  color: var(--yield-text);
}
.result small {
  font-size: 28px;
}
.right {
  min-height: 268px;
}
.old > :not(.acts) {
  opacity: 0.4;
}
.faded {
  opacity: 0.4;
}
.figures {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 20px;
  margin-top: 4px;
  white-space: nowrap;
}
.acts {
  display: flex;
  gap: 10px;
  margin: 12px 0 14px;
}
.tied {
  white-space: nowrap;
}
</style>
