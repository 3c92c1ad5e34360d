/** Patterns by which the modules of a surface are put into strings. */
export const PATTERNS = ['by row', 'snake', 'by column', 'like shade together'] as const
export type Pattern = (typeof PATTERNS)[number]

export interface Placed {
  id: string
  u: number
  v: number
  /** Solar access 0..1. */
  access: number
}

/** The modules in the order in which strings take them. Rows are those of the same height, from below; a snake turns at each end. */
export function ordered(modules: Placed[], pattern: Pattern): string[] {
  const lines = (of: (m: Placed) => number, along: (m: Placed) => number) => {
    const found = new Map<number, Placed[]>()
    for (const m of modules) {
      const key = Math.round(of(m) * 20)
      found.set(key, [...(found.get(key) ?? []), m])
    }
    return [...found.entries()]
      .toSorted((a, b) => a[0] - b[0])
      .map(([, line]) => line.toSorted((a, b) => along(a) - along(b)))
  }
  const ids = (some: Placed[]) => some.map((m) => m.id)
  switch (pattern) {
    case 'by row':
      return lines(
        (m) => m.v,
        (m) => m.u,
      ).flatMap(ids)
    case 'snake':
      return lines(
        (m) => m.v,
        (m) => m.u,
      ).flatMap((line, i) => ids(i % 2 ? line.toReversed() : line))
    case 'by column':
      return lines(
        (m) => m.u,
        (m) => m.v,
      ).flatMap((line, i) => ids(i % 2 ? line.toReversed() : line))
    case 'like shade together':
      return ids(modules.toSorted((a, b) => b.access - a.access))
  }
}

/** The order cut into strings, one after another; what is left over is in none. */
export function cut(order: string[], sizes: number[]): string[][] {
  let at = 0
  return sizes.map((size) => order.slice(at, (at += size)))
}

/** A string drawn through modules, in place of the one that its first module is in, or of the first that is short of modules. */
export function withDrawn(current: string[][], path: string[], sizes: number[]): string[][] {
  const short = current.findIndex((string, k) => string.length < sizes[k]!)
  const own = current.findIndex((string) => string.includes(path[0]!))
  const slot = own >= 0 ? own : short
  if (slot < 0 || !path.length) return current
  const taken = path.slice(0, sizes[slot])
  return current.map((string, k) => (k === slot ? taken : string.filter((id) => !taken.includes(id))))
}

/** Strings whose modules are gone or moved apart, made whole again: each takes the nearest of the modules that are in none. */
export function repaired(current: string[][], modules: Placed[], sizes: number[]): string[][] {
  const at = new Map(modules.map((m) => [m.id, m]))
  const kept = current.map((string) => string.filter((id) => at.has(id)))
  const loose = new Set(modules.map((m) => m.id).filter((id) => !kept.some((string) => string.includes(id))))
  return kept.map((string, k) => {
    const whole = [...string]
    while (whole.length < sizes[k]! && loose.size) {
      const last = at.get(whole.at(-1) ?? '')
      const far = (id: string) => (last ? Math.hypot(at.get(id)!.u - last.u, at.get(id)!.v - last.v) : 0)
      const next = [...loose].reduce((best, id) => (far(id) < far(best) ? id : best))
      loose.delete(next)
      whole.push(next)
    }
    return whole
  })
}
