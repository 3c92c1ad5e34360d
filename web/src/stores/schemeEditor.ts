import { computed, ref, shallowRef } from 'vue'
import { api, type Acts, Problem, Unreachable, type SchemeAnswer } from '@/api/client'
import {
  joinPatches,
  mergePatch,
  patchAt,
  valueAt,
  withoutPointers,
  type Json,
  type JsonObject,
} from '@/api/mergePatch'
import { sharing } from '@/api/sharing'
import { keepUnsent, takeUnsent } from './unsent'

const RETRY_MS = 1500
const ASK_AGAIN_MS = 700
/** Answers that say nothing about the edit itself: it is kept and sent again. */
const SERVER_FAULTS = [500, 502, 503, 504]

interface Edit {
  kind: 'edit'
  patch: JsonObject
  gesture: string
  basedOn?: number
}
interface Walk {
  kind: 'undo' | 'redo'
}
/** A verb of the core with its arguments. */
interface Act {
  kind: 'act'
  verb: string
  body: object
  gesture: string
}
export interface Refused {
  pointer: string
  detail: string
  value: Json | undefined
}
/** A value that someone else has changed since the edit was made. */
export interface Conflict {
  pointer: string
  theirs: Json | undefined
  mine: Json | undefined
}
export type SchemeEditor = ReturnType<typeof makeEditor>

const editors = new Map<number, SchemeEditor>()

/** The editor of a scheme: there is one for each, and an answer goes to the one that asked. */
export function schemeEditor(id: number): SchemeEditor {
  let editor = editors.get(id)
  if (!editor) editors.set(id, (editor = makeEditor(id)))
  return editor
}
/** Forgets all editors, for tests. */
export const forgetEditors = () => editors.clear()

