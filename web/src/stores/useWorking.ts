import { readonly, ref } from 'vue'

const shown = ref<string | null>(null)

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
