<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useMoment } from '@/tideline/useMoment'
import { useSeries } from '@/tideline/useSeries'
import { useNotice } from '@/notice/useNotice'
import HoursChart from './HoursChart.vue'
import { asCells, plotSeries, windowAround, type Scale } from './hoursPlot'

const SCALES: Scale[] = ['day', 'month', 'year']
const route = useRoute()
const router = useRouter()
const store = useSchemeStore()
const moment = useMoment()
const { say } = useNotice()
const chart = ref<InstanceType<typeof HoursChart>>()
const adding = ref('')
const keys = computed(() =>
  typeof route.query.plot === 'string' && route.query.plot ? route.query.plot.split(',') : ['delivered', 'poa'],
)
const subarray = computed(() =>
  typeof route.query.subarray === 'string' ? route.query.subarray : (store.subarrays[0]?.id ?? ''),
)
const scale = computed(() => SCALES.find((s) => s === route.query.scale) ?? 'day')
const { columns, fault } = useSeries(keys, subarray)
const put = (query: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...query } })

const isDaily = computed(() => scale.value === 'year' && !moment.range.value)
const series = computed(() => {
  if (!columns.value) return []
  const per = moment.perDay.value
  const year = { perDay: per, days: moment.days.value, timeOf: moment.timeOf }
  const range = moment.range.value
  const shown = range
    ? ([Math.floor(range.from / per) * per, (Math.floor(range.to / per) + 1) * per] as const)
    : windowAround(scale.value, Math.floor(moment.interval.value / per), year)
  return plotSeries(columns.value, shown, isDaily.value, year)
})
/** Steps of four days and fewer can be told apart. */
const isStepped = computed(() => !isDaily.value && (series.value[0]?.points.length ?? 0) <= 4 * moment.perDay.value)
function add() {
  if (adding.value && !keys.value.includes(adding.value)) put({ plot: [...keys.value, adding.value].join(',') })
  adding.value = ''
}
const drop = (key: string) => put({ plot: keys.value.filter((k) => k !== key).join(',') || 'delivered' })
const title = (key: string) => store.quantities.find((q) => q.key === key)?.title ?? key
function rescale(to: Scale) {
  moment.clearRange()
  put({ scale: to, from: undefined, to: undefined })
}
async function copyPicture() {
  const blob = await chart.value?.picture()
  if (!blob) return
  await navigator.clipboard.write([new ClipboardItem({ 'image/png': blob })])
  say('The picture is copied.')
}
async function copyTable() {
  const rows = asCells(series.value)
  await navigator.clipboard.writeText(rows.map((row) => row.join('\t')).join('\n'))
  say(`${rows.length - 1} rows are copied as cells.`)
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Hours</h2>
      <span class="scales soft"
        ><button
          v-for="s in SCALES"
          :key="s"
          type="button"
          class="link"
          :aria-pressed="scale === s && !moment.range.value"
          @click="rescale(s)"
        >
          {{ s }}</button
        ><span v-if="moment.range.value">the Tideline's range</span></span
      >
      <span class="tools"
        ><button type="button" class="link" :disabled="!series.length" @click="copyPicture">Copy picture</button
        ><button type="button" class="link" :disabled="!series.length" @click="copyTable">Copy cells</button
        ><a v-if="store.saved" class="link" :href="api.hourlyCsv(store.saved.id, keys, subarray)" download
          >Whole year as CSV</a
        ></span
      >
    </header>
    <p class="chosen">
      <span v-for="key in keys" :key="key" class="chip"
        >{{ title(key) }} <button type="button" :aria-label="`Remove ${title(key)}`" @click="drop(key)">✕</button></span
      >
      <select v-model="adding" class="blank" aria-label="Add a quantity" @change="add">
        <option value="">add a quantity…</option>
        <option v-for="q in store.quantities.filter((x) => !keys.includes(x.key))" :key="q.key" :value="q.key">
          {{ q.title }}{{ q.unit ? ` [${q.unit}]` : '' }}
        </option>
      </select>
      <label v-if="store.subarrays.length > 1" class="soft"
        >of sub-array
        <select class="blank" :value="subarray" @change="put({ subarray: ($event.target as HTMLSelectElement).value })">
          <option v-for="s in store.subarrays" :key="s.id" :value="s.id">{{ s.name }}</option>
        </select></label
      >
    </p>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <HoursChart
      ref="chart"
      :series="series"
      :is-stepped="isStepped"
      :label="`Chart of ${keys.map(title).join(', ')}`"
    />
    <p class="soft caption">
      The Tideline below picks the day; drag over it for a range. Wheel or slider zooms.{{
        isDaily ? ' Over the year, each point is the mean of a day.' : ''
      }}
    </p>
  </div>
</template>
<style scoped>
.bench {
  display: grid;
  grid-template-rows: auto auto 1fr auto;
  height: 100%;
  min-height: 420px;
}
.scales {
  display: flex;
  gap: 12px;
  font-size: 12px;
}
.tools {
  margin-left: auto;
}
.chosen {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
  margin: 8px 0;
  align-items: baseline;
  font-size: 12.5px;
}
.chip {
  border-bottom: 1px solid var(--rule-strong);
}
.chip button {
  color: var(--soft);
  padding: 0 4px;
}
</style>
