import type { Columns } from '@/api/client'

export type Scale = 'day' | 'month' | 'year'

export interface PlotSeries {
  key: string
  title: string
  unit: string
  points: [time: number, value: number][]
}

export interface PlotYear {
  perDay: number
  days: number
  timeOf: (interval: number) => Date
}

/** Intervals that a scale shows around a day, from one to before the other; whole days. */
export function windowAround(scale: Scale, day: number, year: Pick<PlotYear, 'perDay' | 'days'>): [number, number] {
  const reach = { day: [0, 1], month: [15, 16], year: [year.days, year.days] }[scale]
  return [Math.max(0, day - reach[0]!) * year.perDay, Math.min(year.days, day + reach[1]!) * year.perDay]
}

/** Points to draw, powers in kW; over the year the means of the days, since 8,760 points on 700 pixels would be a smear. */
export function plotSeries(
  columns: Columns,
  [from, to]: readonly [number, number],
  isDaily: boolean,
  year: PlotYear,
): PlotSeries[] {
  return columns.columns.map(({ key, title, unit, values }) => {
    const isPower = unit === 'W'
    const read = (interval: number) => values[interval]! / (isPower ? 1000 : 1)
    const step = isDaily ? year.perDay : 1
    const points: [number, number][] = []
    for (let start = from; start < to; start += step) {
      let sum = 0
      for (let k = start; k < start + step; k++) sum += read(k)
      points.push([year.timeOf(start + (isDaily ? step / 2 : 0)).getTime(), sum / step])
    }
    return { key, title, unit: isPower ? 'kW' : unit, points }
  })
}

/** The drawn points as cells, a row a time. */
export function asCells(series: PlotSeries[]): (string | number)[][] {
  const times = series[0]?.points.map(([time]) => time) ?? []
  return [
    ['time', ...series.map((s) => `${s.title} [${s.unit}]`)],
    ...times.map((time, i) => [new Date(time).toISOString().slice(0, 16), ...series.map((s) => s.points[i]![1])]),
  ]
}
