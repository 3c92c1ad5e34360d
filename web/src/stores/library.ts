import { defineStore } from 'pinia'
import { computed, shallowRef, watch } from 'vue'
import { api, type FigureLine, type PartsAnswer, type QuantityLine } from '@/api/client'
import { partKinds } from './partKinds'
import { fieldAt, type FieldInfo, type Schema } from './designSchema'

/** What does not change while the application is open: parts, quantities, figures, and the design's own schema. */
export const useLibrary = defineStore('library', () => {
  const parts = shallowRef<PartsAnswer>({
    modules: [],
    inverters: [],
    optimisers: [],
    transformers: [],
    own: [],
  } as Partial<PartsAnswer> as PartsAnswer)
  const quantities = shallowRef<QuantityLine[]>([])
  const figures = shallowRef<FigureLine[]>([])
  const lines = shallowRef<FigureLine[]>([])
  const schema = shallowRef<Schema | null>(null)
  let reading: Promise<void> | null = null

  function read(): Promise<void> {
    reading ??= Promise.all([api.parts(), api.quantities(), api.figures(), api.designSchema()])
      .then(([p, q, f, s]) => {
        parts.value = p
        quantities.value = q
        figures.value = f.figures
        lines.value = f.lines
        schema.value = s as Schema
      })
      .catch((error: unknown) => {
        reading = null
        throw error
      })
    return reading
  }
  const modules = computed(() => new Map(parts.value.modules.map((module) => [module.id, module])))
  const inverters = computed(() => new Map(parts.value.inverters.map((inverter) => [inverter.id, inverter])))
  /** The kinds of parts, and what their datasheets say. */
  const kinds = computed(() => (schema.value ? partKinds(schema.value) : []))
  /** What the schema says of a value; looked up once for each kind of pointer. */
  const fields = new Map<string, FieldInfo | null>()
  watch(schema, () => fields.clear())
  function field(pointer: string): FieldInfo | null {
    if (!schema.value) return null
    let found = fields.get(pointer)
    if (found === undefined) fields.set(pointer, (found = fieldAt(schema.value, pointer)))
    return found
  }

  /** The parts once more, after some of one's own have come or gone. */
  async function readParts() {
    parts.value = await api.parts()
  }

  return { readParts, parts, quantities, figures, lines, schema, kinds, modules, inverters, read, field }
})
