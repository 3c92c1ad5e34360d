import { onBeforeUnmount, ref, watch, type Ref } from 'vue'

/** The width in pixels that a chart has on the screen: drawn in these units, its text keeps its size however narrow. */
export function useDrawnWidth(chart: Ref<Element | null>, before: number, least = 0): Ref<number> {
  const width = ref(before)
  let observer: ResizeObserver | null = null
  // A chart may come after its component, with the answer that it draws.
  watch(
    chart,
    (drawn) => {
      observer?.disconnect()
      if (!drawn || typeof ResizeObserver === 'undefined') return
      observer = new ResizeObserver(([entry]) => {
        if (entry && entry.contentRect.width > 0) width.value = Math.max(least, Math.round(entry.contentRect.width))
      })
      observer.observe(drawn)
    },
    { immediate: true, flush: 'post' },
  )
  onBeforeUnmount(() => observer?.disconnect())
  return width
}
