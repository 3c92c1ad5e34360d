/** Ranges of minutes as people write hours: `6-8 17-22:30`. */
export function hoursText(ranges: [number, number][]): string {
  const part = (minute: number) =>
    minute % 60 ? `${Math.floor(minute / 60)}:${String(minute % 60).padStart(2, '0')}` : `${minute / 60}`
  const rising = ranges.toSorted((a, b) => a[0] - b[0])
  // What ends at midnight and begins there again is one range over midnight.
  const [first, last] = [rising[0], rising.at(-1)]
  if (rising.length > 1 && first![0] === 0 && last![1] === 1440) {
    const between = rising.slice(1, -1)
    return [...between.map(([a, b]) => `${part(a)}-${part(b)}`), `${part(last![0])}-${part(first![1])}`].join(' ')
  }
  return rising.map(([a, b]) => `${part(a)}-${part(b)}`).join(' ')
}

/** A stepped line over the day from values of even slots. */
export function stepPath(values: number[], x: (share: number) => number, y: (value: number) => number): string {
  const n = values.length
  return values
    .map((v, i) => `${i ? 'L' : 'M'}${x(i / n).toFixed(1)} ${y(v).toFixed(1)}H${x((i + 1) / n).toFixed(1)}`)
    .join('')
}

/** The area between two stepped lines. */
export function stepBand(
  low: number[],
  high: number[],
  x: (share: number) => number,
  y: (value: number) => number,
): string {
  const n = high.length
  if (!n) return ''
  const back = low
    .map((v, i) => [v, i] as const)
    .toReversed()
    .map(([v, i]) => `L${x((i + 1) / n).toFixed(1)} ${y(v).toFixed(1)}H${x(i / n).toFixed(1)}`)
    .join('')
  return `${stepPath(high, x, y)}${back}Z`
}

/** A value of an axis with as many digits as its step asks for. */
export const axisText = (value: number, step: number) =>
  value.toFixed(Math.max(0, -Math.floor(Math.log10(step) + 1e-9)))

/** A round step for an axis that reaches to a value. */
export function axisStep(top: number, lines = 4): number {
  const raw = top / lines
  const size = 10 ** Math.floor(Math.log10(Math.max(raw, 1e-9)))
  return [1, 2, 5, 10].map((m) => m * size).find((s) => s >= raw) ?? raw
}
