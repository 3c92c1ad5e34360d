import { defineStore } from 'pinia'
import { computed, shallowRef, watch } from 'vue'
import { api, type Acts, type ProjectAnswer } from '@/api/client'
import { hearOfJob, type JobNews } from './useJob'
import type { Design } from '@/api/designTypes'
import { valueAt, type JsonObject } from '@/api/mergePatch'
import { useLibrary } from './library'
import { schemeEditor, type SchemeEditor } from './schemeEditor'
import { listsOf } from './schemeLists'

/** Without a word from the server for so long, it is taken for unreachable. */
const SILENT_MS = 14_000

/** The open scheme with its project, the pinned scheme that it is compared with, and lists of what it is made of. */
export const useSchemeStore = defineStore('scheme', () => {
  const library = useLibrary()
  const project = shallowRef<ProjectAnswer | null>(null)
  const editor = shallowRef<SchemeEditor | null>(null)
  const baseline = shallowRef<SchemeEditor | null>(null)
  let events: EventSource | null = null
  let silence = 0
  let wanted = 0

  const saved = computed(() => editor.value?.saved.value ?? null)
  const shown = computed(() => editor.value?.shown.value ?? null)
  const evaluation = computed(() => shown.value?.evaluation ?? null)
  /** Inverters and strings with the figures of the parts that the design carries; of the newest document, figures or none. */
  const circuits = computed(
    () =>
      editor.value?.saved.value?.evaluation.circuits ?? evaluation.value?.circuits ?? { inverters: {}, subarrays: {} },
  )
  const document = computed<JsonObject>(() => editor.value?.document.value ?? {})
  /** The pinned scheme's evaluation, where it is another than the open one. */
  const pinnedEvaluation = computed(() =>
    baseline.value && baseline.value.id !== editor.value?.id ? (baseline.value.shown.value?.evaluation ?? null) : null,
  )
  /** Hourly quantities that the year can be asked for: those of every design, and this one's own. */
  const quantities = computed(() => [...library.quantities, ...(evaluation.value?.quantities ?? [])])
  const pinnedLetter = computed(() => baseline.value?.saved.value?.letter ?? '')
  const lists = listsOf(
    () => document.value as unknown as Design,
    (pointer) => library.field(pointer)?.default,
    () => evaluation.value?.faces ?? {},
    () => editor.value?.saved.value?.evaluation.names ?? evaluation.value?.names ?? {},
  )

  /** Opens a scheme with its own project, whichever the address names; the project's id comes back. */
  async function open(schemeId: number): Promise<number> {
    wanted = schemeId
    const next = schemeEditor(schemeId)
    await next.open()
    const owner = next.saved.value!.project
    if (wanted !== schemeId) return owner
    if (project.value?.id !== owner) project.value = await api.project(owner)
    if (wanted !== schemeId) return owner
    const isOther = editor.value !== next
    editor.value = next
    if (isOther) listen(next)
    await readPinned()
    return owner
  }
  function close() {
    wanted = 0
    editor.value = null
    project.value = null
    events?.close()
    window.clearTimeout(silence)
  }
  async function readPinned() {
    const id = project.value?.pinned
    if (!id) {
      baseline.value = null
      return
    }
    const pinned = schemeEditor(id)
    await pinned.open()
    baseline.value = pinned
  }
  async function readProject() {
    if (project.value) project.value = await api.project(project.value.id)
  }
  /** News of the scheme, and that the server is there at all. */
  function listen(mine: SchemeEditor) {
    events?.close()
    events = api.events(mine.id)
    if (!events) return
    const hear = () => {
      window.clearTimeout(silence)
      silence = window.setTimeout(() => {
        mine.isOffline.value = true
      }, SILENT_MS)
      if (mine.isOffline.value) mine.read().catch(() => {})
      else mine.catchUp()
    }
    events.addEventListener('alive', hear)
    events.addEventListener('open', hear)
    events.addEventListener('revised', (event) => {
      hear()
      mine.hear((JSON.parse((event as MessageEvent<string>).data) as { revision: number }).revision)
    })
    events.addEventListener('evaluated', () => {
      hear()
      if (mine.saved.value?.evaluation.state === 'pending') mine.read().catch(() => {})
    })
    events.addEventListener('job', (event) => {
      hear()
      hearOfJob(JSON.parse((event as MessageEvent<string>).data) as JobNews)
    })
    hear()
  }
  // A scheme that was renamed is renamed in the list of tabs too.
  watch(
    () => [saved.value?.id, saved.value?.document.name],
    ([id, name]) => {
      const line = project.value?.schemes.find((scheme) => scheme.id === id)
      if (line && line.name !== (name ?? '')) void readProject().catch(() => {})
    },
  )

  return {
    project,
    editor,
    saved,
    shown,
    document,
    evaluation,
    circuits,
    quantities,
    pinnedEvaluation,
    pinnedLetter,
    ...lists,
    isStale: computed(() => editor.value?.isStale.value ?? false),
    isOffline: computed(() => editor.value?.isOffline.value ?? false),
    refused: computed(() => editor.value?.refused.value ?? []),
    conflicts: computed(() => editor.value?.conflicts.value ?? []),
    notice: computed({
      get: () => editor.value?.notice.value ?? '',
      set: (text: string) => {
        if (editor.value) editor.value.notice.value = text
      },
    }),
    said: computed({
      get: () => editor.value?.said.value ?? '',
      set: (text: string) => {
        if (editor.value) editor.value.said.value = text
      },
    }),
    at: (pointer: string) => valueAt(document.value, pointer),
    open,
    close,
    readProject,
    readPinned,
    edit: (patch: JsonObject, gesture = '') => editor.value?.edit(patch, gesture),
    applyMine: () => editor.value?.applyMine(),
    act: <V extends keyof Acts>(verb: V, body: Acts[V], gesture = '') => editor.value?.act(verb, body, gesture),
    undo: () => editor.value?.undo(),
    redo: () => editor.value?.redo(),
    flush: async () => editor.value?.flush(),
    read: async () => editor.value?.read(),
    hear: (revision: number) => editor.value?.hear(revision),
  }
})
