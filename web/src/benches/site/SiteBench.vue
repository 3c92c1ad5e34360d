<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, type PlaceAnswer } from '@/api/client'
import { useAskedAct } from '@/stores/useAskedAct'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { quantity } from '@/theme/format'
import { useNotice } from '@/notice/useNotice'
import { useWeatherChoice } from '@/weather/useWeatherChoice'
import PlaceCodes from '@/places/PlaceCodes.vue'
import PlaceSearch from '@/places/PlaceSearch.vue'
import PlanPicture from './PlanPicture.vue'
import type { Plan } from './planPicture'
import { sitesOf, type RegionSite } from './region'
import RegionSites from './RegionSites.vue'
import WorldMap from './WorldMap.vue'

const store = useSchemeStore()
const route = useRoute()
const { say, warn } = useNotice()
const weather = useWeatherChoice()
/** The site was moved here: once its figures are in, they say whether the weather is now for another place. */
const isMoved = ref(false)
const isCodes = ref(false)
const site = computed(() => store.site)
const offset = computed(() => store.evaluation?.weather)
const asks = computed(() => isMoved.value && !store.isStale && offset.value?.is_far)

/** A moved site gets the height of its new place with it: the weather and the air pressure follow from it. */
async function heightOf(latitude: number, longitude: number): Promise<{ elevation?: number }> {
  try {
    return { elevation: (await api.elevation(latitude, longitude)).elevation }
  } catch {
    say('No elevation from the service for this place; the old one is kept.')
    return {}
  }
}
async function move(place: Pick<PlaceAnswer, 'latitude' | 'longitude' | 'name' | 'time_zone'>, name: string) {
  const { latitude, longitude, time_zone } = place
  const before = site.value.elevation ?? 0
  const height = await heightOf(latitude, longitude)
  store.edit({ site: { latitude, longitude, name, time_zone, ...height } })
  await store.flush()
  isMoved.value = true
  if (height.elevation !== undefined && height.elevation !== before)
    say(`Elevation ${quantity(height.elevation, 'm')}, from the elevation map.`, {
      label: `Keep ${quantity(before, 'm')}`,
      run: () => store.edit({ site: { elevation: before } }),
    })
}
const click = (latitude: number, longitude: number) => moveTo({ latitude, longitude })
async function typedCoordinate() {
  try {
    await store.flush()
    const { latitude, longitude } = site.value
    const place = await api.placeAt(latitude, longitude)
    store.edit({ site: { time_zone: place.time_zone, ...(await heightOf(latitude, longitude)) } })
    await store.flush()
    isMoved.value = true
  } catch (error) {
    warn((error as Error).message)
  }
}
async function fetchOwn() {
  isMoved.value = false
  await weather.request()
}
const isPlan = ref(false)
useAskedAct({ 'place-codes': () => (isCodes.value = true), 'map-picture': () => (isPlan.value = true) })
const map = ref<InstanceType<typeof WorldMap> | null>(null)
const plan = computed(() => store.at('/site/map_picture') as unknown as Plan | undefined)
const regionSites = computed(() => Object.values(sitesOf(store.at('/site/region'))))
function showPlan() {
  isPlan.value = false
  map.value?.lookAtPlan()
}
async function moveTo({ latitude, longitude, name }: RegionSite) {
  try {
    const place = await api.placeAt(latitude, longitude)
    await move({ ...place, latitude, longitude }, name || place.name)
  } catch (error) {
    warn((error as Error).message)
  }
}
const gridFile = ref<HTMLInputElement | null>(null)
/** The elevation of the site, from a height grid of the user's own. */
async function heightFromFile(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (!file) return
  try {
    const { elevation } = await api.terrainHeight(file, site.value)
    const before = site.value.elevation ?? 0
    store.edit({ site: { elevation } })
    say(`Elevation ${quantity(elevation, 'm')}, from ${file.name}.`, {
      label: `Keep ${quantity(before, 'm')}`,
      run: () => store.edit({ site: { elevation: before } }),
    })
  } catch (error) {
    warn((error as Error).message)
  }
}
const snow = () => store.edit({ site: { snow_by_month: Array.from({ length: 12 }, () => 0) } })
const rename = (name: string) => {
  if (name !== site.value.name) store.edit({ site: { name: name || null } })
}
const zone = (name: string) => {
  if (name !== site.value.time_zone) store.edit({ site: { time_zone: name || null } })
}
const zoneFault = computed(() => store.refused.find((finding) => finding.pointer === '/site/time_zone')?.detail)
const zones = Intl.supportedValuesOf('timeZone')
function goBack() {
  isMoved.value = false
  void store.undo()
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Site</h2>
      <PlaceSearch
        :start="typeof route.query.find === 'string' ? route.query.find : ''"
        @found="move($event, $event.name)"
      />
      <button type="button" class="link" @click="isCodes = true">Codes of your own…</button>
      <button type="button" class="link" @click="isPlan = true">
        {{ plan ? 'Picture on the map…' : 'Lay a picture on the map…' }}
      </button>
    </header>
    <v-dialog role="none" :aria-modal="null" v-model="isCodes" max-width="560"
      ><PlaceCodes v-if="isCodes" @close="isCodes = false"
    /></v-dialog>
    <v-dialog role="none" :aria-modal="null" v-model="isPlan" max-width="760">
      <PlanPicture v-if="isPlan" @close="isPlan = false" @show="showPlan" />
    </v-dialog>
    <div v-if="asks && offset" class="ask" role="alertdialog" aria-label="Weather data for another location">
      <p>
        <b>The weather data is for another location.</b> {{ offset.title }} is for a place
        {{ quantity(offset.distance, 'km') }} from the new site, which is at {{ quantity(site.elevation ?? 0, 'm') }}.
      </p>
      <p class="acts">
        <button type="button" class="button strong" @click="fetchOwn">Get weather for the new site</button
        ><button type="button" class="button" @click="isMoved = false">Keep this weather</button
        ><button type="button" class="button quiet" @click="goBack">Undo the move</button>
      </p>
    </div>
    <WorldMap
      ref="map"
      :latitude="site.latitude"
      :longitude="site.longitude"
      :sites="regionSites"
      :plan="plan"
      @place="click"
    />
    <dl>
      <div>
        <dt>Name</dt>
        <dd><BriefText :value="site.name" placeholder="name the site" label="Name of the site" @change="rename" /></dd>
      </div>
      <div>
        <dt>Latitude</dt>
        <dd>
          <BriefNumber pointer="/site/latitude" label="Latitude" @changed="typedCoordinate" />
          <span class="soft">({{ site.latitude < 0 ? 'south' : 'north' }})</span>
        </dd>
      </div>
      <div>
        <dt>Longitude</dt>
        <dd>
          <BriefNumber pointer="/site/longitude" label="Longitude" @changed="typedCoordinate" />
          <span class="soft">({{ site.longitude < 0 ? 'west' : 'east' }})</span>
        </dd>
      </div>
      <div>
        <dt>Elevation</dt>
        <dd>
          <BriefNumber pointer="/site/elevation" label="Elevation" />
          <button
            type="button"
            class="link"
            title="From a height grid: GeoTIFF or ESRI ASCII"
            @click="gridFile?.click()"
          >
            from a grid…
          </button>
          <input ref="gridFile" type="file" hidden accept=".asc,.txt,.tif,.tiff" @change="heightFromFile" />
        </dd>
      </div>
      <div>
        <dt>Time zone</dt>
        <dd>
          <BriefText
            list="zones"
            :value="site.time_zone"
            placeholder="detected from the coordinates"
            label="Time zone"
            @change="zone"
          /><datalist id="zones"><option v-for="z in zones" :key="z" :value="z" /></datalist>
          <p v-if="zoneFault" class="bad fault" role="alert">{{ zoneFault }}</p>
        </dd>
      </div>
      <div>
        <dt>Albedo</dt>
        <dd>
          <BriefNumber v-if="!site.albedo_by_month" pointer="/site/albedo" label="Albedo" />
          <span v-else class="soft">by month, below</span>{{ ' '
          }}<MonthlyValues v-if="!site.albedo_by_month" pointer="/site/albedo_by_month" label="Albedo" />{{ ' '
          }}<button v-if="!site.snow_by_month" type="button" class="link" @click="snow">snow…</button>
        </dd>
      </div>
      <div>
        <dt>Coldest</dt>
        <dd>
          <BriefNumber
            pointer="/site/lowest_temperature"
            label="Lowest temperature"
            :fallback="offset?.lowest"
            origin="The lowest of the weather year; a record of many years is safer."
          />
        </dd>
      </div>
      <div>
        <dt>Hottest</dt>
        <dd>
          <BriefNumber
            pointer="/site/highest_temperature"
            label="Highest temperature"
            :fallback="offset?.highest"
            origin="The highest of the weather year."
          />
        </dd>
      </div>
    </dl>
    <section v-if="site.snow_by_month" class="albedo">
      <h3>
        Days with snow on the ground [%], albedo of snow
        <BriefNumber pointer="/site/snow_albedo" label="Albedo of snow" />
        <button type="button" class="link" @click="store.edit({ site: { snow_by_month: null, snow_albedo: null } })">
          no snow
        </button>
      </h3>
      <MonthlyValues pointer="/site/snow_by_month" label="Snow cover" is-needed />
    </section>
    <section v-if="site.albedo_by_month" class="albedo">
      <h3>Albedo by month</h3>
      <MonthlyValues pointer="/site/albedo_by_month" label="Albedo" />
    </section>
    <RegionSites @move="moveTo" />
  </div>
</template>
<style scoped>
header {
  justify-content: start;
}
dl {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 0 26px;
  margin: 10px 0 4px;
}
dl div {
  border-bottom: 1px solid var(--rule);
  padding: 5px 0;
  min-width: 0;
}
dt {
  color: var(--soft);
  font-size: 11.5px;
}
dd {
  margin: 0;
  white-space: nowrap;
}
.fault {
  font-size: 11.5px;
  white-space: normal;
}
.ask {
  border-left: 3px solid var(--caution);
  background: var(--paper);
  padding: 10px 14px;
  margin-bottom: 10px;
  display: grid;
  gap: 8px;
}
.albedo {
  margin-top: 12px;
}
.albedo h3 {
  margin-bottom: 4px;
}
.albedo :deep(.months) {
  grid-template-columns: repeat(12, minmax(0, 1fr));
}
</style>
