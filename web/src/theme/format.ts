import { habits, marked, shownUnit, toShown } from './habits'

const MINUS = '\u2212'
const THIN = '\u202f'

/** By the count of decimals: a writer of numbers takes longer to make than to use a hundred times. */
const writers: Intl.NumberFormat[] = []
function writer(decimals: number): Intl.NumberFormat {
  const digits = { minimumFractionDigits: decimals, maximumFractionDigits: decimals }
  return (writers[decimals] ??= new Intl.NumberFormat('en-GB', digits))
}

/** A number with thousands marks and a proper minus. */
export function number(value: number, decimals = 0): string {
  const text = writer(decimals).format(Math.abs(value))
  return marked(Number(text.replaceAll(',', '')) !== 0 && value < 0 ? MINUS + text : text)
}

/** A value with its unit, both as the one who reads has them. */
export function quantity(value: number, unit: string, decimals = 0): string {
  return `${number(toShown(value, unit), decimals)} ${shownUnit(unit)}`
}

const SPOKEN =
  /(?<![\w.,-])((?:[−+-]?\d+(?:,\d{3})*(?:\.\d+)? (?:to|×|x) )*[−+-]?\d+(?:,\d{3})*(?:\.\d+)?)(?:([ \u00a0])(m²|m|km|°C)(?![\w/²³]))?(?![\w]|[.,-]\d|-\w)/gu
const WRITTEN = /[−+-]?\d+(?:,\d{3})*(?:\.\d+)?/g
/** Words of the server with their numbers and units as the one who reads has them. */
export function spoken(text: string): string {
  const { thousands, decimal, conversions } = habits.value
  if (thousands === ',' && decimal === '.' && !Object.keys(conversions).length) return text
  return text.replace(SPOKEN, (_, values: string, gap: string | undefined, unit: string | undefined) => {
    const shown = values.replace(WRITTEN, (one) => {
      if (!unit || !conversions[unit]) return marked(one)
      const decimals = one.split('.')[1]?.length ?? 0
      return number(toShown(Number(one.replaceAll(',', '').replace(MINUS, '-')), unit), decimals)
    })
    return unit ? `${shown}${gap}${shownUnit(unit)}` : shown
  })
}

/** With its sign always shown, as for changes. */
export function signed(value: number, decimals = 0): string {
  const text = number(value, decimals)
  if (!/[1-9]/.test(text)) return `±${text.replace(MINUS, '')}`
  return value > 0 ? `+${text}` : text
}

export function percent(share: number, decimals = 1): string {
  return `${number(share * 100, decimals)}${THIN}%`
}

/** Energy in the unit in which it has three to five digits. */
export function energy(kilowattHours: number): { value: string; unit: string } {
  const size = Math.abs(kilowattHours)
  if (size >= 9.995e6) return { value: number(kilowattHours / 1e6, 2), unit: 'GWh' }
  if (size >= 19_995) return { value: number(kilowattHours / 1000, size >= 199_950 ? 0 : 1), unit: 'MWh' }
  return { value: number(kilowattHours, size < 10 ? 1 : 0), unit: 'kWh' }
}

export function energyText(kilowattHours: number): string {
  const { value, unit } = energy(kilowattHours)
  return `${value} ${unit}`
}

/** A change of energy in the unit of the energy that it changes. */
export function energyChange(change: number, of: number): string {
  const { unit } = energy(of)
  const [by, decimals] = unit === 'GWh' ? [1e6, 2] : unit === 'MWh' ? [1000, 1] : [1, 0]
  return `${signed(change / by, decimals)} ${unit}`
}

/** As many decimals as were asked for, or as few as a large value needs: 41.28, 550.4, 2,752. */
export function decimalsFor(value: number, most: number): number {
  const size = Math.abs(value)
  return Math.min(most, size >= 1000 ? 0 : size >= 100 ? 1 : most)
}

/** Digits that suit a value of unknown size. */
export function plain(value: number): string {
  const size = Math.abs(value)
  return number(value, size === 0 || size >= 1000 ? 0 : size >= 100 ? 1 : size >= 1 ? 2 : 3)
}

/** Power [W] in the unit in which it reads best. */
export function power(watts: number): string {
  return Math.abs(watts) >= 1000
    ? `${number(watts / 1000, Math.abs(watts) >= 100_000 ? 0 : 2)} kW`
    : `${number(watts, Math.abs(watts) < 10 ? 1 : 0)} W`
}

const POINTS = ['N', 'E', 'S', 'W'] as const

/** An azimuth [°] in words: "S", "S 12° W". */
export function azimuthWords(azimuth: number): string {
  const a = ((azimuth % 360) + 360) % 360
  const south = a > 90 && a < 270
  if (Math.abs(a - 90) < 0.05) return 'E'
  if (Math.abs(a - 270) < 0.05) return 'W'
  const from = south ? 180 : a > 180 ? 360 : 0
  const off = Math.abs(a - from)
  const toward = a < 180 ? 'E' : 'W'
  const base = south ? POINTS[2] : POINTS[0]
  return off < 0.05 ? base : `${base} ${number(off, Number.isInteger(off) ? 0 : 1)}° ${toward}`
}

export function latitudeText(value: number): string {
  return `${number(Math.abs(value), 2)}° ${value >= 0 ? 'N' : 'S'}`
}
export function longitudeText(value: number): string {
  return `${number(Math.abs(value), 2)}° ${value >= 0 ? 'E' : 'W'}`
}

export const MONTH_LETTERS = ['J', 'F', 'M', 'A', 'M', 'J', 'J', 'A', 'S', 'O', 'N', 'D'] as const
export const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'] as const

/** A tiny number to its first digit: 2 × 10⁻¹⁶. */
export function powerOfTen(value: number) {
  const [digit, exponent] = value.toExponential(0).split('e')
  const raised = [...exponent!.replace('+', '')].map((c) => (c === '-' ? '⁻' : '⁰¹²³⁴⁵⁶⁷⁸⁹'[Number(c)])).join('')
  return value === 0 ? '0' : `${digit} × 10${raised}`
}

/** Great-circle distance of two places [km]. */
export function distanceKm(
  one: { latitude: number; longitude: number },
  other: { latitude: number; longitude: number },
): number {
  const rad = Math.PI / 180
  const half =
    Math.sin(((other.latitude - one.latitude) * rad) / 2) ** 2 +
    Math.cos(one.latitude * rad) *
      Math.cos(other.latitude * rad) *
      Math.sin(((other.longitude - one.longitude) * rad) / 2) ** 2
  return 2 * 6371 * Math.asin(Math.sqrt(Math.min(1, half)))
}

/** A figure as the Headline shows it, or the words that stand for it where there is none. */
export function figureText(figure: {
  value: number | null
  unit: string
  without: string
  decimals: number
  is_percentage: boolean
}): string {
  const { value, decimals } = figure
  if (value === null) return figure.without
  return figure.is_percentage
    ? percent(value, decimals)
    : figure.unit
      ? quantity(value, figure.unit, decimalsFor(value, decimals))
      : number(value, decimalsFor(value, decimals))
}

const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
/** A day with its month in words. */
export const day = (moment: string | Date): string =>
  habits.value.dates === ISO ? new Date(moment).toISOString().slice(0, ISO.length) : DAY.format(new Date(moment))
const ISO = '2026-12-01'
