import { onBeforeUnmount, watch, type Ref } from 'vue'

/** Tells whenever an element has another size; it may come and go. */
export function useResizeObserver(element: Ref<HTMLElement | undefined>, tell: () => void) {
  const observer = typeof ResizeObserver === 'undefined' ? null : new ResizeObserver(tell)
  watch(
    element,
    (now, before) => {
      if (before) observer?.unobserve(before)
      if (now) observer?.observe(now)
    },
    { immediate: true },
  )
  onBeforeUnmount(() => observer?.disconnect())
}
