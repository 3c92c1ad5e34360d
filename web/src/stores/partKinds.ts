import type { PartsAnswer } from '@/api/client'
import { resolve, type Schema } from './designSchema'

export type PartsKind = Exclude<keyof PartsAnswer, 'own'>

/** A value of a datasheet; tables within a datasheet come by lists and files alone. */
export interface DatasheetField {
  key: string
  title: string
  unit: string
  kind: 'number' | 'text' | 'yes' | 'table'
  preset: string
  choices: string[]
}
export interface PartKind {
  key: PartsKind
  title: string
  /** A single part, in words. */
  one: string
  /** What the library's table shows of it. */
  shown: DatasheetField[]
  /** What every part says besides. */
  common: DatasheetField[]
  /** All in the order in which datasheets say it. */
  fields: DatasheetField[]
}

const FIRST = ['maker', 'name', 'year']
const NOT_SAID = ['id', 'digest']

/** The kinds of parts with the fields of their datasheets, as the design's schema has them. */
export function partKinds(root: Schema): PartKind[] {
  const shelves = Object.entries(root.$defs?.Catalogue?.properties ?? {})
  const models = shelves.map(([, shelf]) => resolve(root, onShelf(shelf)))
  const isCommon = (key: string) => models.every((model) => key in (model.properties ?? {}))
  return shelves.map(([key, shelf], i) => {
    const fields = Object.entries(models[i]!.properties ?? {})
      .filter(([name]) => !NOT_SAID.includes(name))
      .map(([name, said]) => fieldOf(root, name, said))
    const place = (f: DatasheetField) => (FIRST.includes(f.key) ? 0 : isCommon(f.key) ? 2 : 1)
    return {
      key: key as PartsKind,
      title: shelf.title ?? key,
      one: shelf['x-one'] ?? key,
      shown: (models[i]!['x-shown'] ?? []).map((name) => fields.find((f) => f.key === name)!),
      common: fields.filter((f) => place(f) === 2),
      fields: fields.toSorted((a, b) => place(a) - place(b)),
    }
  })
}
const onShelf = (shelf: Schema): Schema =>
  Object.values(shelf.patternProperties ?? {})[0] ??
  (typeof shelf.additionalProperties === 'object' ? shelf.additionalProperties : {})

function fieldOf(root: Schema, key: string, said: Schema): DatasheetField {
  const inner = resolve(root, said)
  const kind =
    inner.type === 'boolean'
      ? 'yes'
      : inner.type === 'number' || inner.type === 'integer'
        ? 'number'
        : inner.type === 'array' || inner.type === 'object'
          ? 'table'
          : 'text'
  const preset = said.default
  return {
    key,
    title: said.title ?? key,
    unit: said['x-unit'] ?? '',
    kind,
    preset:
      preset === null || preset === undefined || typeof preset === 'object'
        ? ''
        : kind === 'yes'
          ? preset
            ? 'yes'
            : 'no'
          : String(preset),
    choices: kind === 'yes' ? ['yes', 'no'] : (inner.enum ?? []).map(String),
  }
}
