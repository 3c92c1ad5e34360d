import type { BenchName } from '@/benchNames'
import { resolve, type Schema } from '@/stores/designSchema'

/** A value of the design, with the bench on which it is edited. */
export interface Setting {
  title: string
  pointer: string
  bench: BenchName
  also: string
}
/** Where values are edited, by the beginning of their pointer; a longer one comes first. */
const BENCH_OF: [string, BenchName][] = [
  ['/site/horizon', 'sky'],
  ['/site/shade', 'sky'],
  ['/site/near', 'sky'],
  ['/site/array', 'sky'],
  ['/site/lowest_temperature', 'circuits'],
  ['/site/highest_temperature', 'circuits'],
  ['/site', 'site'],
  ['/weather', 'weather'],
  ['/surfaces', 'surfaces'],
  ['/inverters', 'circuits'],
  ['/subarrays', 'circuits'],
  ['/connection', 'circuits'],
  ['/wiring', 'circuits'],
  ['/demand', 'demand'],
  ['/money', 'money'],
  ['/losses', 'losses'],
  ['/models', 'losses'],
]
/** Words of the trade for some of them. */
const ALSO: Record<string, string> = {
  '/site/time_zone': 'UTC offset, GMT, daylight saving time',
  '/site/elevation': 'altitude, height above sea level',
  '/site/albedo': 'ground reflectance',
  '/site/lowest_temperature': 'coldest, design temperature, Voc temperature, ASHRAE',
  '/losses/soiling': 'dirt, dust',
  '/losses/quality': 'power tolerance, module quality',
  '/losses/light_induced': 'LID, light-induced degradation',
  '/losses/degradation': 'ageing, annual degradation',
  '/losses/mismatch': 'module mismatch',
  '/losses/unavailability': 'availability, downtime, outage',
}
const SKIPPED = new Set([
  'name',
  'digest',
  'title',
  'x',
  'y',
  'on',
  'base',
  'is_hidden',
  'is_locked',
  'group',
  'format',
])

/** Every value that is a setting of the plant, from the design's own schema; things of the scene and of lists of the user's own are found by their names. */
export function settingsOf(schema: Schema | null): Setting[] {
  if (!schema) return []
  const found = new Map<string, Setting>()
  const walk = (at: Schema, pointer: string, depth: number) => {
    const inner = resolve(schema, at)
    if (inner.properties && depth < 5) {
      for (const [key, next] of Object.entries(inner.properties))
        if (!SKIPPED.has(key)) walk(next, `${pointer}/${key}`, depth + 1)
      return
    }
    const entry = Object.values(inner.patternProperties ?? {})[0]
    if (entry) {
      // Of a collection the first entry stands for all.
      if (/^\/(surfaces|inverters|subarrays)$/.test(pointer)) walk(entry, `${pointer}/*`, depth + 1)
      return
    }
    const title = at.title ?? inner.title
    const bench = BENCH_OF.find(([start]) => pointer.startsWith(start))?.[1]
    if (title && bench && !found.has(`${bench} ${title}`))
      found.set(`${bench} ${title}`, { title, pointer, bench, also: ALSO[pointer] ?? '' })
  }
  walk(schema, '', 0)
  return [...found.values()]
}
