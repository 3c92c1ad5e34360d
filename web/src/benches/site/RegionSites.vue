<script setup lang="ts">
import { computed, ref } from 'vue'
import { useDropped } from '@/stores/droppedFile'
import { api } from '@/api/client'
import { valueAt } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useJob } from '@/stores/useJob'
import { useNotice } from '@/notice/useNotice'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { useSorting } from '@/tables/useSorting'
import { latitudeText, longitudeText, number, percent, signed } from '@/theme/format'
import { geoJsonOf, sitesOf, spanOf, type RegionSite } from './region'

/** Several sites of a region, and how much their irradiation differs. */
const emit = defineEmits<{ move: [site: RegionSite] }>()
const store = useSchemeStore()
const { warn } = useNotice()
const { job, follow, cancel } = useJob()
const sites = computed(() => sitesOf(store.at('/site/region')))
const count = computed(() => Object.keys(sites.value).length)
const filter = ref('')
const sorting = useSorting('name')
const own = computed(() => store.evaluation?.headline?.horizontal_irradiation ?? null)
const listed = computed(() => {
  const wanted = filter.value.toLowerCase()
  const rows = Object.entries(sites.value)
    .map(([key, site]) => ({ key, ...site }))
    .filter((row) => (row.name ?? '').toLowerCase().includes(wanted))
  return sorting.sorted(rows, (row, column) =>
    column === 'name' ? (row.name ?? '') : column === 'place' ? row.latitude : (row.annual_ghi ?? 0),
  )
})
const span = computed(() => spanOf(Object.values(sites.value)))
const missing = computed(() => Object.entries(sites.value).filter(([, site]) => site.annual_ghi == null))

function open(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  input.value = ''
  if (file) void take(file)
}
useDropped('region', ({ file }) => take(file))
async function take(file: File) {
  try {
    const found = await api.regionLayer(file)
    const old = Object.fromEntries(Object.keys(sites.value).map((key) => [key, null]))
    const fresh = Object.fromEntries(found.map((site, i) => [`s${i + 1}`, { ...site, annual_ghi: null }]))
    store.edit({ site: { region: { ...old, ...fresh } } })
  } catch (error) {
    warn((error as Error).message)
  }
}
async function ask() {
  try {
    const scheme = store.editor!
    const wanted = missing.value.length ? missing.value : Object.entries(sites.value)
    const places = wanted.map(([key, { latitude, longitude }]) => ({ key, latitude, longitude }))
    const ended = await follow(await api.requestRegion(places))
    if (ended.state === 'failed') warn(`The weather service gave no irradiation. ${ended.message}`)
    if (ended.state !== 'done') return
    const { annual_ghi } = ended.result as { annual_ghi: Record<string, number> }
    // Another layer may have been opened since, or another scheme: a site keeps what was asked for its own place.
    const now = sitesOf(valueAt(scheme.document.value, '/site/region'))
    const known = wanted.filter(
      ([key, asked]) =>
        key in annual_ghi && now[key]?.latitude === asked.latitude && now[key]?.longitude === asked.longitude,
    )
    scheme.edit({ site: { region: Object.fromEntries(known.map(([key]) => [key, { annual_ghi: annual_ghi[key]! }])) } })
  } catch (error) {
    warn((error as Error).message)
  }
}
const remove = (key: string) => store.edit({ site: { region: { [key]: null } } })
const removeAll = () => store.edit({ site: { region: null } })
const layer = computed(
  () => `data:application/geo+json;charset=utf-8,${encodeURIComponent(geoJsonOf(Object.values(sites.value)))}`,
)
</script>
<template>
  <section class="region">
    <header>
      <h3>Sites of the region</h3>
      <label class="link"
        >{{ count ? 'Another layer…' : 'Open a GeoJSON layer…'
        }}<input type="file" accept=".geojson,.json,application/geo+json" class="sr" @change="open"
      /></label>
      <template v-if="count">
        <button type="button" class="link" :disabled="!!job" @click="ask">
          {{ missing.length ? `Get the irradiation of ${missing.length}` : 'Get the irradiation again' }}
        </button>
        <a class="link" :href="layer" download="sites.geojson">As GeoJSON</a>
        <CopyTable within=".region" />
        <button type="button" class="link" @click="removeAll">Remove all</button>
        <input
          v-if="count > 8"
          v-model="filter"
          class="field"
          type="search"
          placeholder="Filter"
          aria-label="Filter the sites of the region"
        />
      </template>
      <span v-else class="soft">points of a region, to see how much the light differs among them</span>
    </header>
    <p v-if="job" role="status">
      <progress :value="job.progress" max="1" /> {{ job.message }}
      <button type="button" class="link" @click="cancel">Cancel</button>
    </p>
    <p v-if="span && span.count > 1">
      <b>{{ number(span.low) }} to {{ number(span.high) }} kWh/m²</b> a year among {{ span.count }} sites: the
      brightest, {{ span.brightest }}, has {{ percent(span.high / span.low - 1) }} more than the darkest,
      {{ span.darkest }}.
    </p>
    <div v-if="count" class="long">
      <table class="ledger" aria-label="Sites of the region">
        <thead>
          <tr>
            <SortHead column="name" :sorting="sorting">Site</SortHead>
            <SortHead column="place" :sorting="sorting" class="num">Place</SortHead>
            <SortHead column="ghi" :sorting="sorting" class="num">GHI [kWh/m²]</SortHead>
            <th class="num">to this site</th>
            <th scope="col"><span class="sr">Acts</span></th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in listed" :key="row.key">
            <td>{{ row.name }}</td>
            <td class="num">{{ latitudeText(row.latitude) }}, {{ longitudeText(row.longitude) }}</td>
            <td class="num">{{ row.annual_ghi == null ? '–' : number(row.annual_ghi) }}</td>
            <td class="num">
              {{ row.annual_ghi == null || !own ? '–' : `${signed((row.annual_ghi / own - 1) * 100, 1)} %` }}
            </td>
            <td class="num">
              <button
                type="button"
                class="link"
                data-acts
                :aria-label="`Move the site to ${row.name}`"
                @click="emit('move', row)"
              >
                move here
              </button>
              <button type="button" class="link" data-acts :aria-label="`Remove ${row.name}`" @click="remove(row.key)">
                ×
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
<style scoped>
.region {
  display: grid;
  gap: 6px;
  font-size: 12.5px;
  margin-top: 14px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: baseline;
  justify-content: start;
}
.long {
  max-height: 260px;
  overflow-y: auto;
}
label.link {
  cursor: pointer;
}
label:focus-within {
  outline: 2px solid var(--current);
}
td .link {
  margin-left: 10px;
}
</style>
