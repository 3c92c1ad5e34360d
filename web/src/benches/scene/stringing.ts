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

/** The order cut into strings of the sub-arrays, one after another; what is left over is in none. */
export function cut(
  order: string[],
  subarrays: { id: string; size: number; strings: number }[],
): Record<string, string[][]> {
  const plan: Record<string, string[][]> = {}
  let at = 0
  for (const { id, size, strings } of subarrays) {
    plan[id] = []
    for (let k = 0; k < strings; k++) {
      const some = order.slice(at, at + size)
      at += size
      if (some.length) plan[id].push(some)
    }
  }
  return plan
}
