/**
 * An answer in which every part that has not changed is the very object of the answer before.
 *
 * What is drawn from such a part need not be drawn again. `now` is fresh from its text, and may be changed here.
 */
export function sharing<T>(before: unknown, now: T): T {
  if (before === now || !isMade(before) || !isMade(now) || Array.isArray(before) !== Array.isArray(now)) return now
  const [old, fresh] = [before as Record<string, unknown>, now as Record<string, unknown>]
  const keys = Object.keys(fresh)
  let isSame = keys.length === Object.keys(old).length
  for (const key of keys) {
    const shared = sharing(old[key], fresh[key])
    if (shared !== fresh[key]) fresh[key] = shared
    isSame &&= Object.is(shared, old[key]) && key in old
  }
  return isSame ? (before as T) : now
}

const isMade = (value: unknown): value is object => typeof value === 'object' && value !== null
