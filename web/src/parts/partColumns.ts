import type { InverterLine, ModuleLine } from '@/api/client'
import { number } from '@/theme/format'

/** A column of the library, or a row where parts stand side by side. */
export interface Column<Part> {
  key: string
  title: string
  unit: string
  text: (part: Part) => string
  /** Which way is better, where one is. */
  better?: 'more' | 'less'
}
const money = (value: number | null | undefined) => (value == null ? '' : number(value, value < 100 ? 2 : 0))

/** A value of a datasheet, which the library gives with its default where the maker says nothing. */
const said = (value: number | null | undefined, digits?: number) => (value == null ? '' : number(value, digits))

export const MODULE_COLUMNS: Column<ModuleLine>[] = [
  { key: 'power', title: 'Power', unit: 'W', text: (m) => number(m.power), better: 'more' },
  {
    key: 'efficiency_percent',
    title: 'Efficiency',
    unit: '%',
    text: (m) => number(m.efficiency_percent, 1),
    better: 'more',
  },
  { key: 'voc', title: 'Voc', unit: 'V', text: (m) => number(m.voc, 1) },
  { key: 'isc', title: 'Isc', unit: 'A', text: (m) => number(m.isc, 2) },
  {
    key: 'power_coefficient',
    title: 'Temp. coeff.',
    unit: '%/K',
    text: (m) => number(m.power_coefficient, 2),
    better: 'more',
  },
  { key: 'area_square_metres', title: 'Area', unit: 'm²', text: (m) => number(m.area_square_metres, 2) },
  { key: 'technology', title: 'Cells', unit: '', text: (m) => `${m.technology}, ${m.cells_in_series}` },
  { key: 'price', title: 'Price', unit: '', text: (m) => money(m.price), better: 'less' },
  { key: 'year', title: 'Year', unit: '', text: (m) => String(m.year) },
]
/** What else is compared side by side. */
export const MODULE_MORE: Column<ModuleLine>[] = [
  { key: 'vmp', title: 'Vmp', unit: 'V', text: (m) => number(m.vmp, 2) },
  { key: 'imp', title: 'Imp', unit: 'A', text: (m) => number(m.imp, 2) },
  { key: 'voc_coefficient', title: 'Voc coefficient', unit: '%/K', text: (m) => number(m.voc_coefficient, 3) },
  { key: 'isc_coefficient', title: 'Isc coefficient', unit: '%/K', text: (m) => number(m.isc_coefficient, 3) },
  { key: 'noct', title: 'NOCT', unit: '°C', text: (m) => said(m.noct, 0), better: 'less' },
  { key: 'length', title: 'Length', unit: 'm', text: (m) => number(m.length, 3) },
  { key: 'width', title: 'Width', unit: 'm', text: (m) => number(m.width, 3) },
  {
    key: 'maximum_system_voltage',
    title: 'Maximum system voltage',
    unit: 'V',
    text: (m) => said(m.maximum_system_voltage),
  },
  { key: 'maximum_series_fuse', title: 'Series fuse', unit: 'A', text: (m) => said(m.maximum_series_fuse) },
  { key: 'bifaciality', title: 'Bifaciality', unit: '', text: (m) => said(m.bifaciality, 2), better: 'more' },
  { key: 'half_cut', title: 'Half-cut cells', unit: '', text: (m) => (m.half_cut ? 'yes' : 'no') },
  { key: 'mass', title: 'Mass', unit: 'kg', text: (m) => (m.mass == null ? '' : number(m.mass, 1)), better: 'less' },
  {
    key: 'price_a_watt',
    title: 'Price a watt',
    unit: '',
    text: (m) => (m.price == null ? '' : number(m.price / m.power, 3)),
    better: 'less',
  },
  {
    key: 'warranty',
    title: 'Warranty',
    unit: 'years',
    text: (m) => (m.warranty == null ? '' : number(m.warranty)),
    better: 'more',
  },
]
export const INVERTER_COLUMNS: Column<InverterLine>[] = [
  {
    key: 'ac_power',
    title: 'AC power',
    unit: 'kW',
    text: (i) => number(i.ac_power / 1000, i.ac_power < 1000 ? 2 : i.ac_power < 10000 ? 1 : 0),
  },
  { key: 'kind', title: 'Kind', unit: '', text: (i) => i.kind ?? '' },
  { key: 'trackers', title: 'Trackers', unit: '', text: (i) => String(i.trackers) },
  { key: 'maximum_dc_voltage', title: 'Max. DC', unit: 'V', text: (i) => number(i.maximum_dc_voltage) },
  {
    key: 'mppt_minimum',
    title: 'MPP window',
    unit: 'V',
    text: (i) => `${number(i.mppt_minimum)}–${number(i.mppt_maximum)}`,
  },
  {
    key: 'maximum_tracker_current',
    title: 'Current',
    unit: 'A',
    text: (i) =>
      i.tracker_inputs?.length
        ? i.tracker_inputs.map((t) => number(t.current)).join(', ')
        : number(i.maximum_tracker_current),
  },
  {
    key: 'european_efficiency',
    title: 'European',
    unit: '%',
    text: (i) => number(i.european_efficiency, 1),
    better: 'more',
  },
  { key: 'phases', title: 'Phases', unit: '', text: (i) => String(i.phases) },
  { key: 'price', title: 'Price', unit: '', text: (i) => money(i.price), better: 'less' },
  { key: 'year', title: 'Year', unit: '', text: (i) => String(i.year) },
]
export const INVERTER_MORE: Column<InverterLine>[] = [
  { key: 'maximum_dc_power', title: 'Maximum DC power', unit: 'kW', text: (i) => number(i.maximum_dc_power / 1000, 1) },
  { key: 'start_voltage', title: 'Start voltage', unit: 'V', text: (i) => number(i.start_voltage), better: 'less' },
  {
    key: 'full_power_minimum',
    title: 'Full power from',
    unit: 'V',
    text: (i) => number(i.full_power_minimum),
    better: 'less',
  },
  {
    key: 'maximum_short_circuit_current',
    title: 'Short-circuit current per tracker',
    unit: 'A',
    text: (i) =>
      i.tracker_inputs?.length
        ? i.tracker_inputs.map((t) => number(t.short_circuit)).join(', ')
        : number(i.maximum_short_circuit_current),
  },
  {
    key: 'peak_efficiency',
    title: 'Peak efficiency',
    unit: '%',
    text: (i) => number(i.peak_efficiency, 1),
    better: 'more',
  },
  {
    key: 'night_power',
    title: 'Night consumption',
    unit: 'W',
    text: (i) => said(i.night_power, 1),
    better: 'less',
  },
  {
    key: 'apparent_power',
    title: 'Apparent power',
    unit: 'kVA',
    text: (i) => number((i.apparent_power ?? i.ac_power) / 1000, 1),
  },
  {
    key: 'derating',
    title: 'Derates above',
    unit: '°C',
    text: (i) => (i.derating ? said(i.derating.temperature) : 'not said'),
  },
  { key: 'size', title: 'Size', unit: '', text: (i) => i.size ?? '' },
  { key: 'is_separated', title: 'Separates AC from DC', unit: '', text: (i) => (i.is_separated ? 'yes' : 'no') },
  { key: 'mass', title: 'Mass', unit: 'kg', text: (i) => (i.mass == null ? '' : number(i.mass, 1)), better: 'less' },
  {
    key: 'warranty',
    title: 'Warranty',
    unit: 'years',
    text: (i) => (i.warranty == null ? '' : number(i.warranty)),
    better: 'more',
  },
]
