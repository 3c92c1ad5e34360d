import { readonly, shallowRef } from 'vue'

export interface Notice {
  text: string
  bad?: boolean
  action?: { label: string; run: () => void }
}
const shown = shallowRef<Notice | null>(null)

/** One line at the foot of the window: what happened, and how to take it back. */
export function useNotice() {
  return {
    shown: readonly(shown),
    say: (text: string, action?: Notice['action']) => {
      shown.value = { text, action }
    },
    warn: (text: string, action?: Notice['action']) => {
      shown.value = { text, bad: true, action }
    },
    clear: () => {
      shown.value = null
    },
  }
}
