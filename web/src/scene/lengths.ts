import { readNumber } from '@/theme/reading'

/** Metres of a length as people type it: 3.2, 3,2 m, 3200mm, 320 cm, 10', 10'6", 6in; null where it is none. */
export function metresOf(typed: string): number | null {
  const text = typed.trim().toLowerCase().replaceAll('′', "'").replaceAll('″', '"').replace('−', '-')
  const feet = /^(-?\d+(?:[.,]\d+)?)\s*(?:'|ft)\s*(?:(\d+(?:[.,]\d+)?)\s*(?:"|in)?)?$/.exec(text)
  if (feet)
    return readNumber(feet[1]!) * 0.3048 + Math.sign(readNumber(feet[1]!) || 1) * readNumber(feet[2] ?? '0') * 0.0254
  const metric = /^(-?[\d.,]*\d)\s*(mm|cm|m|in|")?$/.exec(text)
  if (!metric) return null
  const metres = readNumber(metric[1]!) * SCALE[metric[2] ?? 'm']!
  return Number.isNaN(metres) ? null : metres
}
const SCALE: Record<string, number> = { m: 1, cm: 0.01, mm: 0.001, in: 0.0254, '"': 0.0254 }

/** A length to the millimetre, without needless zeros. */
export const lengthText = (metres: number) => String(Math.round(metres * 1000) / 1000)
