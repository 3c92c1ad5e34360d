/** The fields of a datasheet in the order in which it says them. */
export interface DatasheetField {
  key: string
  title: string
  unit: string
  kind: 'number' | 'text' | 'yes'
  preset?: string
  choices?: string[]
}
const text = (key: string, title: string): DatasheetField => ({ key, title, unit: '', kind: 'text' })
const amount = (key: string, title: string, unit: string, preset = ''): DatasheetField => ({
  key,
  title,
  unit,
  kind: 'number',
  preset,
})
const yes = (key: string, title: string, preset = 'no'): DatasheetField => ({
  key,
  title,
  unit: '',
  kind: 'yes',
  preset,
  choices: ['yes', 'no'],
})
const COMMON = [
  amount('mass', 'Mass', 'kg'),
  amount('price', 'Price', ''),
  amount('warranty', 'Warranty', 'years'),
  text('source', 'Source'),
  text('date', 'Date of the datasheet'),
]
export const FIELDS_OF: Record<'modules' | 'inverters', DatasheetField[]> = {
  modules: [
    text('maker', 'Maker'),
    text('name', 'Name'),
    amount('year', 'Year', ''),
    {
      key: 'technology',
      title: 'Cells',
      unit: '',
      kind: 'text',
      preset: 'mono',
      choices: ['mono', 'poly', 'CdTe', 'CIGS', 'a-Si'],
    },
    amount('cells_in_series', 'Cells in series', ''),
    amount('power', 'Power', 'W'),
    amount('isc', 'Isc', 'A'),
    amount('voc', 'Voc', 'V'),
    amount('imp', 'Imp', 'A'),
    amount('vmp', 'Vmp', 'V'),
    amount('isc_coefficient', 'Isc coefficient', '%/K'),
    amount('voc_coefficient', 'Voc coefficient', '%/K'),
    amount('power_coefficient', 'Power coefficient', '%/K'),
    amount('length', 'Length', 'm'),
    amount('width', 'Width', 'm'),
    amount('noct', 'NOCT', '°C', '45'),
    amount('maximum_system_voltage', 'System voltage', 'V', '1000'),
    amount('maximum_series_fuse', 'Series fuse', 'A', '20'),
    amount('bifaciality', 'Bifaciality', '', '0'),
    amount('bypass_diodes', 'Bypass diodes', '', '3'),
    yes('half_cut', 'Half-cut cells'),
    ...COMMON,
  ],
  inverters: [
    text('maker', 'Maker'),
    text('name', 'Name'),
    amount('year', 'Year', ''),
    {
      key: 'kind',
      title: 'Kind',
      unit: '',
      kind: 'text',
      preset: 'string',
      choices: ['string', 'micro', 'hybrid', 'stand-alone'],
    },
    amount('ac_power', 'Rated AC power', 'W'),
    amount('apparent_power', 'Apparent power', 'VA'),
    { key: 'phases', title: 'Phases', unit: '', kind: 'number', preset: '3', choices: ['1', '3'] },
    amount('trackers', 'Trackers', ''),
    amount('maximum_dc_power', 'Maximum DC power', 'W'),
    amount('maximum_dc_voltage', 'Maximum DC voltage', 'V'),
    amount('start_voltage', 'Start voltage', 'V'),
    amount('mppt_minimum', 'MPP window from', 'V'),
    amount('full_power_minimum', 'Full power from', 'V'),
    amount('mppt_maximum', 'MPP window to', 'V'),
    amount('maximum_tracker_current', 'Current per tracker', 'A'),
    amount('maximum_short_circuit_current', 'Short-circuit current', 'A'),
    amount('peak_efficiency', 'Peak efficiency', '%'),
    amount('european_efficiency', 'European efficiency', '%'),
    amount('night_power', 'Night consumption', 'W', '1'),
    amount('leakage_current', 'Leakage current', 'mA', '10'),
    yes('is_separated', 'Separates AC from DC'),
    yes('feeds_no_dc_fault', 'Feeds no DC fault current'),
    ...COMMON,
  ],
}
export type PartsKind =
  'modules' | 'inverters' | 'optimisers' | 'transformers' | 'cables' | 'devices' | 'batteries' | 'controllers'
const OTHERS: Record<Exclude<PartsKind, 'modules' | 'inverters'>, string[]> = {
  optimisers: [
    'power',
    'maximum_input_voltage',
    'minimum_voltage',
    'maximum_mpp_voltage',
    'input_current',
    'short_circuit_current',
    'output_current',
    'output_voltage',
    'fewest',
    'most',
    'string_power',
    'weighted_efficiency',
    'peak_efficiency',
  ],
  transformers: ['rated_power', 'iron_loss', 'copper_loss', 'low_voltage', 'high_voltage', 'impedance'],
  cables: ['section', 'conductor', 'cores', 'is_photovoltaic'],
  devices: ['kind', 'type', 'current', 'voltage', 'poles'],
  batteries: ['capacity', 'power', 'voltage', 'efficiency', 'cycles', 'chemistry'],
  controllers: ['current', 'maximum_voltage', 'battery_voltages', 'tracks', 'efficiency'],
}
/** The fields of a kind by name, for lists whose headings must be told. */
export function fieldKeys(kind: PartsKind): string[] {
  if (kind === 'modules' || kind === 'inverters') return FIELDS_OF[kind].map((field) => field.key)
  return ['maker', 'name', 'year', ...OTHERS[kind], 'mass', 'price', 'warranty', 'source', 'date']
}
