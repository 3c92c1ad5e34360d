<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { LineChart } from 'echarts/charts'
import { DataZoomComponent, GridComponent, LegendComponent, TooltipComponent } from 'echarts/components'
import { init, use, type ECharts } from 'echarts/core'
import { CanvasRenderer } from 'echarts/renderers'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { token, useTheme } from '@/theme/useTheme'
import { chartOption } from './chartOption'
import type { PlotSeries } from './hoursPlot'

use([LineChart, GridComponent, TooltipComponent, DataZoomComponent, LegendComponent, CanvasRenderer])
const props = defineProps<{ series: PlotSeries[]; label: string; isStepped: boolean }>()
const store = useSchemeStore()
const { dark } = useTheme()
const place = ref<HTMLElement>()
let chart: ECharts | null = null
let observer: ResizeObserver | null = null

const colourOf = (key: string) => store.quantities.find((q) => q.key === key)?.colour ?? 'haze'
function draw() {
  if (props.series.length) chart?.setOption(chartOption(props.series, colourOf, props.isStepped), true)
}
watch([() => props.series, dark], draw)
onMounted(() => {
  chart = init(place.value!)
  observer = new ResizeObserver(() => chart?.resize())
  observer.observe(place.value!)
  draw()
})
onBeforeUnmount(() => {
  observer?.disconnect()
  chart?.dispose()
})

/** The chart as a PNG, twice as fine as the screen's. */
function picture(): Promise<Blob | null> {
  const canvas = chart?.renderToCanvas({ pixelRatio: 2, backgroundColor: token('sheet') })
  return new Promise((done) => {
    if (canvas) canvas.toBlob(done)
    else done(null)
  })
}
defineExpose({ picture })
</script>
<template>
  <div ref="place" class="chart" role="img" :aria-label="label" />
</template>
<style scoped>
.chart {
  min-height: 300px;
}
</style>
