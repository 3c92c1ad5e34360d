<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, type PlaceAnswer } from '@/api/client'
import { useDesign } from '@/stores/design'
import { useScheme } from '@/stores/useScheme'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { number } from '@/theme/format'
import { useNotice } from '@/shell/useNotice'
import { useWeatherChoice } from '@/weather/useWeatherChoice'
import HorizonEditor from './HorizonEditor.vue'
import PlaceSearch from '@/places/PlaceSearch.vue'
import WorldMap from './WorldMap.vue'

const design = useDesign()
const scheme = useScheme()
const route = useRoute()
const { warn } = useNotice()
const weather = useWeatherChoice()
const asks = ref(false)
const site = computed(() => scheme.site.value)
const offset = computed(() => design.evaluation?.weather)

async function move(place: Pick<PlaceAnswer, 'latitude' | 'longitude' | 'name' | 'time_zone'>, name: string) {
  design.edit({ site: { latitude: place.latitude, longitude: place.longitude, name, time_zone: place.time_zone } })
  await design.settled()
  asks.value = design.evaluation?.weather?.is_far ?? false
}
async function click(latitude: number, longitude: number) {
  try {
    const place = await api.placeAt(latitude, longitude)
    await move({ ...place, latitude, longitude }, place.name)
  } catch (error) {
    warn((error as Error).message)
  }
}
async function typedCoordinate() {
  try {
    await design.settled()
    const place = await api.placeAt(site.value.latitude, site.value.longitude)
    design.edit({ site: { time_zone: place.time_zone } })
    await design.settled()
    asks.value = design.evaluation?.weather?.is_far ?? false
  } catch (error) {
    warn((error as Error).message)
  }
}
async function fetchOwn() {
  asks.value = false
  await weather.request()
}
const rename = (name: string) => {
  if (name !== site.value.name) design.edit({ site: { name: name || null } })
}
const zone = (name: string) => {
  if (name !== site.value.time_zone) design.edit({ site: { time_zone: name || null } })
}
const zoneFault = computed(() => design.refused.find((finding) => finding.pointer === '/site/time_zone')?.detail)
const zones = Intl.supportedValuesOf('timeZone')
function goBack() {
  asks.value = false
  void design.undo()
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
    </header>
    <div v-if="asks && offset" class="ask" role="alertdialog" aria-label="The weather belongs elsewhere">
      <p>
        <b>The weather belongs elsewhere now.</b> {{ offset.title }} lies {{ number(offset.distance) }} km from the new
        site. The height stays {{ number(site.elevation ?? 0) }} m until you type another.
      </p>
      <p class="acts">
        <button type="button" class="button strong" @click="fetchOwn">Ask the service for the new site's</button
        ><button type="button" class="button" @click="asks = false">Keep it</button
        ><button type="button" class="button quiet" @click="goBack">Go back to the old site</button>
      </p>
    </div>
    <WorldMap :latitude="site.latitude" :longitude="site.longitude" @place="click" />
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
        <dt>Height</dt>
        <dd><BriefNumber pointer="/site/elevation" label="Height" /></dd>
      </div>
      <div>
        <dt>Time zone</dt>
        <dd>
          <BriefText
            list="zones"
            :value="site.time_zone"
            placeholder="found from the point"
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
          }}<MonthlyValues v-if="!site.albedo_by_month" pointer="/site/albedo_by_month" label="Albedo" />
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
    <section v-if="site.albedo_by_month" class="albedo">
      <h3>Albedo by month</h3>
      <MonthlyValues pointer="/site/albedo_by_month" label="Albedo" />
    </section>
    <HorizonEditor />
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
