import { shallowRef, type ShallowRef } from 'vue'

/** To the unit that is shown. */
interface Conversion {
  unit: string
  factor: number
  offset: number
}
/** How a person reads numbers, units and dates, as the server keeps it. */
export interface Habits {
  thousands: string
  decimal: string
  /** By the unit in which values are kept. */
  conversions: Record<string, Conversion>
  dates: string
}
const now = shallowRef<Habits>({ thousands: ',', decimal: '.', conversions: {}, dates: '' })
export const habits: Readonly<ShallowRef<Habits>> = now
export const setHabits = (chosen: Habits) => (now.value = chosen)

/** The unit in which a value is shown. */
export const shownUnit = (unit: string): string => now.value.conversions[unit]?.unit ?? unit
/** A value in the unit in which it is shown. */
export function toShown(value: number, unit = ''): number {
  const to = now.value.conversions[unit]
  return to ? value * to.factor + to.offset : value
}
/** A difference of two values in the unit in which it is shown. */
export const differenceShown = (value: number, unit = ''): number => value * (now.value.conversions[unit]?.factor ?? 1)
/** The value that is kept, from what was typed in the unit that is shown. */
export function fromShown(value: number, unit = ''): number {
  const to = now.value.conversions[unit]
  // To the micrometre: what is typed in feet must come back as it was typed.
  return to ? Math.round(((value - to.offset) / to.factor) * 1e9) / 1e9 : value
}
/** A plain number, as programs write it, with the marks of the one who reads. */
export function marked(plain: string): string {
  const { thousands, decimal } = now.value
  if (thousands === ',' && decimal === '.') return plain
  return plain.replace(/[,.]/g, (mark) => (mark === ',' ? thousands : decimal))
}
/** What was typed with one's own marks, as programs write it. */
export function unmarked(typed: string): string {
  const { thousands, decimal } = now.value
  if (decimal === '.') return thousands === ',' ? typed : typed.replaceAll(thousands, '')
  return typed.replace(/[.,]/g, (mark) => (mark === '.' ? ',' : '.'))
}

const KEPT_DECIMALS = 1e6 // of a number in a field: no tails of binary fractions
const CONVERTED_DECIMALS = 1e2 // of one that stands there in another unit
/** A number as it stands in a field, in the unit and with the marks of the one who reads. */
export function fieldText(value: number, unit = ''): string {
  const by = now.value.conversions[unit] ? CONVERTED_DECIMALS : KEPT_DECIMALS
  return marked(String(Math.round(toShown(value, unit) * by) / by)).replace('-', '\u2212')
}
