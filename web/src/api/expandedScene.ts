import type { components } from './schema'

type Shapes = components['schemas']
type Point = [number, number, number]

export interface DrawnModule {
  id: string
  number: number
  /** Counterclockwise from its lower left. */
  corners: Point[]
  /** Number of the string that it belongs to. */
  string: number | null
}
export type DrawnString = Omit<Shapes['DrawnString'], 'spans'> & {
  modules: string[]
  /** Middles of the modules, in order. */
  path: Point[]
}
export type DrawnLayout = Omit<Shapes['DrawnLayout'], 'rows' | 'strings'> & {
  modules: DrawnModule[]
  strings: DrawnString[]
}
export type SceneAnswer = Omit<Shapes['SceneAnswer'], 'layouts'> & { layouts: DrawnLayout[] }

/** Every module with its corners, every string with its modules: they come as rows and spans. */
export function expandedScene(answer: Shapes['SceneAnswer']): SceneAnswer {
  return { ...answer, layouts: answer.layouts.map(expandedLayout) }
}

function expandedLayout({ rows, strings, ...layout }: Shapes['DrawnLayout']): DrawnLayout {
  const modules = rows.flatMap(modulesOf)
  const byId = new Map(modules.map((one) => [one.id, one]))
  return {
    ...layout,
    modules,
    strings: strings.map(({ spans, ...string }) => {
      const ids = spans.flatMap(idsOf)
      const path = ids.flatMap((id) => {
        const one = byId.get(id)
        if (!one) return []
        one.string = string.number
        return [middle(one.corners)]
      })
      return { ...string, modules: ids, path }
    }),
  }
}

function modulesOf({ first, number, count, at, step, along, up }: Shapes['DrawnRow']): DrawnModule[] {
  const [stem, start] = parted(first)
  return Array.from({ length: count }, (_, k) => {
    const low = plus(at as Point, step as Point, k)
    const right = plus(low, along as Point)
    return {
      id: k ? `${stem}${start + k}` : first,
      number: number + k,
      corners: [low, right, plus(right, up as Point), plus(low, up as Point)],
      string: null,
    }
  })
}

/** The ids from the first to the last of a span, up or down. */
export function idsOf([first, last]: string[]): string[] {
  if (first === last) return [first!]
  const [stem, start] = parted(first!)
  const end = parted(last!)[1]
  const way = Math.sign(end - start)
  return Array.from({ length: Math.abs(end - start) + 1 }, (_, k) => `${stem}${start + way * k}`)
}

function parted(id: string): [stem: string, number: number] {
  const digits = /\d*$/.exec(id)![0]
  return [id.slice(0, id.length - digits.length), Number(digits)]
}
const plus = (a: Point, b: Point, times = 1): Point => [a[0] + b[0] * times, a[1] + b[1] * times, a[2] + b[2] * times]
const middle = ([a, , c]: Point[]): Point => [(a![0] + c![0]) / 2, (a![1] + c![1]) / 2, (a![2] + c![2]) / 2]
