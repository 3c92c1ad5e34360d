import { ref, type Ref } from 'vue'
import { FIELDS_OF } from './datasheetFields'

interface Draft {
  text: Ref<string>
  values: Ref<Record<string, string>>
}
const empty = (kind: 'modules' | 'inverters') => Object.fromEntries(FIELDS_OF[kind].map((field) => [field.key, '']))
const drafts: Record<'modules' | 'inverters', Draft> = {
  modules: { text: ref(''), values: ref(empty('modules')) },
  inverters: { text: ref(''), values: ref(empty('inverters')) },
}

/** The datasheet that is being typed. */
export function draftOf(kind: 'modules' | 'inverters'): Draft {
  return drafts[kind]
}
export function forget(kind: 'modules' | 'inverters') {
  drafts[kind].text.value = ''
  drafts[kind].values.value = empty(kind)
}