function makeEditor(id: number) {
  /** What the server last said. */
  const saved = shallowRef<SchemeAnswer | null>(null)
  /** The last answer that has its figures: what is on the screen while newer ones are on their way. */
  const shown = shallowRef<SchemeAnswer | null>(null)
  const queue = shallowRef<(Edit | Walk | Act)[]>([])
  const isOffline = ref(false)
  const refused = shallowRef<Refused[]>([])
  const conflicts = shallowRef<Conflict[]>([])
  /** Why something was not done, and what an act did: each is shown once. */
  const notice = ref('')
  const said = ref('')
  let sending: Promise<void> | null = null
  let heard = 0
  let timer = 0
  /** Ordinals: of the answers to what was done here, and of the readings begun and accepted. */
  let written = 0
  let begun = 0
  let accepted = 0

  const edits = computed(() => queue.value.filter((op): op is Edit => op.kind === 'edit'))
  const document = computed<JsonObject>(
    () =>
      edits.value.reduce<Json>(
        (value, op) => mergePatch(value, op.patch),
        (saved.value?.document ?? {}) as Json,
      ) as JsonObject,
  )
  /** Whether the figures on the screen belong to an earlier state of the design. */
  const isStale = computed(
    () => isOffline.value || queue.value.length > 0 || shown.value?.revision !== saved.value?.revision,
  )

  function keep() {
    if (saved.value) keepUnsent(id, { basedOn: edits.value[0]?.basedOn ?? saved.value.revision, edits: edits.value })
  }
  function accept(fresh: SchemeAnswer) {
    // While figures are on their way there are none to share but those on the screen.
    fresh.evaluation = sharing(shown.value?.evaluation, fresh.evaluation)
    const answer = sharing(saved.value, fresh)
    saved.value = answer
    isOffline.value = false
    window.clearTimeout(timer)
    if (answer.evaluation.state === 'pending')
      timer = window.setTimeout(() => void read().catch(() => {}), ASK_AGAIN_MS)
    else shown.value = answer
    if (!shown.value) shown.value = answer
  }
  /** Reads the scheme. What was overtaken by an edit's own answer, or by a later reading, tells an earlier state: it is dropped. */
  async function read() {
    const [mine, before] = [++begun, written]
    const answer = await api.scheme(id)
    if (mine < accepted || written !== before) return
    accepted = mine
    accept(answer)
  }
  function acceptOwn(answer: SchemeAnswer) {
    written += 1
    accept(answer)
  }
  async function open() {
    if (saved.value) return
    const answer = await api.scheme(id)
    if (saved.value) return
    accept(answer)
    for (const kept of await takeUnsent(id))
      queue.value = [
        ...queue.value,
        ...kept.edits.map((edit): Edit => ({ kind: 'edit', ...edit, basedOn: kept.basedOn })),
      ]
    if (queue.value.length) {
      keep()
      void send()
    }
  }

  /** Lays an edit over the document at once and sends it; the edits of one gesture are one undo. */
  function edit(patch: JsonObject, gesture = '') {
    refused.value = []
    const last = queue.value.at(-1)
    const isJoined =
      last?.kind === 'edit' &&
      queue.value.length > (sending ? 1 : 0) &&
      last.gesture === gesture &&
      last.basedOn === undefined
    queue.value = isJoined
      ? [...queue.value.slice(0, -1), { ...last, patch: joinPatches(last.patch, patch) }]
      : [...queue.value, { kind: 'edit', patch, gesture }]
    keep()
    void send()
  }
  /** What the server does to the design, after all that was typed before it. */
  function act<V extends keyof Acts>(verb: V, body: Acts[V], gesture = ''): Promise<void> {
    refused.value = []
    queue.value = [...queue.value, { kind: 'act', verb, body, gesture }]
    return send()
  }
  function walk(kind: Walk['kind']): Promise<void> {
    queue.value = [...queue.value, { kind }]
    return send()
  }
  function send(): Promise<void> {
    sending ??= drain().finally(() => {
      sending = null
      catchUp()
    })
    return sending
  }
  /** One request at a time, in the order in which things were done. */
  async function drain() {
    while (queue.value.length && saved.value) {
      const op = queue.value[0]!
      let isDone = false
      try {
        isDone = op.kind === 'edit' ? await sendEdit(op) : op.kind === 'act' ? await sendAct(op) : await sendWalk(op)
      } catch (error) {
        if (!(error instanceof Unreachable) && !(error instanceof Problem && SERVER_FAULTS.includes(error.status))) {
          isDone = true
          refuse(op, error as Error)
        } else {
          isOffline.value = true
          await new Promise((resolve) => setTimeout(resolve, RETRY_MS))
        }
      }
      if (isDone) queue.value = queue.value.slice(1)
      keep()
    }
  }
  async function sendEdit(op: Edit): Promise<boolean> {
    try {
      acceptOwn(await api.revise(id, op.patch, op.basedOn ?? saved.value!.revision, op.gesture))
      return true
    } catch (error) {
      if (!(error instanceof Problem) || error.status !== 412) throw error
      await read()
      const changed = error.findings.map((finding) => finding.pointer).filter(Boolean)
      const rest = changed.length ? withoutPointers(op.patch, changed) : op.patch
      conflicts.value = changed.map((pointer) => ({
        pointer,
        theirs: valueAt(saved.value!.document as JsonObject, pointer),
        mine: valueAt(op.patch, pointer),
      }))
      if (Object.keys(rest).length === 0) return true
      // What nobody else touched is sent again on top of what is there now.
      queue.value = [{ ...op, patch: rest, basedOn: undefined }, ...queue.value.slice(1)]
      return false
    }
  }
  async function sendAct(op: Act): Promise<boolean> {
    try {
      const answer = await api.act(id, op.verb, op.body, saved.value!.revision, op.gesture)
      acceptOwn(answer)
      said.value = answer.words
    } catch (error) {
      if (!(error instanceof Problem) || error.status !== 412) throw error
      await read()
      notice.value = 'The scheme was changed elsewhere. Check it, then repeat the act.'
    }
    return true
  }
  async function sendWalk(op: Walk): Promise<boolean> {
    if (!(op.kind === 'undo' ? saved.value!.can_undo : saved.value!.can_redo)) return true
    try {
      acceptOwn(await api[op.kind](id, saved.value!.revision))
      refused.value = []
    } catch (error) {
      if (!(error instanceof Problem) || ![409, 412].includes(error.status)) throw error
      await read()
      notice.value =
        error.status === 412 ? `The scheme was changed elsewhere. Check it, then ${op.kind} again.` : error.title
    }
    return true
  }
  function refuse(op: Edit | Walk | Act, error: Error) {
    isOffline.value = false
    const findings =
      error instanceof Problem && error.findings.length ? error.findings : [{ pointer: '', detail: error.message }]
    const patch = op.kind === 'edit' ? op.patch : {}
    refused.value = findings.map((finding) => ({ ...finding, value: valueAt(patch, finding.pointer) }))
    const [first] = findings
    // A number shows at its field why it was refused; of all else it is said at the foot of the window.
    if (!first!.pointer || typeof valueAt(patch, first!.pointer) !== 'number') notice.value = first!.detail
  }
  /** Someone, here or elsewhere, has made a revision, or gone back to one: an undo has a lower number. */
  function hear(revision: number) {
    heard = revision
    catchUp()
  }
  /** Reads what was heard of and is not there yet; again with each sign of life, since a reading can fail. */
  function catchUp() {
    if (!sending && heard && saved.value && heard !== saved.value.revision) void read().catch(() => {})
  }
  /** Puts one's own values in place of those that someone else has set. */
  function applyMine() {
    const patches = conflicts.value.map(({ pointer, mine }) => patchAt(pointer, mine ?? null))
    conflicts.value = []
    if (patches.length) edit(patches.reduce(joinPatches))
  }

  return {
    id,
    saved,
    shown,
    isOffline,
    refused,
    conflicts,
    notice,
    said,
    document,
    isStale,
    open,
    read,
    edit,
    hear,
    catchUp,
    act,
    applyMine,
    undo: () => walk('undo'),
    redo: () => walk('redo'),
    flush: () => send(),
  }
}
