<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { LineChart } from 'echarts/charts'
import { DataZoomComponent, GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { init, use, type ECharts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { api } from '@/api/client'
import { useLibrary } from '@/stores/library'
import { useDesign } from '@/stores/design'
import { useScheme } from '@/stores/useScheme'
import { token, useTheme } from '@/theme/useTheme'
import { useMoment } from '@/tideline/useMoment'
import { useSeries } from '@/tideline/useSeries'
import { useNotice } from '@/shell/useNotice'
import { plain } from '@/theme/format'

use([LineChart, GridComponent, TooltipComponent, DataZoomComponent, LegendComponent, CanvasRenderer])
const route = useRoute()
const router = useRouter()
const library = useLibrary()
const design = useDesign()
const scheme = useScheme()
const moment = useMoment()
const { dark } = useTheme()
const { say } = useNotice()
const place = ref<HTMLElement>()
const chart = shallowRef<ECharts | null>(null)
const adding = ref('')
const keys = computed(() =>
  typeof route.query.plot === 'string' && route.query.plot ? route.query.plot.split(',') : ['delivered', 'poa'],
)
const subarray = computed(() =>
  typeof route.query.subarray === 'string' ? route.query.subarray : (scheme.subarrays.value[0]?.id ?? ''),
)
const scale = computed(() =>
  ['day', 'month', 'year'].includes(String(route.query.scale)) ? String(route.query.scale) : 'day',
)
const { columns, fault } = useSeries(keys, subarray)
const put = (query: Record<string, string | undefined>) => void router.replace({ query: { ...route.query, ...query } })
const shownWindow = computed(() => {
  const per = moment.perDay.value
  const day = Math.floor(moment.interval.value / per)
  if (moment.range.value)
    return [
      Math.floor(moment.range.value.from / per) * per,
      (Math.floor(moment.range.value.to / per) + 1) * per,
    ] as const
  if (scale.value === 'day') return [Math.max(0, day - 1) * per, Math.min(moment.days.value, day + 2) * per] as const
  if (scale.value === 'month')
    return [Math.max(0, day - 15) * per, Math.min(moment.days.value, day + 16) * per] as const
  return [0, moment.intervals.value] as const
})
/** Over the whole year a point is a day's mean: 8,760 points on 700 pixels would be a smear. */
const series = computed(() => {
  const all = columns.value
  if (!all) return []
  const [from, to] = shownWindow.value
  const daily = scale.value === 'year' && !moment.range.value
  const per = moment.perDay.value
  return all.columns.map((column) => {
    const points: [number, number][] = []
    const by = column.unit === 'W' ? 1000 : 1
    if (daily)
      for (let d = 0; d < moment.days.value; d++) {
        let sum = 0
        for (let k = 0; k < per; k++) sum += column.values[d * per + k]!
        points.push([moment.timeOf(d * per + per / 2).getTime(), sum / per / by])
      }
    else for (let i = from; i < to; i++) points.push([moment.timeOf(i).getTime(), column.values[i]! / by])
    return { key: column.key, title: column.title, unit: column.unit === 'W' ? 'kW' : column.unit, points }
  })
})
const DASHES = ['solid', 'dashed', 'dotted'] as const
function draw() {
  if (!chart.value || !series.value.length) return
  const units = [...new Set(series.value.map((s) => s.unit))]
  const text = { color: token('soft'), fontFamily: 'Inter Variable', fontSize: 11 }
  const seen: Record<string, number> = {}
  chart.value.setOption(
    {
      animation: false,
      backgroundColor: token('sheet'),
      textStyle: text,
      grid: {
        left: 54,
        right: units.length > 1 ? 6 + (units.length - 1) * 50 : 18,
        top: series.value.length > 3 ? 66 : 48,
        bottom: 62,
      },
      legend: { top: 2, left: 40, textStyle: { ...text, color: token('ink') }, itemHeight: 2, icon: 'rect' },
      tooltip: {
        trigger: 'axis',
        backgroundColor: token('sheet'),
        borderColor: token('rule-strong'),
        textStyle: { ...text, color: token('ink') },
        valueFormatter: (v: number) => plain(v),
      },
      xAxis: {
        type: 'time',
        axisLine: { lineStyle: { color: token('ink') } },
        axisLabel: text,
        useUTC: true,
        splitLine: { show: false },
      },
      yAxis: units.map((unit, i) => ({
        type: 'value',
        name: unit,
        position: i ? 'right' : 'left',
        offset: i > 1 ? (i - 1) * 50 : 0,
        nameTextStyle: text,
        axisLabel: text,
        splitLine: { show: i === 0, lineStyle: { color: token('rule') } },
        scale: unit === '°C',
        min:
          unit === '°C'
            ? undefined
            : (extent: { min: number; max: number }) =>
                extent.min > -0.05 * extent.max ? 0 : (null as unknown as number),
      })),
      dataZoom: [
        { type: 'inside' },
        {
          type: 'slider',
          height: 18,
          bottom: 12,
          borderColor: token('rule'),
          fillerColor: token('pick'),
          handleStyle: { color: token('haze') },
          moveHandleSize: 0,
          brushSelect: false,
          selectedDataBackground: { lineStyle: { color: token('haze') }, areaStyle: { color: token('rule') } },
          textStyle: text,
          dataBackground: { lineStyle: { color: token('haze') }, areaStyle: { color: token('night') } },
        },
      ],
      series: series.value.map((s) => {
        const colour = library.quantities.find((q) => q.key === s.key)?.colour ?? 'haze'
        const nth = (seen[colour] = (seen[colour] ?? -1) + 1)
        return {
          name: `${s.title}${s.unit ? ` [${s.unit}]` : ''}`,
          type: 'line',
          showSymbol: false,
          data: s.points,
          yAxisIndex: units.indexOf(s.unit),
          lineStyle: { width: 1.7, type: DASHES[nth % 3] },
          itemStyle: { color: token(colour) },
          areaStyle: s.key === 'delivered' ? { opacity: 0.16 } : undefined,
        }
      }),
      useUTC: true,
    },
    true,
  )
}
watch([series, dark], draw)
let observer: ResizeObserver | null = null
onMounted(() => {
  chart.value = init(place.value!)
  observer = new ResizeObserver(() => chart.value?.resize())
  observer.observe(place.value!)
  draw()
})
onBeforeUnmount(() => {
  observer?.disconnect()
  chart.value?.dispose()
})
function add() {
  if (adding.value && !keys.value.includes(adding.value)) put({ plot: [...keys.value, adding.value].join(',') })
  adding.value = ''
}
const drop = (key: string) => put({ plot: keys.value.filter((k) => k !== key).join(',') || 'delivered' })
const title = (key: string) => library.quantities.find((q) => q.key === key)?.title ?? key
async function copyPicture() {
  const canvas = chart.value?.renderToCanvas({ pixelRatio: 2, backgroundColor: token('sheet') })
  const blob = await new Promise<Blob | null>((done) => {
    if (canvas) canvas.toBlob(done)
    else done(null)
  })
  if (!blob) return
  await navigator.clipboard.write([new ClipboardItem({ 'image/png': blob })])
  say('The picture is copied.')
}
async function copyTable() {
  const first = series.value[0]
  if (!first) return
  const rows = [
    ['time', ...series.value.map((s) => `${s.title} [${s.unit}]`)],
    ...first.points.map(([time], i) => [
      new Date(time).toISOString().slice(0, 16),
      ...series.value.map((s) => s.points[i]![1]),
    ]),
  ]
  await navigator.clipboard.writeText(rows.map((row) => row.join('\t')).join('\n'))
  say(`${rows.length - 1} rows are copied as cells.`)
}
function rescale(to: string) {
  moment.clearRange()
  put({ scale: to, from: undefined, to: undefined })
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Hours</h2>
      <span class="scales soft"
        ><button
          v-for="s in ['day', 'month', 'year']"
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
        ><a v-if="design.saved" class="link" :href="api.hourlyCsv(design.saved.id, keys, subarray)" download
          >Whole year as CSV</a
        ></span
      >
    </header>
    <p class="chosen">
      <span v-for="key in keys" :key="key" class="chip"
        >{{ title(key) }}
        <button type="button" :aria-label="`Take ${title(key)} out`" @click="drop(key)">✕</button></span
      >
      <select v-model="adding" class="blank" aria-label="Add a quantity" @change="add">
        <option value="">add a quantity…</option>
        <option v-for="q in library.quantities.filter((x) => !keys.includes(x.key))" :key="q.key" :value="q.key">
          {{ q.title }}{{ q.unit ? ` [${q.unit}]` : '' }}
        </option>
      </select>
      <label v-if="scheme.subarrays.value.length > 1" class="soft"
        >of sub-array
        <select class="blank" :value="subarray" @change="put({ subarray: ($event.target as HTMLSelectElement).value })">
          <option v-for="s in scheme.subarrays.value" :key="s.id" :value="s.id">{{ s.id }}</option>
        </select></label
      >
    </p>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div ref="place" class="chart" role="img" :aria-label="`Chart of ${keys.map(title).join(', ')}`" />
    <p class="soft caption">
      The Tideline below picks the day; drag over it for a range. Wheel or slider zooms.{{
        scale === 'year' && !moment.range.value ? ' Over the year, each point is the mean of a day.' : ''
      }}
    </p>
  </div>
</template>
<style scoped>
.bench {
  padding: 14px 20px 14px;
  display: grid;
  grid-template-rows: auto auto 1fr auto;
  height: 100%;
  min-height: 420px;
}
header {
  display: flex;
  gap: 18px;
  align-items: baseline;
}
.scales,
.tools {
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
.chart {
  min-height: 300px;
}
.caption {
  font-size: 12px;
}
</style>
