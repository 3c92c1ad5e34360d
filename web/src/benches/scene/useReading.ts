import { ref, shallowRef } from 'vue'
import { api, type SceneReading } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { chooseFile } from '@/stores/chooseFile'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** What files of a scene are called. */
export const SCENE_FILES = '.geojson,.json,.obj,.gltf,.glb,.dxf,.las,.laz,.xyz,.txt,.csv,.asc,.tif,.tiff,.gz'

/** A file with a scene: what it gave, and what of it is taken. */
export function useReading() {
  const store = useSchemeStore()
  const { say, warn } = useNotice()
  const reading = ref<SceneReading | null>(null)
  const last = shallowRef<File | null>(null)
  function readFile(event: Event) {
    const input = event.target as HTMLInputElement
    const [file] = input.files ?? []
    input.value = ''
    if (file) void take(file)
  }
  const choose = () => chooseFile(SCENE_FILES, (file) => take(file))
  async function take(file: File, up: SceneReading['up'] = '') {
    last.value = file
    try {
      reading.value = await api.readScene(store.saved!.id, file, up)
    } catch (error) {
      warn((error as Error).message)
    }
  }
  /** The same file with another axis up. */
  const turn = (up: SceneReading['up']) => last.value && take(last.value, up)
  /** What a file gave, as far as it is accepted. */
  function accept(some: SceneReading['things']) {
    const scene: Record<string, JsonObject> = {}
    const surfaces: JsonObject = {}
    for (const one of some) {
      const values = one.values as unknown as JsonObject
      if (one.kind === 'surfaces') surfaces[one.id] = values
      else scene[one.kind] = { ...scene[one.kind], [one.id]: values }
    }
    store.edit(Object.keys(surfaces).length ? { scene, surfaces } : { scene })
    const rest = reading.value?.things.filter((one) => !some.includes(one)) ?? []
    reading.value = rest.length ? { ...reading.value!, things: rest } : null
    say(`${some.length === 1 ? some[0]!.name : `${some.length} objects`} taken into the scene.`, {
      label: 'Undo',
      run: () => void store.undo(),
    })
  }
  return { reading, readFile, take, turn, choose, accept }
}
