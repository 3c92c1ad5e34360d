export type Json = null | boolean | number | string | Json[] | { [key: string]: Json }
export interface JsonObject {
  [key: string]: Json
}

const isObject = (value: Json | undefined): value is JsonObject =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** The target with a JSON Merge Patch (RFC 7396) applied; neither is changed. */
export function mergePatch(target: Json | undefined, patch: Json): Json {
  if (!isObject(patch)) return patch
  const merged: JsonObject = isObject(target) ? { ...target } : {}
  for (const [key, value] of Object.entries(patch)) {
    if (value === null) delete merged[key]
    else merged[key] = mergePatch(merged[key], value)
  }
  return merged
}

/** One patch that does what two do one after the other; unlike `mergePatch` it keeps the nulls that take things out. */
export function joinPatches(first: JsonObject, second: JsonObject): JsonObject {
  const joined: JsonObject = { ...first }
  for (const [key, value] of Object.entries(second)) {
    const before = joined[key]
    joined[key] = isObject(before) && isObject(value) ? joinPatches(before, value) : value
  }
  return joined
}

/** A patch that sets one value by its JSON pointer; null takes it out. */
export function patchAt(pointer: string, value: Json): JsonObject {
  const [head, ...rest] = pointer.split('/').slice(1)
  return { [head!]: rest.length ? patchAt(`/${rest.join('/')}`, value) : value }
}

/** The patch without the values at some pointers; objects that are empty then are left out. */
export function withoutPointers(patch: JsonObject, pointers: string[], at = ''): JsonObject {
  const kept: JsonObject = {}
  for (const [key, value] of Object.entries(patch)) {
    const pointer = `${at}/${key}`
    if (pointers.includes(pointer)) continue
    if (!isObject(value) || !pointers.some((p) => p.startsWith(`${pointer}/`))) kept[key] = value
    else {
      const inner = withoutPointers(value, pointers, pointer)
      if (Object.keys(inner).length) kept[key] = inner
    }
  }
  return kept
}

/** The value at a JSON pointer, or undefined. */
export function valueAt(document: Json | undefined, pointer: string): Json | undefined {
  return pointer
    .split('/')
    .slice(1)
    .reduce<Json | undefined>(
      (at, key) => (isObject(at) ? at[key] : Array.isArray(at) ? at[Number(key)] : undefined),
      document,
    )
}
