import { readStored } from './browserStorage'
import type { JsonObject } from '@/api/mergePatch'

/** Edits that the server has not confirmed, as they are kept over a reload or a closed tab. */
export interface Unsent {
  basedOn: number
  edits: { patch: JsonObject; gesture: string }[]
}

const PREFIX = 'noontide-unsent'
const LOCK = 'noontide-tab-'

/** A name for this tab that survives a reload, and a lock that others can see as long as the tab lives. */
const tab = (() => {
  const known = sessionStorage.getItem('noontide-tab')
  const name = known ?? crypto.randomUUID()
  if (!known) sessionStorage.setItem('noontide-tab', name)
  void navigator.locks?.request(LOCK + name, { ifAvailable: true }, (lock) =>
    lock ? new Promise(() => {}) : undefined,
  )
  return name
})()
const keyOf = (scheme: number, owner = tab) => `${PREFIX}-${scheme}-${owner}`

/** Keeps what this tab has not sent yet; two tabs never share a place. */
export function keepUnsent(scheme: number, unsent: Unsent | null) {
  if (unsent?.edits.length) localStorage.setItem(keyOf(scheme), JSON.stringify(unsent))
  else localStorage.removeItem(keyOf(scheme))
}

/** What this tab kept, and what tabs left behind that are gone. */
export async function takeUnsent(scheme: number): Promise<Unsent[]> {
  const held = navigator.locks ? ((await navigator.locks.query()).held ?? []) : []
  const alive = new Set(held.map((lock) => lock.name?.replace(LOCK, '')))
  const found: Unsent[] = []
  for (const key of Object.keys(localStorage)) {
    const owner = key.startsWith(`${PREFIX}-${scheme}-`) ? key.slice(`${PREFIX}-${scheme}-`.length) : null
    if (owner === null || (owner !== tab && alive.has(owner))) continue
    const kept = readStored<Unsent>(key)
    localStorage.removeItem(key)
    if (kept && Array.isArray(kept.edits)) found.push(kept)
  }
  return found
}
