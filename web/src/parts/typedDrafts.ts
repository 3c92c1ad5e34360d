import { ref, type Ref } from 'vue'
import type { PartsKind } from '@/stores/partKinds'

interface Draft {
  text: Ref<string>
  values: Ref<Record<string, string>>
}
const drafts = new Map<PartsKind, Draft>()

/** The datasheet that is being typed, one of each kind. */
export function draftOf(kind: PartsKind): Draft {
  let draft = drafts.get(kind)
  if (!draft) drafts.set(kind, (draft = { text: ref(''), values: ref({}) }))
  return draft
}
export function forget(kind: PartsKind) {
  const draft = draftOf(kind)
  draft.text.value = ''
  draft.values.value = {}
}
