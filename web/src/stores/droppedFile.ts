import { onBeforeUnmount, shallowRef, watch } from 'vue'
import type { FileGuess } from '@/api/client'

/** A file that was dropped or opened anywhere, on its way to the place that takes its kind. */
export interface Dropped {
  file: File
  guess: FileGuess
}
export const dropped = shallowRef<Dropped | null>(null)

/** Takes dropped files of a kind while the page that calls it is there; one that was dropped before it came is waiting. */
export function useDropped(
  kind: FileGuess['kind'],
  take: (one: Dropped) => unknown,
  isReady: () => boolean = () => true,
) {
  const stop = watch(
    () => [dropped.value, isReady()] as const,
    ([one, ready]) => {
      if (one?.guess.kind !== kind || !ready) return
      dropped.value = null
      void take(one)
    },
    { immediate: true },
  )
  onBeforeUnmount(stop)
}
