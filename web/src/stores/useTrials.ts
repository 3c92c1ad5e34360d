import { computed, ref, shallowRef, watch } from 'vue'
import { defineStore } from 'pinia'
import { api, type Study, type TrialAnswer, type TrialLine } from '@/api/client'
import { useNewest } from './useNewest'
import { newsOfJobs } from './useJob'
import { useSchemeStore } from './useSchemeStore'

const ASK_AGAIN_MS = 900

/** The sets of trials of the open scheme, and the one that is looked at; the Brief lets values loose in its draft. */
export const useTrials = defineStore('trials', () => {
  const store = useSchemeStore()
  /** What went wrong last, for the page to say. */
  const fault = ref('')
  function warn(words: string) {
    fault.value = ''
    queueMicrotask(() => (fault.value = words))
  }
  const lines = shallowRef<TrialLine[]>([])
  const chosen = shallowRef<TrialAnswer | null>(null)
  const isBusy = ref(false)
  const isRead = ref(false)
  const scheme = computed(() => store.saved?.id ?? null)
  const { newest } = useNewest()

  const isRunning = computed(() => chosen.value?.state === 'running')
  const draft = computed(() => lines.value.find((line) => line.state === 'draft') ?? null)
  /** Pointers that are loose in the study that is looked at. */
  const loose = computed(() => new Set(chosen.value?.loose.flatMap((one) => one.pointers) ?? []))

  /** The sets of the scheme, and the newest of them in full where none is looked at. */
  async function read(wanted?: number) {
    const of = scheme.value
    if (of === null) return
    try {
      const found = await api.trials(of)
      if (scheme.value !== of) return
      lines.value = found
      const id = wanted ?? chosen.value?.id
      const next = found.find((line) => line.id === id) ?? found[0]
      chosen.value = next ? await api.trial(next.id) : null
      isRead.value = true
    } catch (error) {
      warn((error as Error).message)
    }
  }
  watch(scheme, () => {
    lines.value = []
    chosen.value = null
    isRead.value = false
  })

  /** Something is done with a set; what came of it is looked at. */
  async function act(work: () => Promise<TrialAnswer>): Promise<boolean> {
    isBusy.value = true
    try {
      const found = await newest(work)
      if (found === null) return true
      chosen.value = found
      const known = lines.value.some((line) => line.id === found.id)
      lines.value = known ? lines.value.map((line) => (line.id === found.id ? found : line)) : [found, ...lines.value]
      return true
    } catch (error) {
      warn((error as Error).message)
      return false
    } finally {
      isBusy.value = false
    }
  }
  /** Something is asked of the draft, which begins with the study that is looked at where there is none. */
  async function inDraft(asked: Omit<Parameters<typeof api.letLoose>[1], 'of'>) {
    if (scheme.value === null) return
    await store.flush()
    const of = draft.value ? undefined : chosen.value?.id
    await act(() => api.letLoose(scheme.value!, { ...asked, of }))
  }
  /** A value is let loose, or held again. */
  const letLoose = (pointers: string[], isLoose: boolean, keys: string[] = []) =>
    inDraft({ pointers, keys, loose: isLoose })
  /** The size of the array or of the battery is let loose, or that of the inverters beside the array. */
  const letSizeLoose = (size: 'array' | 'battery' | 'ratio') => inDraft({ size, loose: true })
  /** A value follows a loose one in the proportion in which both stand in the design. */
  const letFollow = (pointer: string, follows: string) => inDraft({ pointers: [pointer], follows, loose: true })
  const rewrite = (study: Study | null) => act(() => api.rewriteTrials(chosen.value!.id, study))
  const start = () => act(() => api.startTrials(chosen.value!.id))
  async function again() {
    await store.flush()
    await act(() => api.runTrialsAgain(chosen.value!.id))
  }
  const pause = () => act(() => api.pauseTrials(chosen.value!.id))
  const cancel = () => act(() => api.cancelTrials(chosen.value!.id))
  async function remove() {
    if (!chosen.value) return
    try {
      await api.deleteTrials(chosen.value.id)
      chosen.value = null
      await read()
    } catch (error) {
      warn((error as Error).message)
    }
  }
  async function look(id: number) {
    await act(() => api.trial(id))
  }

  // While trials run, the stream of events says how far they are; without it they are asked for.
  let timer = 0
  let asking = false
  async function follow() {
    window.clearTimeout(timer)
    if (asking || !chosen.value || !isRunning.value) return
    asking = true
    const { id } = chosen.value
    try {
      const found = await api.trial(id)
      if (chosen.value?.id === id) {
        chosen.value = found
        lines.value = lines.value.map((line) => (line.id === id ? found : line))
      }
    } catch {
      // Asked again below.
    } finally {
      asking = false
      if (isRunning.value) timer = window.setTimeout(follow, ASK_AGAIN_MS)
    }
  }
  watch(isRunning, (now) => now && void follow())
  watch(newsOfJobs, (news) => {
    if (news && news.id === chosen.value?.job) void follow()
  })
  // A draft is of the scheme as it is; what was run says whether that has changed since.
  watch(
    () => store.saved?.revision,
    () => chosen.value && void act(() => api.trial(chosen.value!.id)),
  )

  return {
    lines,
    chosen,
    draft,
    loose,
    isBusy,
    isRead,
    isRunning,
    fault,
    read,
    letLoose,
    letSizeLoose,
    letFollow,
    rewrite,
    start,
    again,
    pause,
    cancel,
    remove,
    look,
  }
})
