import { computed, ref, type Ref } from 'vue'
import type { SceneAnswer } from '@/api/client'
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
const GRID = 0.1
/** What was copied last, for a paste into any scheme. */
const copied = ref<{ kind: string; thing: JsonObject } | null>(null)

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
  function remove(one: Thing, name = '') {
    const patch: Record<string, Record<string, null>> = { [one.kind]: { [one.id]: null } }
    for (const other of things.value)
      if (other.values.on === one.id) patch[other.kind] = { ...patch[other.kind], [other.id]: null }
    const faces = Object.entries((store.document.surfaces ?? {}) as Record<string, { face?: string }>)
    const lost = faces.filter(([, s]) => s.face?.split('/')[0] === one.id).map(([key]) => key)
    const strings = store.subarrays.filter((s) => lost.includes(s.surface)).map((s) => s.id)
    store.edit(
      {
        scene: patch as unknown as JsonObject,
        ...(lost.length ? { surfaces: Object.fromEntries(lost.map((key) => [key, null])) } : {}),
        ...(strings.length ? { subarrays: Object.fromEntries(strings.map((key) => [key, null])) } : {}),
      },
      name,
    )
    pick('')
    say(`${one.name} deleted.`, { label: 'Undo', run: () => void store.undo() })
  }
  function copy(one: Thing) {
    copied.value = { kind: one.kind, thing: one.values }
    say(`${one.name} copied.`)
  }
  function paste(by: [number, number] = [1.5, 0]) {
    if (!copied.value) return
    const { kind, thing: values } = copied.value
    const id = freshId(
      String(values.name || nounOf(kind))
        .toLowerCase()
        .replace(/[^a-z]+/g, '') || 'thing',
      things.value.map((t) => t.id),
    )
    const host = typeof values.on === 'string' && !things.value.some((t) => t.id === values.on)
    store.edit({
      scene: {
        [kind]: {
          [id]: {
            ...values,
            ...(host ? { on: null } : {}),
            x: Number(values.x ?? 0) + by[0],
            y: Number(values.y ?? 0) + by[1],
          },
        },
      },
    })
    pick(id)
  }
  /** So many copies in a line, half a metre apart. */
  function duplicate(one: Thing, copies = 1) {
    const step = (at(one, 'length') ?? at(one, 'diameter') ?? 1) + 0.5
    const taken = things.value.map((t) => t.id)
    const found: Record<string, JsonObject> = {}
    for (let k = 1; k <= copies; k++) {
      const id = freshId(one.id.replace(/-?\d+$/, ''), taken)
      taken.push(id)
      const x = Math.round((Number(one.values.x ?? 0) + k * step) * 1000) / 1000
      found[id] = { ...one.values, x }
    }
    store.edit({ scene: { [one.kind]: found } })
    pick(Object.keys(found).at(-1)!)
  }
  /** Mirrored over the middle of the building that it stands on. */
  function mirror(one: Thing) {
    copied.value = { kind: one.kind, thing: { ...one.values, x: -Number(one.values.x ?? 0) } }
    paste([0, 0])
  }

  /** A step in the site's directions, in those of its building where it stands on one. */
  function toOwn(one: Thing, dx: number, dy: number): [number, number] {
    if (typeof one.values.on !== 'string') return [dx, dy]
    const turn = (scene.value?.places[one.values.on]?.azimuth ?? 180) * TURN
    const back: [number, number] = [-Math.sin(turn), -Math.cos(turn)]
    return [dx * back[1] - dy * back[0], dx * back[0] + dy * back[1]]
  }
  function move(one: Thing, from: [number, number], dx: number, dy: number, snaps = true) {
    const [x, y] = toOwn(one, dx, dy)
    const snap = (value: number) => Math.round(value / (snaps ? GRID : 0.01)) * (snaps ? GRID : 0.01)
    const clean = (value: number) => Math.round(snap(value) * 1000) / 1000
    change(one, { x: clean(from[0] + x), y: clean(from[1] + y) }, gesture.name())
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
    move,
    standing,
    gesture,
  }
}
