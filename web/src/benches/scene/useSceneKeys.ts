import type { useLayout } from './useLayout'
import type { useSelection } from './useSelection'
import type { useThings } from './useThings'

const TURN_STEP = 5
const RAISE_STEP = 0.1
/** An arrow moves modules by a part of what it moves things by. */
const MODULE_PART = 0.2
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
}

/** The keys of the Scene bench: all that can be done with the pointer to what is picked. */
export function useSceneKeys(bench: {
  kit: ReturnType<typeof useThings>
  selection: ReturnType<typeof useSelection>
  layouts: ReturnType<typeof useLayout>
  /** One step back: out of a tool, a pick of modules, a face, a thing. */
  leave: () => void
  /** The whole scene into the picture. */
  fit: () => void
  /** A letter begins the name of an object to be added. */
  type: (letter: string) => void
}) {
  const { kit, selection, layouts } = bench
  const { thing, at, change, move, standing, paste, gesture } = kit
  const hasModules = () => layouts.modules.value.size > 0

  function step(way: [number, number], by: number) {
    if (hasModules()) layouts.nudge(way[0] * by * MODULE_PART, way[1] * by * MODULE_PART)
    else
      for (const each of selection.several.value)
        if (!each.values.is_locked) move(each, standing(each), way[0] * by, way[1] * by)
  }
  function turn(by: number) {
    const one = thing.value!
    const azimuth = at(one, 'azimuth')
    if (azimuth !== undefined && !one.values.is_locked)
      change(one, { azimuth: (azimuth + by + 360) % 360 }, gesture.name())
  }
  function raise(by: number) {
    const one = thing.value!
    const field = one.kind === 'buildings' ? 'eave' : 'height'
    const height = at(one, field)
    if (height !== undefined && !one.values.is_locked)
      change(one, { [field]: Math.max(0.1, Math.round((height + by) * 1000) / 1000) }, gesture.name())
  }
  /** What a key does to the picked thing, without Ctrl and with it. */
  const plain: Record<string, () => void> = {
    Delete: () => selection.act('delete'),
    Backspace: () => selection.act('delete'),
    '[': () => turn(-TURN_STEP),
    ']': () => turn(TURN_STEP),
    PageUp: () => raise(RAISE_STEP),
    PageDown: () => raise(-RAISE_STEP),
  }
  const withCtrl: Record<string, () => void> = {
    c: () => selection.act('copy'),
    d: () => selection.act('duplicate'),
    m: () => selection.act('mirror'),
    g: () => selection.act(selection.isGrouped.value ? 'ungroup' : 'group'),
  }

  return function keys(event: KeyboardEvent) {
    if ((event.target as HTMLElement).closest('input, select, textarea')) return
    const isMeta = event.ctrlKey || event.metaKey
    const way = WAYS[event.key]
    if (way && (hasModules() || thing.value)) step(way, event.shiftKey ? 1 : selection.grid.value)
    else if (hasModules() && (event.key === 'Delete' || event.key === 'Backspace')) layouts.removePicked()
    else if (thing.value && !isMeta && plain[event.key]) plain[event.key]!()
    else if (isMeta && event.key === 'v') paste()
    else if (thing.value && isMeta && withCtrl[event.key]) withCtrl[event.key]!()
    else if (event.key === 'Escape') bench.leave()
    else if (!isMeta && !event.altKey && event.key.toLowerCase() === 'f') bench.fit()
    else if (!isMeta && !event.altKey && /^[a-z]$/.test(event.key)) bench.type(event.key)
    else return
    event.preventDefault()
    event.stopPropagation()
  }
}
