/** What the browser kept under a key over a reload; null where there is nothing, or nothing that can be read. */
export function readStored<T>(key: string): T | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? 'null') as T | null
  } catch {
    localStorage.removeItem(key)
    return null
  }
}
