/** The one ramp of heat maps: deep blue-green through rose to pale straw, rising evenly in lightness. */
const STOPS: readonly (readonly [number, number, number])[] = [
  [18, 64, 74],
  [77, 95, 120],
  [154, 106, 128],
  [217, 138, 120],
  [241, 197, 143],
  [251, 241, 208],
]

/** Colour of a share 0..1 as red, green and blue. */
export function rampColour(share: number): [number, number, number] {
  const at = Math.max(0, Math.min(0.9999, share)) * (STOPS.length - 1)
  const low = Math.floor(at)
  const part = at - low
  const from = STOPS[low]!
  const to = STOPS[low + 1]!
  return [0, 1, 2].map((k) => Math.round(from[k]! + (to[k]! - from[k]!) * part)) as [number, number, number]
}

/** The ramp in even steps, opaque, as a picture holds its points: red in the lowest byte. */
const STEPS = 1024
const TABLE = Uint32Array.from({ length: STEPS + 1 }, (_, i) => {
  const [r, g, b] = rampColour(i / STEPS)
  return (0xff000000 | (b << 16) | (g << 8) | r) >>> 0
})

/** Colour of a share 0..1 as a point of a picture; a picture has a hundred thousand of them. */
export const rampPoint = (share: number): number => TABLE[Math.round(Math.max(0, Math.min(1, share)) * STEPS)]!

export function rampCss(share: number): string {
  return `rgb(${rampColour(share).join(' ')})`
}

/** The same as #rrggbb, for drawings that read no other colours. */
export function rampHex(share: number): string {
  return `#${rampColour(share)
    .map((part) => part.toString(16).padStart(2, '0'))
    .join('')}`
}

/** The ramp as a CSS gradient, for legends. */
export const RAMP_GRADIENT = `linear-gradient(90deg, ${STOPS.map((stop) => `rgb(${stop.join(' ')})`).join(', ')})`
