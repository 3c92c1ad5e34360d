import { readonly, ref, toValue, watch, type MaybeRefOrGetter } from 'vue'

/** A text while it is being typed. A saved value that arrives from elsewhere never overwrites what is being typed. */
export function useTyping(saved: MaybeRefOrGetter<string>) {
  const text = ref('')
  const typing = ref(false)

  function edit(next: string) {
    typing.value = true
    text.value = next
  }
  /** What stands there is finished: it is handed over, and the saved value leads again. */
  function take(): string {
    typing.value = false
    return text.value
  }
  function discard() {
    typing.value = false
    text.value = toValue(saved)
  }

  watch(
    () => toValue(saved),
    () => {
      if (!typing.value) discard()
    },
    { immediate: true },
  )
  return { text: readonly(text), typing: readonly(typing), edit, take, discard }
}
