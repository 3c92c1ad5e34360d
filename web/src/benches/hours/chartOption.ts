import type { EChartsCoreOption } from 'echarts/core'
import { plain } from '@/theme/format'
import { token } from '@/theme/useTheme'
import type { PlotSeries } from './hoursPlot'

const DASHES = ['solid', 'dashed', 'dotted'] as const
const AXIS_WIDTH = 50

/** How the hours are drawn: an axis a unit, the colour of each quantity its own, a second of one colour dashed. */
export function chartOption(
  series: PlotSeries[],
  colourOf: (key: string) => string,
  isStepped = false,
): EChartsCoreOption {
  const units = [...new Set(series.map((s) => s.unit))]
  const text = { color: token('soft'), fontFamily: 'Inter Variable', fontSize: 11 }
  const inked = { ...text, color: token('ink') }
  const timesSeen: Record<string, number> = {}
  return {
    animation: false,
    useUTC: true,
    backgroundColor: token('sheet'),
    textStyle: text,
    grid: {
      left: 54,
      right: units.length > 1 ? 6 + (units.length - 1) * AXIS_WIDTH : 18,
      top: series.length > 3 ? 66 : 48,
      bottom: 62,
    },
    legend: { top: 2, left: 40, textStyle: inked, itemHeight: 2, icon: 'rect' },
    tooltip: {
      trigger: 'axis',
      backgroundColor: token('sheet'),
      borderColor: token('rule-strong'),
      textStyle: inked,
      valueFormatter: (value: number) => plain(value),
    },
    xAxis: {
      type: 'time',
      axisLine: { lineStyle: { color: token('ink') } },
      axisLabel: text,
      splitLine: { show: false },
    },
    yAxis: units.map((unit, i) => ({
      type: 'value',
      name: unit,
      position: i ? 'right' : 'left',
      offset: i > 1 ? (i - 1) * AXIS_WIDTH : 0,
      nameTextStyle: text,
      axisLabel: text,
      splitLine: { show: i === 0, lineStyle: { color: token('rule') } },
      scale: unit === '°C',
      min: unit === '°C' ? undefined : fromZero,
    })),
    dataZoom: [{ type: 'inside' }, slider(text)],
    series: series.map((s) => {
      const colour = colourOf(s.key)
      const nth = (timesSeen[colour] = (timesSeen[colour] ?? -1) + 1)
      return {
        name: `${s.title}${s.unit ? ` [${s.unit}]` : ''}`,
        type: 'line',
        showSymbol: false,
        // A value is the mean from its time to the next: a step says so, as long as steps can be seen.
        step: isStepped ? 'end' : undefined,
        data: s.points,
        yAxisIndex: units.indexOf(s.unit),
        lineStyle: { width: 1.7, type: DASHES[nth % DASHES.length] },
        itemStyle: { color: token(colour) },
        areaStyle: s.key === 'delivered' ? { opacity: 0.16 } : undefined,
      }
    }),
  }
}

/** An axis starts at zero, unless values lie well under it; then ECharts finds its own start. */
function fromZero({ min, max }: { min: number; max: number }): number | null {
  return min > -0.05 * max ? 0 : null
}

function slider(text: object) {
  const calm = (area: string) => ({ lineStyle: { color: token('haze') }, areaStyle: { color: token(area) } })
  return {
    type: 'slider',
    height: 18,
    bottom: 12,
    borderColor: token('rule'),
    fillerColor: token('pick'),
    handleStyle: { color: token('haze') },
    moveHandleSize: 0,
    brushSelect: false,
    textStyle: text,
    dataBackground: calm('night'),
    selectedDataBackground: calm('rule'),
  }
}
