export interface Schema {
  $defs?: Record<string, Schema>
  $ref?: string
  type?: string
  title?: string
  properties?: Record<string, Schema>
  additionalProperties?: Schema | boolean
  patternProperties?: Record<string, Schema>
  anyOf?: Schema[]
  enum?: string[]
  items?: Schema
  minimum?: number
  maximum?: number
  default?: unknown
  'x-unit'?: string
  'x-step'?: number
  'x-reason'?: string
  'x-words'?: Record<string, string>
  'x-one'?: string
  'x-shown'?: string[]
}

/** What the design document says of one of its values. */
export interface FieldInfo {
  title: string
  unit: string
  step: number
  min: number
  max: number
  isInteger: boolean
  choices: string[]
  /** How choices read, where they read otherwise. */
  words: Record<string, string>
  default: unknown
  reason: string
}

/** Looks a value up in the JSON Schema by its pointer, through collections by id. */
export function fieldAt(root: Schema, pointer: string): FieldInfo | null {
  let at: Schema = root
  for (const key of pointer.split('/').slice(1)) {
    at = resolve(root, at)
    const next: Schema | undefined =
      at.properties?.[key] ??
      (at.type === 'array' ? at.items : undefined) ??
      Object.values(at.patternProperties ?? {})[0] ??
      (typeof at.additionalProperties === 'object' ? at.additionalProperties : undefined)
    if (!next) return null
    at = next
  }
  const outer = at
  const inner = resolve(root, at)
  return {
    title: outer.title ?? inner.title ?? '',
    unit: outer['x-unit'] ?? inner['x-unit'] ?? '',
    step: outer['x-step'] ?? inner['x-step'] ?? 1,
    min: inner.minimum ?? outer.minimum ?? -Infinity,
    max: inner.maximum ?? outer.maximum ?? Infinity,
    isInteger: inner.type === 'integer',
    choices: inner.enum ?? [],
    default: outer.default ?? null,
    words: outer['x-words'] ?? {},
    reason: outer['x-reason'] ?? '',
  }
}

/** A part of the schema behind its references and options. */
export function resolve(root: Schema, schema: Schema): Schema {
  if (schema.$ref) return resolve(root, root.$defs?.[schema.$ref.split('/').at(-1)!] ?? {})
  const concrete = schema.anyOf?.find((option) => option.type !== 'null')
  return concrete ? resolve(root, concrete) : schema
}
