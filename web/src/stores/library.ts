import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'
import { api, type PartsAnswer, type QuantityLine } from '@/api/client'
import { fieldAt, type FieldInfo, type Schema } from './designSchema'

/** What does not change while the application is open: parts, quantities, and the design's own schema. */
export const useLibrary = defineStore('library', () => {
  const parts = shallowRef<PartsAnswer>({ modules: [], inverters: [] })
  const quantities = shallowRef<QuantityLine[]>([])
  const schema = shallowRef<Schema | null>(null)
  let reading: Promise<void> | null = null

  function read(): Promise<void> {
    reading ??= Promise.all([api.parts(), api.quantities(), api.designSchema()])
      .then(([p, q, s]) => {
        parts.value = p
        quantities.value = q
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
  const field = (pointer: string): FieldInfo | null => (schema.value ? fieldAt(schema.value, pointer) : null)

  return { parts, quantities, modules, inverters, read, field }
})
