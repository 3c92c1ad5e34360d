<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, type WeatherAnswer } from '@/api/client'
import { useAskedAct } from '@/stores/useAskedAct'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { latitudeText, longitudeText, number, percent, quantity } from '@/theme/format'
import { shownUnit, toShown } from '@/theme/habits'
import { chooseWeatherFile } from '@/weather/weatherFile'
import { OF_WEATHER, useWorking } from '@/stores/useWorking'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { useSorting } from '@/tables/useSorting'
import AdjustmentSteps from './AdjustmentSteps.vue'
import AverageDays from './AverageDays.vue'
import CompareYears from './CompareYears.vue'
import MonthTable from './MonthTable.vue'
import QualityMarks from './QualityMarks.vue'
import SourceList from './SourceList.vue'
import TwelveNumbers from './TwelveNumbers.vue'
import YearsRecord from './YearsRecord.vue'
import YearChart from './YearChart.vue'
import { useWeatherChoice } from '@/weather/useWeatherChoice'

const store = useSchemeStore()
const { job, choose, request, cancel } = useWeatherChoice()
const year = shallowRef<WeatherAnswer | null>(null)
const library = shallowRef<WeatherAnswer[]>([])
const filter = ref('')
const isTwelve = ref(false)
useAskedAct({ 'twelve-numbers': () => (isTwelve.value = true) })
const brief = computed(() => store.evaluation?.weather ?? null)
const site = computed(() => store.document.site as { latitude: number; longitude: number; elevation?: number })
watch(
  () => brief.value?.digest,
  async (digest) => {
    year.value = digest ? await api.weatherYear(digest) : null
    library.value = await api.weatherLibrary()
  },
  { immediate: true },
)
const isSources = ref(false)
const isCompared = ref(false)
const compared = shallowRef<WeatherAnswer[]>([])
const ticked = ref<string[]>([])
const at = computed(() => ({ ...site.value, elevation: site.value.elevation ?? 0 }))
async function compare(years: WeatherAnswer[]) {
  isSources.value = false
  compared.value = years
  isCompared.value = true
  library.value = await api.weatherLibrary()
}
const compareTicked = () => compare(library.value.filter((y) => ticked.value.includes(y.digest)))
const summary = computed(() => year.value?.summary)
const working = useWorking()
const degrees = (celsius: number) => number(toShown(celsius, '°C'), 1)
const facts = computed(() => {
  const s = summary.value!
  return [
    { key: 'ghi', name: 'Global horizontal (GHI)', value: number(s.annual_ghi), unit: 'kWh/m²' },
    { key: 'dni', name: 'Direct normal (DNI)', value: number(s.annual_dni), unit: 'kWh/m²' },
    { key: 'dhi', name: 'Diffuse horizontal (DHI)', value: number(s.annual_dhi), unit: 'kWh/m²' },
    { key: 'peak_sun_hours', name: 'Peak-sun hours a day', value: number(s.annual_ghi / days.value, 2), unit: 'h' },
    {
      key: 'temperature',
      name: 'Temperature, mean',
      value: `${degrees(s.lowest_temperature)} to ${degrees(s.highest_temperature)}, ${degrees(s.mean_temperature)}`,
      unit: shownUnit('°C'),
    },
    { key: 'wind', name: 'Mean wind at 10 m', value: number(s.mean_wind, 1), unit: 'm/s' },
    { key: 'clearness', name: 'Clearness', value: s.clearness == null ? 'show' : number(s.clearness, 2), unit: '' },
  ]
})
const days = computed(() => (new Date(Date.UTC(year.value!.year, 1, 29)).getUTCMonth() === 1 ? 366 : 365))
const drift = ref<number | null>(null)
const high = computed(() => (brief.value ? brief.value.elevation - (site.value.elevation ?? 0) : 0))
const sorting = useSorting('title')
const listed = computed(() => {
  const wanted = filter.value.toLowerCase()
  const found = library.value.filter((y) => `${y.title} ${y.source} ${y.file_name}`.toLowerCase().includes(wanted))
  const values = (y: WeatherAnswer) => ({
    title: y.title,
    source: y.source || y.file_name,
    ghi: y.summary.annual_ghi,
    place: y.latitude,
  })
  return sorting.sorted(found, (y, column) => values(y)[column as keyof ReturnType<typeof values>])
})
const closureWords = computed(() => {
  const closure = summary.value?.closure ?? 0
  return Math.abs(closure) < 0.0005
    ? 'GHI = DNI cos z + DHI holds'
    : `GHI differs from DNI cos z + DHI by ${percent(closure)}`
})
</script>
<template>
  <div class="bench">
    <header>
      <h2>Weather</h2>
      <div class="tools">
        <button type="button" class="link" @click="chooseWeatherFile()">Open a file…</button
        ><span class="soft">or drop or paste one anywhere</span
        ><button type="button" class="link" @click="isSources = true">Sources near the site…</button
        ><button type="button" class="link" @click="isTwelve = true">Twelve numbers…</button>
      </div>
    </header>
    <div v-if="job" class="job" role="status">
      <progress :value="job.progress" max="1" /> {{ job.message }}
      <button type="button" class="link" @click="cancel">Cancel</button>
    </div>
    <template v-if="year && summary && brief">
      <div class="facts">
        <p class="title serif">{{ year.title }}</p>
        <p>
          <span v-if="year.origin === 'service' && year.source.includes('simulated')" class="care"
            >△ {{ year.source[0]!.toUpperCase() + year.source.slice(1) }}; expected error of a year ±7 %.</span
          ><span v-else-if="year.origin === 'synthesis'" class="care"
            >△ From monthly values: its hours are drawn, not measured.</span
          ><span v-else-if="year.source" class="soft">{{ year.source }}</span>
        </p>
        <dl class="ruled">
          <div v-for="fact in facts" :key="fact.key">
            <dt>{{ fact.name }}</dt>
            <dd>
              <button type="button" class="fact" title="Show the working" @click="working.show(OF_WEATHER + fact.key)">
                <b>{{ fact.value }}</b>
              </button>
              {{ fact.unit }}
            </dd>
          </div>
          <div>
            <dt>Place</dt>
            <dd>{{ latitudeText(year.latitude) }}, {{ longitudeText(year.longitude) }}</dd>
          </div>
          <div>
            <dt>Distance from site</dt>
            <dd :class="{ care: brief.is_far || brief.is_high }">
              {{
                brief.distance < 1 && Math.abs(high) < 1
                  ? 'at the site'
                  : `${quantity(brief.distance, 'km')}${Math.abs(high) < 1 ? '' : `, ${quantity(Math.abs(high), 'm')} ${high > 0 ? 'higher' : 'lower'}`}`
              }}
            </dd>
          </div>
          <div>
            <dt>Clock</dt>
            <dd>
              {{ year.is_typical ? 'typical year' : year.year }}, {{ year.step }} min, UTC{{
                year.utc_offset >= 0 ? '+' : '−'
              }}{{ Math.abs(year.utc_offset) }}
            </dd>
          </div>
        </dl>
        <p v-if="brief.is_far || brief.is_high" class="care">
          △ This weather data is for another location.
          <button type="button" class="link" @click="request">Get weather for this site</button>
        </p>
      </div>
      <YearChart :year="year" />
      <MonthTable />
      <AverageDays />
      <QualityMarks :digest="year.digest" :drift="drift" />
      <YearsRecord :year="year" @drift="drift = $event" />
      <AdjustmentSteps :year="year" />
      <div class="notes">
        <h3>Import notes</h3>
        <ul>
          <li>{{ closureWords }}.</li>
          <li v-if="summary.closure_warning" class="care">△ {{ summary.closure_warning }}</li>
          <li v-if="summary.clock_warning" class="care">△ {{ summary.clock_warning }}</li>
          <li v-for="note in year.notes" :key="note">{{ note }}</li>
        </ul>
        <p class="soft">
          As a file: <a class="link" :href="api.weatherFile(year.digest, 'csv')">weather table</a>
          <a class="link" :href="api.weatherFile(year.digest, 'epw')">EPW</a>
          <a class="link" :href="api.weatherFile(year.digest, 'covjson')">CoverageJSON</a>
          <a class="link" :href="api.weatherFile(year.digest, 'parquet')">Parquet</a>
        </p>
      </div>
    </template>
    <p v-else-if="brief" class="soft empty">Reading {{ brief.title }}…</p>
    <div v-else-if="!job" class="empty">
      <p class="serif">No weather data yet.</p>
      <p class="soft">Everything else is calculated from an hourly weather year.</p>
      <p>
        <button type="button" class="button strong" @click="request">Get weather for this site</button>
        <button type="button" class="button" @click="chooseWeatherFile()">Open a file…</button>
        <button type="button" class="button" @click="isTwelve = true">Twelve numbers…</button>
      </p>
    </div>
    <v-dialog role="none" :aria-modal="null" v-model="isTwelve" max-width="560">
      <TwelveNumbers
        v-if="isTwelve"
        @close="isTwelve = false"
        @made="
          (made) => {
            isTwelve = false
            choose(made)
          }
        "
      />
    </v-dialog>
    <v-dialog role="none" :aria-modal="null" v-model="isSources" max-width="860">
      <SourceList v-if="isSources" :site="at" @close="isSources = false" @fetched="compare" />
    </v-dialog>
    <v-dialog role="none" :aria-modal="null" v-model="isCompared" max-width="900">
      <CompareYears
        v-if="isCompared"
        :years="compared"
        :site="at"
        @close="isCompared = false"
        @choose="
          (chosen) => {
            isCompared = false
            choose(chosen)
          }
        "
      />
    </v-dialog>
    <section class="library">
      <header>
        <h3>Library</h3>
        <input
          v-model="filter"
          class="field"
          type="search"
          placeholder="Filter"
          aria-label="Filter the weather library"
        /><CopyTable within=".library" /><button type="button" class="link" @click="request">
          Get weather for this site
        </button>
        <button type="button" class="link" :disabled="ticked.length < 2" @click="compareTicked">
          Compare {{ ticked.length > 1 ? ticked.length : '' }}
        </button>
      </header>
      <table class="ledger">
        <thead>
          <tr>
            <th scope="col"><span class="sr">Acts</span></th>
            <SortHead column="title" :sorting="sorting">Year</SortHead>
            <SortHead column="source" :sorting="sorting">Source</SortHead>
            <SortHead column="ghi" :sorting="sorting" class="num">GHI [kWh/m²]</SortHead>
            <SortHead column="place" :sorting="sorting" class="num">Place</SortHead>
          </tr>
        </thead>
        <tbody>
          <tr v-for="y in listed" :key="y.digest" :class="{ on: y.digest === brief?.digest }">
            <td>
              <input
                v-model="ticked"
                type="checkbox"
                :value="y.digest"
                :aria-label="`Compare ${y.title}`"
                :disabled="ticked.length >= 5 && !ticked.includes(y.digest)"
              />
            </td>
            <td>
              <button type="button" class="name" :aria-current="y.digest === brief?.digest" @click="choose(y)">
                {{ y.title }}
              </button>
            </td>
            <td class="soft">{{ y.source || y.file_name }}</td>
            <td class="num">{{ number(y.summary.annual_ghi) }}</td>
            <td class="num">{{ latitudeText(y.latitude) }}, {{ longitudeText(y.longitude) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="!listed.length" class="soft">No weather years match.</p>
    </section>
  </div>
</template>
<style scoped>
.bench {
  display: grid;
  gap: 10px;
}
.library header {
  display: flex;
  gap: 16px;
  align-items: baseline;
  justify-content: space-between;
}
.title {
  font-size: 17px;
  font-weight: 600;
}
dd {
  white-space: nowrap;
}
dl {
  grid-template-columns: repeat(3, auto);
  gap: 0 26px;
  margin: 8px 0 4px;
  font-size: 12.5px;
}
.notes {
  font-size: 12.5px;
}
.notes ul {
  margin: 4px 0 6px;
  padding-left: 18px;
}
.library {
  margin-top: 8px;
}
.library header {
  justify-content: start;
  margin-bottom: 4px;
}
.library .link {
  font-size: 12px;
}
.library .link:first-of-type {
  margin-left: auto;
}
.fact {
  border-bottom: 1.5px dotted var(--haze);
}
.name {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.on td {
  background: var(--pick);
}
.empty {
  padding: 50px 0;
  text-align: center;
  display: grid;
  gap: 8px;
}
.empty .serif {
  font-size: 22px;
  font-weight: 600;
}
.job {
  padding: 8px 0;
}
@media (max-width: 1150px) {
  dl {
    grid-template-columns: repeat(2, 1fr);
  }
}
</style>
