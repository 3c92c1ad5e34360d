/** The benches in the order of the work, with the names that their tabs, links and headings bear. */
export const BENCHES = [
  'site',
  'weather',
  'sky',
  'surfaces',
  'scene',
  'circuits',
  'demand',
  'storage',
  'losses',
  'hours',
  'money',
  'trials',
  'report',
] as const
export type BenchName = (typeof BENCHES)[number]
export const BENCH_TITLES: Record<BenchName, string> = {
  site: 'Site',
  weather: 'Weather',
  sky: 'Sky',
  surfaces: 'Surfaces',
  scene: 'Scene',
  circuits: 'Circuits',
  demand: 'Demand',
  storage: 'Storage',
  losses: 'Losses',
  hours: 'Hours',
  money: 'Money',
  trials: 'Trials',
  report: 'Report',
}
