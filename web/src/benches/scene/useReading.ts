import { ref, type Ref } from 'vue'
import { api, type SceneReading } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useNotice } from '@/notice/useNotice'
import { freshId } from '@/stores/schemeLists'
import { useSchemeStore } from '@/stores/useSchemeStore'
import type { Thing } from './useThings'

/** A file with a scene: what it gave, and what of it is taken. */
export function useReading(things: Ref<Thing[]>) {
  const store = useSchemeStore()
  const { say, warn } = useNotice()
  const reading = ref<SceneReading | null>(null)
  async function readFile(event: Event) {
    const input = event.target as HTMLInputElement
    const [file] = input.files ?? []
    input.value = ''
    if (!file) return
    try {
      reading.value = await api.readScene(store.saved!.id, file)
    } catch (error) {
      warn((error as Error).message)
    }
  }
  /** What a file gave, as far as it is accepted; each thing gets an id that is free here. */
  function accept(some: SceneReading['things']) {
    const patch: Record<string, JsonObject> = {}
    const taken = things.value.map((t) => t.id)
    for (const one of some) {
      const id = freshId(one.id.replace(/-\d+$/, ''), taken)
      taken.push(id)
      patch[one.kind] = { ...patch[one.kind], [id]: one.values as unknown as JsonObject }
    }
    store.edit({ scene: patch })
    const rest = reading.value?.things.filter((one) => !some.includes(one)) ?? []
    reading.value = rest.length ? { ...reading.value!, things: rest } : null
    say(`${some.length === 1 ? some[0]!.name : `${some.length} things`} taken into the scene.`, {
      label: 'Undo',
      run: () => void store.undo(),
    })
  }
  return { reading, readFile, accept }
}
