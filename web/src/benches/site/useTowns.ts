import { onScopeDispose, ref, toValue, watch, type MaybeRefOrGetter } from 'vue'
import { api, type PlaceAnswer } from '@/api/client'
import { useNewest } from '@/stores/useNewest'
import { boxOf, projectionOf, type MapView, type Pixel } from './mapView'

/** From here on the names of towns have room. */
const NAMES_FROM_ZOOM = 5
const WAIT_MS = 150
const NAME_HEIGHT = 13
const LETTER_WIDTH = 5.6

export interface TownName {
  town: PlaceAnswer
  at: Pixel
}

/** The larger towns in view, as many as have room for their names. */
export function useTowns(view: MaybeRefOrGetter<MapView>) {
  const names = ref<TownName[]>([])
  const { newest, giveUp } = useNewest()
  let timer = 0

  async function ask() {
    try {
      const towns = await newest((signal) => api.placesWithin(boxOf(toValue(view)), signal))
      if (towns) names.value = withRoom(towns, toValue(view))
    } catch {
      // Names are a help: without them the map still takes a click.
    }
  }
  watch(
    () => toValue(view),
    (now) => {
      giveUp()
      window.clearTimeout(timer)
      names.value = withRoom(
        names.value.map(({ town }) => town),
        now,
      )
      if (now.zoom >= NAMES_FROM_ZOOM) timer = window.setTimeout(ask, WAIT_MS)
    },
    { immediate: true },
  )
  onScopeDispose(() => window.clearTimeout(timer))
  return names
}

/** Towns whose names do not run into that of a larger one. */
export function withRoom(towns: PlaceAnswer[], view: MapView): TownName[] {
  if (view.zoom < NAMES_FROM_ZOOM) return []
  const projection = projectionOf(view)
  const placed: (TownName & { width: number })[] = []
  for (const town of towns) {
    const at = projection([town.longitude, town.latitude])
    const width = town.name.length * LETTER_WIDTH + 8
    const isFree =
      at &&
      placed.every(
        (o) => Math.abs(o.at[1] - at[1]) > NAME_HEIGHT || at[0] > o.at[0] + o.width || o.at[0] > at[0] + width,
      )
    if (isFree) placed.push({ town, at, width })
  }
  return placed
}
