import { computed, ref, type Ref } from 'vue'
import type { Acts, SceneAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useGesture } from '@/brief/useGesture'
import { useNotice } from '@/notice/useNotice'
import { useLibrary } from '@/stores/library'
import { freshId } from '@/stores/schemeLists'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { nounOf, type Phrase } from '@/scene/things'

const KINDS = [
  'buildings',
  'chimneys',
  'pipes',
  'skylights',
  'boxes',
  'silos',
  'walls',
  'poles',
  'carports',
  'grounds',
  'trees',
  'meshes',
]
const TURN = Math.PI / 180
/** Places are kept to the millimetre. */
const CLEAN = 1000
/** What was copied last, for a paste into any scheme. */
const copied = ref<Record<string, { kind: string; values: JsonObject }>>({})

/** What an outline on the ground is the outline of. */
export type Traced = Acts['trace-outline']['kind'] & string

export interface Thing {
  id: string
  kind: string
  name: string
  values: JsonObject
}

/** The things of the scene and what can be done to them. */
export function useThings(scene: Ref<SceneAnswer | null>, picked: Ref<string>, pick: (id: string) => void) {
  const store = useSchemeStore()
  const library = useLibrary()
  const gesture = useGesture()
  const { say } = useNotice()

  const things = computed<Thing[]>(() => {
    const document = (store.document.scene ?? {}) as Record<string, Record<string, JsonObject>>
    return KINDS.flatMap((kind) =>
      Object.entries(document[kind] ?? {}).map(([id, values]) => ({
        id,
        kind,
        values,
        name: String(values.name || nounOf(kind)),
      })),
    )
  })
  const thing = computed(() => things.value.find((t) => t.id === picked.value) ?? null)
  /** A value of a thing as it is set, or its default. */
  function at(one: Thing, field: string): number | undefined {
    const pointer = `/scene/${one.kind}/${one.id}/${field}`
    const value = store.at(pointer) ?? library.field(pointer)?.default
    return typeof value === 'number' ? value : undefined
  }
  const change = (one: Thing, patch: JsonObject, name = '') =>
    store.edit({ scene: { [one.kind]: { [one.id]: patch } } }, name)

  /** A new thing in the middle of the site, or on the picked building where it may stand on one. */
  function add({ kind, values }: Phrase) {
    const id = freshId(
      kind.noun.split(' ')[0]!.replace(/[^a-z]/g, ''),
      things.value.map((t) => t.id),
    )
    const host = thing.value?.kind === 'buildings' ? thing.value : things.value.find((t) => t.kind === 'buildings')
    const place: JsonObject = {}
    if (kind.leans && host) {
      place.on = host.id
      place.y = -Math.round(((at(host, 'width') ?? 8) / 4) * 10) / 10
    } else if (kind.kind !== 'buildings' || things.value.length) {
      const [x, y] = freePlace()
      place.x = x
      place.y = y
    }
    store.edit({ scene: { [kind.kind]: { [id]: { ...values, ...place } } } })
    pick(id)
    return id
  }
  /** Right of all that stands there. */
  function freePlace(): [number, number] {
    const xs = (scene.value?.faces ?? []).flatMap((face) => face.outline.map((p) => p[0]!))
    return [xs.length ? Math.round(Math.max(...xs) + 5) : 0, 0]
  }
  /** Things are deleted with what stands on them and the surfaces of their faces; several by one name are one undo. */
  function remove(some: Thing[]) {
    void store.act('delete-things', { things: some.map((one) => one.id) })
    pick('')
  }
  function copy(some: Thing[]) {
    copied.value = Object.fromEntries(some.map((one) => [one.id, { kind: one.kind, values: one.values }]))
    say(some.length === 1 ? `${some[0]!.name} copied.` : `${some.length} objects copied.`)
  }
  /** What an act adds is selected: the first that was not there before. */
  async function adding(act: () => Promise<void> | undefined) {
    const before = new Set(things.value.map((t) => t.id))
    gesture.end()
    await act()
    const fresh = things.value.find((t) => !before.has(t.id))
    if (fresh) pick(fresh.id)
  }
  const ids = (some: Thing[]) => some.map((one) => one.id)
  const clean = (value: number) => Math.round(value * CLEAN) / CLEAN
  function paste(by: [number, number] = [1.5, 0]) {
    const objects: Record<string, Record<string, JsonObject>> = {}
    for (const [id, { kind, values }] of Object.entries(copied.value)) (objects[kind] ??= {})[id] = values
    if (Object.keys(objects).length)
      void adding(() => store.act('put-objects', { objects, east: clean(by[0]), north: clean(by[1]) }))
  }
  /** So many copies in a line beside them. */
  const duplicate = (some: Thing[], times = 1) =>
    void adding(() => store.act('copy-objects', { objects: ids(some), times }))
  /** Mirrored over the middle of the building that they stand on. */
  const mirror = (some: Thing[]) => void adding(() => store.act('mirror-objects', { objects: ids(some) }))
  /** A ground in planes that lie on the land under it. */
  const follow = (one: Thing) => void adding(() => store.act('follow-land', { ground: one.id }))
  const trace = (kind: Traced, corners: [number, number][]) =>
    adding(() => store.act('trace-outline', { kind, corners }))

  /** A step in the site's directions, in those of its building where it stands on one. */
  function toOwn(one: Thing, dx: number, dy: number): [number, number] {
    if (typeof one.values.on !== 'string') return [dx, dy]
    const turn = (scene.value?.places[one.values.on]?.azimuth ?? 180) * TURN
    const back: [number, number] = [-Math.sin(turn), -Math.cos(turn)]
    return [dx * back[1] - dy * back[0], dx * back[0] + dy * back[1]]
  }
  /** By a step in the site's directions; on a grid of its own frame where there is one. */
  function move(one: Thing, from: [number, number], dx: number, dy: number, grid = 0) {
    const own = toOwn(one, dx, dy).map((by, k) => from[k]! + by)
    const [x, y] = own.map((v) => clean(grid ? Math.round(v / grid) * grid : v))
    change(one, { x: x!, y: y! }, gesture.name())
  }
  const standing = (one: Thing): [number, number] => [Number(one.values.x ?? 0), Number(one.values.y ?? 0)]

  return {
    things,
    thing,
    at,
    change,
    add,
    remove,
    copy,
    paste,
    duplicate,
    mirror,
    follow,
    trace,
    move,
    standing,
    gesture,
  }
}
