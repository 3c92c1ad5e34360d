import { readonly, ref } from 'vue'

const shown = ref<string | null>(null)

/** Facts of a weather year are asked for with this before their key. */
export const OF_WEATHER = 'weather:'

/** Which figure's working stands open, if any. */
export function useWorking() {
  return {
    shown: readonly(shown),
    show: (key: string) => {
      shown.value = shown.value === key ? null : key
    },
    close: () => {
      shown.value = null
    },
  }
}
