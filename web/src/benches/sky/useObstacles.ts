import { computed, ref } from 'vue'
import type { Design } from '@/api/designTypes'
import type { JsonObject } from '@/api/mergePatch'
import { useGesture } from '@/brief/useGesture'
import { useNotice } from '@/notice/useNotice'
import { freshId } from '@/stores/schemeLists'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'

type Kept = NonNullable<NonNullable<Design['site']>['obstacles']>[string]
export interface ObstacleView {
  id: string
  name: string
  azimuth: number
  distance: number | null
  width: number
  height: number
  isOutline: boolean
  outlineText: string
  lightByMonth: readonly number[] | null
}
const NEW: Record<'box' | 'tree' | 'pole' | 'outline', JsonObject> = {
  box: { name: 'Building', distance: 25, width: 12, height: 6 },
  tree: { name: 'Tree', distance: 15, width: 6, height: 7 },
  pole: { name: 'Pole', distance: 12, width: 0.3, height: 6 },
  outline: { name: 'Outline' },
}
const DRAG_EVERY_MS = 80

/** The obstacles of the site, and what can be done to them. */
export function useObstacles(sunAzimuth: () => number) {
  const store = useSchemeStore()
  const library = useLibrary()
  const { say } = useNotice()
  const gesture = useGesture()
  const picked = ref('')
  const kept = computed(() => (store.at('/site/obstacles') as unknown as Record<string, Kept> | undefined) ?? {})
  const obstacles = computed<ObstacleView[]>(() =>
    Object.entries(kept.value).map(([id, o]) => ({
      id,
      name: o.name || id,
      azimuth: o.azimuth ?? 0,
      distance: o.distance ?? null,
      width: o.width ?? 0,
      height: o.height ?? 0,
      isOutline: Boolean(o.outline?.length),
      outlineText: (o.outline ?? []).map((p) => `${p.azimuth}\t${p.elevation}`).join('\n'),
      lightByMonth: o.light_by_month ?? null,
    })),
  )
  const edit = (id: string, patch: JsonObject | null, name = '') =>
    store.edit({ site: { obstacles: { [id]: patch } } }, name)

  /** A new one stands before the moment's sun, where its effect is seen at once. */
  function add(kind: keyof typeof NEW) {
    const id = freshId(kind === 'box' ? 'building' : kind, Object.keys(kept.value))
    const azimuth = Math.round(sunAzimuth())
    const own: JsonObject =
      kind === 'outline'
        ? {
            outline: [
              { azimuth: (azimuth + 350) % 360, elevation: 10 },
              { azimuth, elevation: 25 },
              { azimuth: (azimuth + 10) % 360, elevation: 10 },
            ],
          }
        : { azimuth }
    edit(id, { ...NEW[kind], ...(kind === 'tree' ? { light_by_month: leaves() } : {}), ...own })
    picked.value = id
  }
  /** Light through a crown by month, as the scene's trees have it by default; in the south half a year later. */
  function leaves(): number[] {
    const of = (name: string) => Number(library.field(`/scene/trees/tree/${name}`)?.default ?? 0)
    const shift = store.site.latitude < 0 ? 6 : 0
    const [out, fall] = [of('leaf_out') + shift, of('leaf_fall') + shift]
    const length = (fall - out + 12) % 12
    return Array.from({ length: 12 }, (_, m) =>
      (m + 1 - out + 24) % 12 < length ? of('light_in_leaf') : of('light_bare'),
    )
  }
  function remove(id: string) {
    const name = obstacles.value.find((o) => o.id === id)?.name ?? id
    edit(id, null)
    picked.value = ''
    say(`${name} deleted.`, { label: 'Undo', run: () => void store.undo() })
  }

  let from: ObstacleView | null = null
  let next: JsonObject | null = null
  let waiting = 0
  /** Dragged sideways it changes its azimuth, upwards its height; an outline turns as a whole. */
  function move(id: string, change: { turn: number; rise: number }) {
    if (from?.id !== id) {
      gesture.end()
      from = obstacles.value.find((o) => o.id === id) ?? null
    }
    if (!from) return
    if (from.isOutline) {
      const outline = from.outlineText.split('\n').map((row) => row.split('\t').map(Number) as [number, number])
      next = {
        outline: outline.map(([azimuth, elevation]) => ({
          azimuth: Math.round((((azimuth + change.turn) % 360) + 360) % 360),
          elevation: Math.max(0, Math.min(89, Math.round(elevation + change.rise))),
        })) as unknown as never,
      }
    } else {
      const distance = from.distance ?? 30
      const elevation = Math.atan2(from.height, distance) + (change.rise * Math.PI) / 180
      next = {
        azimuth: Math.round((((from.azimuth + change.turn) % 360) + 360) % 360),
        height: Math.max(0, Math.round(10 * distance * Math.tan(Math.min(elevation, 1.5))) / 10),
      }
    }
    waiting ||= window.setTimeout(flush, DRAG_EVERY_MS)
  }
  function flush() {
    window.clearTimeout(waiting)
    waiting = 0
    if (from && next) edit(from.id, next, gesture.name())
    next = null
  }
  function moved() {
    flush()
    from = null
  }
  return { obstacles, picked, add, remove, move, moved }
}
