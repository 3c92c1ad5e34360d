/** A measure on the drawing, where its line and its label stand. */
type Line = { from: [number, number]; to: [number, number] }
const LABEL = { width: 52, height: 19 }
/** Points nearer to one another than this cannot be read beside one another. */
const APART = { x: 46, y: 17 }

/** Texts that stand at one point are drawn where all of them can be read: else one looks closer first. */
export const areApart = (some: Pick<Line, 'from'>[]) =>
  some.every((a, i) =>
    some
      .slice(i + 1)
      .every((b) => Math.abs(a.from[0] - b.from[0]) > APART.x || Math.abs(a.from[1] - b.from[1]) > APART.y),
  )
/** Labels stand at the middle of their lines, or where there is room beside it: none covers another. */
export function spread<T extends Line>(some: T[]): (T & { at: [number, number] })[] {
  const taken: [number, number][] = []
  return some.map((one) => {
    const middle: [number, number] = [(one.from[0] + one.to[0]) / 2, (one.from[1] + one.to[1]) / 2]
    const steps = [0, 1, -1, 2, -2, 3, -3]
    const at = steps
      .map((k): [number, number] => [middle[0] + k * 4, middle[1] + k * LABEL.height])
      .find(([x, y]) => taken.every(([u, v]) => Math.abs(u - x) > LABEL.width || Math.abs(v - y) >= LABEL.height))
    taken.push(at ?? middle)
    return { ...one, at: at ?? middle }
  })
}
