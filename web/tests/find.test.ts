import { describe, expect, it } from 'vitest'
import { PAGES } from '@/find/pages'
import { search, type Entry } from '@/find/search'
import { settingsOf } from '@/find/settings'
import { BENCHES, BENCH_TITLES } from '@/benchNames'
import type { Schema } from '@/stores/designSchema'
import designSchema from '../../docs/formats/design.schema.json'

const run = () => undefined
/** As Find anything lists them, with figures, quantities and losses as the server tells them, a town and a check. */
const ENTRIES: Entry[] = [
  { kind: 'action', title: 'New project', more: '', also: 'begin a project, create project, quick estimate, start', run },
  { kind: 'action', title: 'Open a scheme from a file', more: '', also: 'import, import scheme, load, open file, JSON', run },
  { kind: 'action', title: 'Fork this scheme', more: '', also: 'fork, copy scheme, duplicate, variant, new scheme, alternative', run },
  { kind: 'action', title: 'Save as a file', more: '', also: 'export scheme, download, save, JSON', run },
  { kind: 'action', title: 'Pin: compare with this scheme', more: '', also: 'pin, baseline, compare, reference', run },
  ...BENCHES.map((name) => ({ kind: 'bench', title: BENCH_TITLES[name], more: '', run })),
  ...PAGES.map((page) => ({ kind: 'page', title: page.title, more: '', also: page.also, run })),
  { kind: 'check', title: 'String too long: 1,020 V at −8 °C', more: '', also: 'check, finding, cold open circuit, IEC 62548-1: maximum array voltage at the lowest temperature', run },
  { kind: 'figure', title: 'Annual energy', more: '', also: 'yield, kWh, production, generation', run },
  { kind: 'figure', title: 'Performance ratio', more: '', also: 'PR', run },
  { kind: 'figure', title: 'Specific yield', more: '', also: 'final yield, Yf, kWh/kWp', run },
  { kind: 'figure', title: 'DC/AC ratio', more: '', also: 'inverter loading ratio, ILR, oversizing, sizing ratio', run },
  { kind: 'hourly', title: 'Diffuse horizontal irradiance', more: '', also: 'DHI, diffuse', run },
  { kind: 'hourly', title: 'Clipping', more: '', also: 'clipped, inverter limit', run },
  ...settingsOf(designSchema as unknown as Schema).map((s) => ({ kind: 'setting', title: s.title, more: '', also: s.also, run })),
] // prettier-ignore

describe('what a practitioner types', () => {
  it.each([
    ['find strings', 'Find strings'], ['string sizing', 'Find strings'], ['cables', 'Cables and protection'], ['cable', 'Cables and protection'],
    ['voltage drop', 'Cables and protection'], ['fuse', 'Cables and protection'], ['string fuse', 'Cables and protection'], ['RCD', 'Cables and protection'],
    ['surge', 'Cables and protection'], ['earthing', 'Cables and protection'], ['one-line', 'One-line diagram'], ['single-line diagram', 'One-line diagram'],
    ['SLD', 'One-line diagram'], ['bill of materials', 'Bill of materials'], ['BOM', 'Bill of materials'], ['cost', 'Bill of materials'], ['price', 'Bill of materials'],
    ['parts library', 'Parts library'], ['datasheets', 'Parts library'], ['import parts', 'Parts library'], ['fork', 'Fork this scheme'], ['duplicate', 'Fork this scheme'],
    ['new project', 'New project'], ['quick estimate', 'New project'], ['import', 'Open a scheme from a file'], ['import scene', 'Read a file into the scene'],
    ['LiDAR', 'Read a file into the scene'], ['checks', 'String too long: 1,020 V at −8 °C'], ['Voc', 'String sheet'], ['time zone', 'Time zone'], ['daylight saving', 'Time zone'],
    ['albedo', 'Albedo'], ['soiling', 'Soiling'], ['LID', 'Light-induced degradation'], ['tilt', 'Tilt'], ['azimuth', 'Azimuth'], ['backtracking', 'Backtracking'],
    ['tracker', 'Tracking'], ['row spacing', 'Rows of modules'], ['GCR', 'Rows of modules'], ['horizon', 'Horizon'], ['shading', 'Near obstacles'], ['sun path', 'Sun paths'],
    ['TMY', 'Weather data'], ['EPW', 'Weather data'], ['P90', 'Many years'], ['monthly values', 'A year from twelve numbers'], ['PR', 'Performance ratio'],
    ['performance ratio', 'Performance ratio'], ['kWh', 'Annual energy'], ['yield', 'Annual energy'], ['ILR', 'DC/AC ratio'], ['clipping', 'Clipping'], ['DHI', 'Diffuse horizontal irradiance'],
    ['export csv', 'Hourly values'], ['8760', 'Hourly values'], ['dxf', 'Export of the plan'], ['house', 'Building and roofs'], ['tree', 'Trees and chimneys'], ['losses', 'Losses'],
    ['transformer', 'Transformer'], ['power factor', 'Power factor'], ['export limit', 'Export limit'], ['microinverter', 'Optimisers and microinverters'], ['coordinates', 'Location'],
    ['altitude', 'Location'], ['map', 'Location'], ['pin', 'Pin: compare with this scheme'], ['save', 'Save as a file'], ['degradation', 'Degradation'],
  ])('%s finds %s', (typed, title) => {
    const found = search(ENTRIES, typed).map((entry) => entry.title)
    expect(found.slice(0, 4).map((t) => t.toLowerCase())).toContainEqual(expect.stringContaining(title.toLowerCase()))
  }) // prettier-ignore

  it('takes no part in the middle of a word for it', () => {
    expect(search(ENTRIES, 'fuse').map((entry) => entry.title)).not.toContain('Diffuse horizontal irradiance')
    expect(search(ENTRIES, 'ear')[0]?.title).not.toBe('Many years')
  })
  it('every page has a bench of the workbench and words that differ from its title', () => {
    for (const page of PAGES) {
      expect(BENCHES).toContain(page.bench)
      expect(page.also.toLowerCase().split(', ')).not.toContain(page.title.toLowerCase())
    }
    expect(new Set(PAGES.map((page) => page.title)).size).toBe(PAGES.length)
  })
})
