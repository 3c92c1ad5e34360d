export interface SunTimes {
  /** Hours of the local clock, one a day; NaN where the sun does not rise. */
  rise: number[]
  set: number[]
}

/** Sunrise and sunset of each day from the share of every interval in which the sun is up. */
export function sunTimesOf(daylight: ArrayLike<number>, perDay: number): SunTimes {
  const rise: number[] = []
  const set: number[] = []
  for (let start = 0; start < daylight.length; start += perDay) {
    const lit = Array.from({ length: perDay }, (_, k) => daylight[start + k]!)
    const first = lit.findIndex((share) => share > 0)
    const last = lit.findLastIndex((share) => share > 0)
    // The lit part of the first interval is its end, that of the last one its beginning.
    rise.push(first < 0 ? NaN : ((first + 1 - lit[first]!) / perDay) * 24)
    set.push(last < 0 ? NaN : ((last + lit[last]!) / perDay) * 24)
  }
  return { rise, set }
}

/** Ends of the ramp for a quantity: the highest thousandth is cut off, so that one odd hour does not darken the year. */
export function boundsOf(values: ArrayLike<number> | undefined, key: string, unit: string) {
  if (!values) return { low: 0, high: 1 }
  const sorted = Float32Array.from(values).sort()
  const high = sorted[Math.floor(sorted.length * 0.999)]!
  const least = sorted[0]!
  const low = unit === '°C' ? least : key === 'delivered' ? 0 : Math.min(0, least)
  return { low, high: Math.max(high, low + 1e-6) }
}

/** Energy [kWh] of powers [W] over the intervals from one to before another, of so many minutes each. */
export function energyBetween(powers: ArrayLike<number>, from: number, to: number, minutes: number) {
  let sum = 0
  for (let k = from; k < to; k++) sum += powers[k] ?? 0
  return (sum / 1000 / 60) * minutes
}

/** Hours of the clock as 04:35; "none" where there are none. */
export function clock(hours: number) {
  if (Number.isNaN(hours)) return 'none'
  const minutes = Math.floor(hours * 60 + 1e-6)
  const two = (n: number) => String(n).padStart(2, '0')
  return `${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`
}
