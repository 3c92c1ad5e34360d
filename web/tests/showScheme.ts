import type { SchemeAnswer } from '@/api/client'
import { schemeEditor } from '@/stores/schemeEditor'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** Opens a scheme as the server would have answered, without a server. */
export function showScheme(answer: Record<string, unknown> & { id: number }) {
  const store = useSchemeStore()
  const editor = schemeEditor(answer.id)
  const whole = { revision: 1, letter: 'A', can_undo: false, can_redo: false, changed: [], ...answer }
  editor.saved.value = whole as unknown as SchemeAnswer
  editor.shown.value = whole as unknown as SchemeAnswer
  store.editor = editor
  return store
}
