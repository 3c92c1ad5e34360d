import { computed, ref, type Ref } from 'vue'
import type { SceneAnswer } from '@/api/client'
import { footprintsOf, snapMove, snapTurn, type Footprint } from './snapping'
import type { Thing, useThings } from './useThings'

export type Verb = 'delete' | 'duplicate' | 'mirror' | 'copy' | 'lock' | 'hide' | 'group' | 'ungroup' | 'follow'
/** Edits of a drag follow each other at most as often [ms]. */
const STEP_MS = 90
const TURN_STEP = 5

/** What is picked: one thing, and those that are moved, locked, hidden, copied and deleted with it. */
export function useSelection(
  scene: Ref<SceneAnswer | null>,
  kit: ReturnType<typeof useThings>,
  picked: Ref<string>,
  pick: (id: string) => void,
) {
  const { things, thing, change, remove, copy, duplicate, mirror, follow, move, standing, gesture } = kit
  const also = ref(new Set<string>())
  /** Of the grid that things are moved on [m]. */
  const grid = ref(0.1)
  /** What the thing that is dragged has snapped to. */
  const lock = ref('')
  const groupOf = (one: Thing) => (typeof one.values.group === 'string' ? one.values.group : null)
  const several = computed(() => {
    const first = thing.value
    if (!first) return []
    const direct = [first, ...things.value.filter((t) => also.value.has(t.id) && t.id !== first.id)]
    const groups = new Set(direct.map(groupOf).filter((g) => g !== null))
    return [...direct, ...things.value.filter((t) => groups.has(groupOf(t) ?? '') && !direct.includes(t))]
  })
  const isGrouped = computed(() => several.value.length > 1 && several.value.every((one) => groupOf(one) !== null))

  function pickThing(id: string, adds = false) {
    if (adds && picked.value && id !== picked.value) {
      const next = new Set(also.value)
      if (!next.delete(id)) next.add(id)
      also.value = next
      return
    }
    also.value = new Set()
    pick(id)
  }

  function act(verb: Verb, copies = 1) {
    const one = thing.value
    if (!one) return
    gesture.end()
    const name = gesture.name()
    if (verb === 'copy') copy(several.value)
    else if (verb === 'duplicate') duplicate(several.value, Math.max(1, Math.min(100, Math.round(copies) || 1)))
    else if (verb === 'mirror') mirror(several.value)
    else if (verb === 'follow') follow(one)
    else if (verb === 'delete') remove(several.value)
    else
      for (const each of several.value)
        if (verb === 'lock') change(each, { is_locked: !one.values.is_locked || null }, name)
        else if (verb === 'hide') change(each, { is_hidden: !one.values.is_hidden || null }, name)
        else change(each, { group: verb === 'group' ? `group-${one.id}`.slice(0, 40) : null }, name)
    if (verb === 'delete') also.value = new Set()
  }

  let from: [number, number][] = []
  let before: Footprint | null = null
  let others: Footprint[] = []
  let waiting = 0
  let run: (() => void) | null = null
  /** The latest state of a drag, so often as the scene can follow. */
  function soon(step: () => void) {
    run = step
    if (waiting) return
    waiting = window.setTimeout(() => {
      waiting = 0
      run?.()
      run = null
    }, STEP_MS)
  }
  function grab() {
    gesture.hold()
    from = several.value.map(standing)
    const names = new Map(things.value.map((t) => [t.id, t.name]))
    const all = scene.value ? footprintsOf(scene.value, names) : []
    const moving = new Set(several.value.map((one) => one.id))
    const carried = (id: string) => moving.has(String(things.value.find((t) => t.id === id)?.values.on ?? ''))
    before = all.find((one) => one.id === thing.value?.id) ?? null
    others = all.filter((one) => !moving.has(one.id) && !carried(one.id))
  }
  /** Move all by a step on the ground; within reach they snap, free they lie where they are dragged to. */
  function drag(dx: number, dy: number, isFree: boolean, reach: number) {
    const snap = before && !isFree ? snapMove(before, others, [dx, dy], reach) : null
    lock.value = snap?.words ?? ''
    const isOnGrid = !snap && !isFree
    soon(() =>
      several.value.forEach((one, k) => {
        if (!from[k] || one.values.is_locked) return
        move(one, from[k], snap?.dx ?? dx, snap?.dy ?? dy, isOnGrid ? grid.value : 0)
      }),
    )
  }
  /** Turn the picked thing to a direction in the site's frame. */
  function turn(azimuth: number, isFree: boolean) {
    const one = thing.value
    if (!one) return
    const snap = isFree ? { azimuth: Math.round(azimuth * 10) / 10, words: '' } : snapTurn(azimuth, others, TURN_STEP)
    lock.value = snap.words
    const host = typeof one.values.on === 'string' ? (scene.value?.places[one.values.on]?.azimuth ?? 180) : 180
    const own = (((snap.azimuth - host + 180) % 360) + 360) % 360
    soon(() => change(one, { azimuth: Math.round(own * 100) / 100 }, gesture.name()))
  }
  function drop() {
    window.clearTimeout(waiting)
    waiting = 0
    run?.()
    run = null
    lock.value = ''
    gesture.end()
  }
  return { also, several, isGrouped, pickThing, act, grab, drag, turn, drop, grid, lock, soon }
}
