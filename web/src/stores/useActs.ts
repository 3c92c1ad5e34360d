import { shallowRef } from 'vue'
import { api, type Acts, type VerbLine } from '@/api/client'

const acts = shallowRef<VerbLine[]>([])
let reading: Promise<void> | null = null

/** What can be done to a design by name, with the schemas of its arguments; read when it is first asked for. */
export function useActs() {
  reading ??= api.acts().then(
    (some) => void (acts.value = some),
    () => void (reading = null),
  )
  /** The words that an argument of an act may have. */
  function choices<V extends keyof Acts, A extends keyof Acts[V] & string>(
    act: V,
    argument: A,
  ): NonNullable<Acts[V][A]>[] {
    const schema = acts.value.find((one) => one.name === act)?.arguments as
      { properties?: Record<string, { enum?: string[] }> } | undefined
    return (schema?.properties?.[argument]?.enum ?? []) as NonNullable<Acts[V][A]>[]
  }
  return { choices }
}
