import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, Problem, Unreachable, type ProjectAnswer, type SchemeAnswer } from '@/api/client'
import { joinPatches, mergePatch, valueAt, type Json, type JsonObject } from '@/api/mergePatch'
import { readKept } from './kept'

const RETRY_MS = 1500
const keptKey = (id: number) => `noontide-unsent-${id}`

/**
 * The open scheme: what the server last said, with the edits on their way laid over it.
 *
 * One request is under way at a time. Edits made meanwhile are joined into the next one, so a late answer can never
 * overwrite a newer one; while the server is away they wait, also over a reload.
 */
export const useDesign = defineStore('design', () => {
  const project = shallowRef<ProjectAnswer | null>(null)
  const saved = shallowRef<SchemeAnswer | null>(null)
  const pinned = shallowRef<SchemeAnswer | null>(null)
  const unsent = shallowRef<JsonObject | null>(null)
  const underWay = shallowRef<JsonObject | null>(null)
  const away = ref(false)
  const refused = shallowRef<{ pointer: string; detail: string; value: Json | undefined }[]>([])
  const notice = ref('')
  let sending: Promise<void> | null = null

  const document = computed<JsonObject>(() => {
    let value = (saved.value?.document ?? {}) as Json
    for (const patch of [underWay.value, unsent.value]) if (patch) value = mergePatch(value, patch)
    return value as JsonObject
  })
  const evaluation = computed(() => saved.value?.evaluation ?? null)
  const isStale = computed(() => away.value || unsent.value !== null || underWay.value !== null)
  /** The pinned scheme's evaluation, where it is another than the open one. */
  const against = computed(() =>
    pinned.value && saved.value && pinned.value.id !== saved.value.id ? pinned.value.evaluation : null,
  )
  const pinnedLetter = computed(() => pinned.value?.letter ?? '')
  const at = (pointer: string) => valueAt(document.value, pointer)

  async function open(projectId: number, schemeId: number) {
    if (saved.value?.id !== schemeId) {
      saved.value = await api.scheme(schemeId)
      refused.value = []
      unsent.value = readKept<JsonObject>(keptKey(schemeId))
      if (unsent.value) void send()
    }
    if (project.value?.id !== projectId) project.value = await api.project(projectId)
    await readPinned()
  }
  async function readPinned() {
    const id = project.value?.pinned
    if (!id) pinned.value = null
    else if (id === saved.value?.id) pinned.value = saved.value
    else pinned.value = await api.scheme(id)
  }
  async function readProject() {
    if (project.value) project.value = await api.project(project.value.id)
  }

  function edit(patch: JsonObject) {
    refused.value = []
    unsent.value = unsent.value ? joinPatches(unsent.value, patch) : patch
    keep()
    void send()
  }
  function keep() {
    if (!saved.value) return
    const waiting =
      underWay.value && unsent.value ? joinPatches(underWay.value, unsent.value) : (unsent.value ?? underWay.value)
    if (waiting) localStorage.setItem(keptKey(saved.value.id), JSON.stringify(waiting))
    else localStorage.removeItem(keptKey(saved.value.id))
  }
  function send(): Promise<void> {
    sending ??= drain().finally(() => {
      sending = null
    })
    return sending
  }
  async function drain() {
    while (unsent.value && saved.value) {
      const { id, revision } = saved.value
      const patch = unsent.value
      underWay.value = patch
      unsent.value = null
      try {
        take(await api.revise(id, patch, revision))
        underWay.value = null
        away.value = false
        keep()
      } catch (error) {
        underWay.value = null
        if (error instanceof Unreachable) {
          away.value = true
          unsent.value = unsent.value ? joinPatches(patch, unsent.value) : patch
          keep()
          await new Promise((resolve) => setTimeout(resolve, RETRY_MS))
        } else if (error instanceof Problem && error.status === 412) {
          // Someone else has edited: their state is read, and this edit is laid over it.
          saved.value = await api.scheme(id)
          unsent.value = unsent.value ? joinPatches(patch, unsent.value) : patch
          notice.value = 'The scheme was changed elsewhere; your edit was added to it.'
        } else {
          away.value = false
          const findings =
            error instanceof Problem && error.findings.length
              ? error.findings
              : [{ pointer: '', detail: (error as Error).message }]
          refused.value = findings.map((finding) => ({ ...finding, value: valueAt(patch, finding.pointer) }))
          if (!findings[0]!.pointer || valueAt(patch, findings[0]!.pointer) === undefined)
            notice.value = findings[0]!.detail
          keep()
        }
      }
    }
  }
  function take(answer: SchemeAnswer) {
    saved.value = answer
    if (pinned.value?.id === answer.id) pinned.value = answer
    const line = project.value?.schemes.find((scheme) => scheme.id === answer.id)
    if (line && project.value && line.name !== answer.document.name) void readProject()
  }
  async function walk(verb: 'undo' | 'redo') {
    await send()
    if (!saved.value || !(verb === 'undo' ? saved.value.can_undo : saved.value.can_redo)) return
    try {
      take(await api[verb](saved.value.id, saved.value.revision))
      refused.value = []
    } catch (error) {
      notice.value = (error as Error).message
    }
  }

  return {
    project,
    saved,
    pinned,
    document,
    evaluation,
    against,
    pinnedLetter,
    isStale,
    away,
    refused,
    notice,
    at,
    open,
    edit,
    readProject,
    readPinned,
    undo: () => walk('undo'),
    redo: () => walk('redo'),
    settled: () => send(),
  }
})
