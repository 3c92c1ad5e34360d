import type { JsonObject } from '@/api/mergePatch'
import { metresOf } from './lengths'

/** The kinds of things in the order of the document, with their words and the sizes that a phrase such as `chimney 0.6 x 0.6 x 1.2` gives. */
export interface Kind {
  kind: string
  noun: string
  words: string[]
  sizes: string[]
  preset?: JsonObject
  /** Whether it may stand on a building and then moves with it. */
  leans: boolean
}
export const KINDS: Kind[] = [
  {
    kind: 'buildings',
    noun: 'house',
    words: ['house', 'hipped house'],
    sizes: ['length', 'width', 'eave'],
    preset: { hip: { pitch: 35 }, name: 'House', length: 10, width: 8 },
    leans: false,
  },
  {
    kind: 'buildings',
    noun: 'barn',
    words: ['barn', 'gable'],
    sizes: ['length', 'width', 'eave'],
    preset: { gable: { pitch: 20 }, name: 'Barn', length: 20, width: 10, eave: 4.5 },
    leans: false,
  },
  {
    kind: 'buildings',
    noun: 'flat-roofed building',
    words: ['flat', 'store', 'hall'],
    sizes: ['length', 'width', 'eave'],
    preset: { flat: { parapet: 0.4 }, name: 'Hall', length: 15, width: 10, eave: 4 },
    leans: false,
  },
  {
    kind: 'buildings',
    noun: 'shed',
    words: ['shed'],
    sizes: ['length', 'width', 'eave'],
    preset: { shed: { pitch: 8 }, name: 'Shed', length: 5, width: 4, eave: 2.4 },
    leans: false,
  },
  {
    kind: 'buildings',
    noun: 'neighbour',
    words: ['neighbour'],
    sizes: ['length', 'width', 'eave'],
    preset: { gable: { pitch: 35 }, name: 'Neighbour', is_neighbour: true },
    leans: false,
  },
  {
    kind: 'chimneys',
    noun: 'chimney',
    words: ['chimney', 'flue'],
    sizes: ['length', 'width', 'height'],
    preset: { name: 'Chimney' },
    leans: true,
  },
  {
    kind: 'pipes',
    noun: 'pipe',
    words: ['pipe', 'vent'],
    sizes: ['diameter', 'height'],
    preset: { name: 'Pipe' },
    leans: true,
  },
  {
    kind: 'skylights',
    noun: 'skylight',
    words: ['skylight', 'roof window'],
    sizes: ['length', 'width'],
    preset: { name: 'Skylight' },
    leans: true,
  },
  {
    kind: 'boxes',
    noun: 'box',
    words: ['box', 'plant room'],
    sizes: ['length', 'width', 'height'],
    preset: { name: 'Box' },
    leans: true,
  },
  {
    kind: 'silos',
    noun: 'silo',
    words: ['silo', 'tank'],
    sizes: ['diameter', 'height'],
    preset: { name: 'Silo' },
    leans: false,
  },
  {
    kind: 'trees',
    noun: 'tree',
    words: ['tree', 'oak', 'beech'],
    sizes: ['height', 'diameter'],
    preset: { name: 'Tree' },
    leans: false,
  },
  {
    kind: 'trees',
    noun: 'conifer',
    words: ['conifer', 'spruce', 'fir'],
    sizes: ['height', 'diameter'],
    preset: { name: 'Conifer', crown: 'cone', is_evergreen: true, light_in_leaf: 0.15 },
    leans: false,
  },
  {
    kind: 'walls',
    noun: 'wall',
    words: ['wall'],
    sizes: ['length', 'height', 'thickness'],
    preset: { name: 'Wall' },
    leans: false,
  },
  {
    kind: 'walls',
    noun: 'fence',
    words: ['fence', 'railing'],
    sizes: ['length', 'height'],
    preset: { name: 'Fence', thickness: 0.03, light: 0.5, height: 1.2 },
    leans: false,
  },
  {
    kind: 'poles',
    noun: 'pole',
    words: ['pole', 'mast'],
    sizes: ['diameter', 'height'],
    preset: { name: 'Pole' },
    leans: false,
  },
  {
    kind: 'carports',
    noun: 'carport',
    words: ['carport'],
    sizes: ['length', 'width', 'height'],
    preset: { name: 'Carport' },
    leans: false,
  },
  {
    kind: 'grounds',
    noun: 'ground for an array',
    words: ['ground', 'field'],
    sizes: ['length', 'width'],
    preset: { name: 'Field' },
    leans: false,
  },
]

export interface Phrase {
  kind: Kind
  values: JsonObject
}

/** Things whose name begins with what is typed, and the sizes behind it: `chi`, `chimney 0.6 x 0.6 x 1.2`. */
export function phrasesOf(typed: string): Phrase[] {
  const text = typed.trim().toLowerCase()
  if (!text) return []
  const parts = /^([a-z ]+?)\s*((?:[\d.,'"]+\s*(?:mm|cm|m|ft|in|'|")?\s*(?:x|×|by)?\s*)*)$/.exec(text)
  if (!parts) return []
  const name = parts[1]!.trim()
  const sizes = parts[2]!
    .split(/\s*(?:x|×|by)\s*/)
    .filter(Boolean)
    .map(metresOf)
  if (sizes.some((size) => size === null || size <= 0)) return []
  return KINDS.filter((k) => k.words.some((word) => word.startsWith(name) || name.startsWith(word))).map((kind) => ({
    kind,
    values: {
      ...kind.preset,
      ...Object.fromEntries(sizes.slice(0, kind.sizes.length).map((size, i) => [kind.sizes[i]!, size])),
    },
  }))
}

export const nounOf = (kind: string) => KINDS.find((k) => k.kind === kind)?.noun ?? kind
