import { ref, type ShallowRef } from 'vue'
import type { SheetView } from './sheetView'

/** Drawing a string: from the module where the pointer is pressed through all that it passes; going back takes the last one off. */
export function useStringDrawing(view: ShallowRef<SheetView | null>, surface: () => string | null) {
  const path = ref<string[]>([])
  const at = (x: number, y: number) => {
    const hit = view.value?.pick(x, y)
    return hit && hit.surface === surface() ? hit.module : undefined
  }
  function begin(x: number, y: number) {
    const module = surface() && at(x, y)
    if (module) path.value = [module]
    return !!module
  }
  function go(x: number, y: number) {
    if (!path.value.length) return false
    const module = at(x, y)
    if (module && module === path.value.at(-2)) path.value = path.value.slice(0, -1)
    else if (module && !path.value.includes(module)) path.value = [...path.value, module]
    return true
  }
  function end() {
    const found = path.value
    path.value = []
    return found
  }
  return { path, begin, go, end }
}
