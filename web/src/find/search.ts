/** Something that can be found by its name, or by other words of the trade for it. */
export interface Entry {
  kind: string
  title: string
  more: string
  /** Other words it is found by, divided by commas. */
  also?: string
  run: () => unknown
}

const wordsOf = (text: string) =>
  text
    .toLowerCase()
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .split(/[^\p{L}\p{N}/]+/u)
    .filter(Boolean)

/** How well an entry answers what is typed, 0 the best; none where it does not. Whole words come before their beginnings, and a part in the middle of a word is no match. */
export function rank(entry: Entry, typed: string[]): number | null {
  const title = wordsOf(entry.title)
  const others = (entry.also ?? '').split(',').map(wordsOf)
  const every = [...title, ...others.flat(), entry.kind]
  const has = (words: string[], test: (word: string, typed: string) => boolean) =>
    typed.every((one) => words.some((word) => test(word, one)))
  const same = (word: string, one: string) => word === one || word === `${one}s` || `${word}s` === one
  const begins = (word: string, one: string) => word.startsWith(one)
  if (title.join(' ') === typed.join(' ')) return 0
  if (others.some((words) => words.length === typed.length && has(words, same))) return 1
  if (has(title, same)) return 2
  if (title.join(' ').startsWith(typed.join(' '))) return 3
  if (others.some((words) => has(words, same))) return 4
  if (has(title, begins)) return 5
  if (has(every, same)) return 6
  return has(every, begins) ? 7 : null
}

/** The entries that answer what is typed, the best first; everything where nothing is typed. */
export function search(entries: readonly Entry[], text: string): Entry[] {
  const typed = wordsOf(text)
  if (!typed.length) return [...entries]
  return entries
    .map((entry, place) => ({ entry, place, score: rank(entry, typed) }))
    .filter((found) => found.score !== null)
    .toSorted((a, b) => a.score! - b.score! || a.place - b.place)
    .map((found) => found.entry)
}
