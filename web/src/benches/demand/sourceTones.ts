/** Colours of the sources of demand, in the order in which they stand; a margin has its source's. */
const TONES = [
  'var(--current)',
  'color-mix(in oklab, var(--current) 45%, var(--yield))',
  'color-mix(in oklab, var(--haze) 80%, var(--ink))',
  'color-mix(in oklab, var(--loss) 55%, var(--current))',
  'color-mix(in oklab, var(--yield) 70%, var(--haze))',
  'color-mix(in oklab, var(--loss) 65%, var(--haze))',
  'color-mix(in oklab, var(--current) 55%, var(--haze))',
]
export function toneOf(key: string, order: string[]): string {
  const place = Math.max(0, order.indexOf(key.split('/')[0]!))
  return TONES[place % TONES.length]!
}
