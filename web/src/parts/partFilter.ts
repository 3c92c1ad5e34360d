import type { InverterLine, ModuleLine } from '@/api/client'

/** What the library is narrowed to; empty text lets everything through. */
export interface PartFilter {
  maker: string
  kind: string
  phases: string
  from: number | null
  to: number | null
  voltage: number | null
  trackers: number | null
}
export const NO_FILTER: PartFilter = {
  maker: '',
  kind: '',
  phases: '',
  from: null,
  to: null,
  voltage: null,
  trackers: null,
}

/** Whether a part is within the filter: power in W of modules, in kW of inverters. */
export function passes(part: ModuleLine | InverterLine, f: PartFilter): boolean {
  const isModule = 'power' in part
  const power = isModule ? part.power : part.ac_power / 1000
  const voltage = isModule ? (part.maximum_system_voltage ?? Infinity) : part.maximum_dc_voltage
  const kind = isModule ? part.technology : (part.kind ?? '')
  return (
    (!f.maker || part.maker === f.maker) &&
    (!f.kind || kind === f.kind) &&
    (!f.phases || isModule || String(part.phases) === f.phases) &&
    (f.from === null || power >= f.from) &&
    (f.to === null || power <= f.to) &&
    (f.voltage === null || voltage >= f.voltage) &&
    (f.trackers === null || isModule || part.trackers >= f.trackers)
  )
}
