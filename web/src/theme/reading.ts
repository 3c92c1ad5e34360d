import { habits, marked, unmarked } from './habits'

/** What a value may be; it also decides what a comma can only be. */
export interface Limits {
  min: number
  max: number
  /** By which an arrow key moves the value. */
  step?: number
}
interface Read {
  value: number
  /** Why it was read so, where a person may have meant another number; else empty. */
  note: string
}
const GROUPED = /^\d{1,3}(?:[.,]\d{3})+$/
const NOTHING: Read = { value: Number.NaN, note: '' }
const within = (value: number, limits?: Limits) => !limits || (value >= limits.min && value <= limits.max)
const numberOf = (sign: string, digits: string) => (digits === '' ? Number.NaN : Number(sign + digits))
/** As this program writes a number. */
const exact = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 10 })
const shown = (value: number) => exact.format(value).replace('-', '\u2212')

/**
 * A number as people type it: a comma or a point for the decimals, thousands marks as they are shown here (1,412), a blank, an apostrophe, or
 * points before a decimal comma; a proper minus. `1,412` is one thousand four hundred and twelve, as it would be written here, unless it can
 * only be 1.412.
 */
export function read(typed: string, limits?: Limits, isCommaDecimal = false): Read {
  const found = readPlain(unmarked(typed), limits, isCommaDecimal)
  return { ...found, note: reworded(found.note) }
}
/** Where the comma marks decimals, what is said of a comma is said of the point, and the other way. */
function reworded(note: string): string {
  if (!note || habits.value.decimal === '.') return note
  const [said, why] = note.split(':')
  return `${marked(said!)}:${why!.replace('comma', 'point')}`
}
/** A number whose own marks are the comma for thousands and the point for decimals. */
function readPlain(text: string, limits?: Limits, isCommaDecimal = false): Read {
  const plain = text
    .trim()
    .replaceAll('\u2212', '-')
    .replace(/(\d)[\s\u202f'’](?=\d{3}(?!\d))/g, '$1')
  const parts = /^([-+]?)(.*)$/s.exec(plain)!
  const [sign, body] = [parts[1]!, parts[2]!]
  const commas = body.split(',').length - 1
  const points = body.split('.').length - 1
  if (commas && points) {
    const decimal = body.lastIndexOf(',') > body.lastIndexOf('.') ? ',' : '.'
    const [whole = '', fraction = '', ...more] = body.split(decimal)
    if (more.length || !GROUPED.test(whole)) return NOTHING
    const value = numberOf(sign, `${whole.replace(/[.,]/g, '')}.${fraction}`)
    return { value, note: decimal === ',' ? `Read as ${shown(value)}: the comma marks the decimals.` : '' }
  }
  if (commas > 1 || points > 1)
    return GROUPED.test(body) ? { value: numberOf(sign, body.replace(/[.,]/g, '')), note: '' } : NOTHING
  if (!commas) return { value: numberOf(sign, body), note: '' }
  const asDecimal = numberOf(sign, body.replace(',', '.'))
  const asThousands = numberOf(sign, body.replace(',', ''))
  const canBeThousands = GROUPED.test(body) && !body.startsWith('0')
  if (canBeThousands && !isCommaDecimal && (within(asThousands, limits) || !within(asDecimal, limits)))
    return { value: asThousands, note: `Read as ${shown(asThousands)}: the comma marks thousands.` }
  return { value: asDecimal, note: `Read as ${shown(asDecimal)}: the comma marks the decimals.` }
}

export const readNumber = (text: string, limits?: Limits): number => read(text, limits).value

/** Cells of one table, all read the same way: a comma that marks decimals in one of them does so in each. */
export function readNumbers(texts: readonly string[], limits?: Limits): number[] {
  const isCommaDecimal = texts.some((text) => {
    const { value, note } = read(text, limits)
    return !Number.isNaN(value) && note.endsWith('decimals.')
  })
  return texts.map((text) => read(text, limits, isCommaDecimal).value)
}
