/** Round values between two bounds at which an axis has its lines, about `few` of them. */
export function axisLines(low: number, high: number, few: number): number[] {
  const size = high - low
  const by = [1, 2, 5, 10, 20]
    .map((m) => m * 10 ** Math.floor(Math.log10(size / few)))
    .find((s) => s >= size / (few + 1))!
  const from = Math.ceil(low / by)
  return Array.from({ length: Math.floor(high / by) - from + 1 }, (_, i) => (from + i) * by)
}
