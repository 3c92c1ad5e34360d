/** Mean of a quantity by month and hour of the day, (12, 24); NaN where a month has no such hour. */
export function averageDays(
  values: ArrayLike<number>,
  year: { days: number; monthOf: (day: number) => number },
  /** Hours by which each day's clock is moved: 12 less its solar noon gives solar time. */
  shift: (day: number) => number = () => 0,
): number[][] {
  const perDay = values.length / year.days
  const sums = Array.from({ length: 12 }, () => Array.from({ length: 24 }, () => 0))
  const counts = sums.map((row) => [...row])
  for (let day = 0; day < year.days; day++) {
    const month = year.monthOf(day)
    for (let i = 0; i < perDay; i++) {
      const hour = (((i + 0.5) * 24) / perDay + shift(day) + 24) % 24
      sums[month]![Math.floor(hour)]! += values[day * perDay + i]!
      counts[month]![Math.floor(hour)]!++
    }
  }
  return sums.map((row, m) => row.map((sum, h) => sum / counts[m]![h]!))
}

export interface IrradianceClass {
  from: number
  to: number
  /** Share of the year's irradiation. */
  share: number
  /** Hours of the year. */
  hours: number
}

/** How much of the year's light comes at which strength, in classes of 100 W/m². */
export function irradianceClasses(values: ArrayLike<number>, hoursPerInterval: number): IrradianceClass[] {
  const classes = Array.from({ length: 12 }, (_, i) => ({ from: i * 100, to: (i + 1) * 100, share: 0, hours: 0 }))
  let total = 0
  for (let i = 0; i < values.length; i++) {
    const value = values[i]!
    if (value <= 0) continue
    const one = classes[Math.min(11, Math.floor(value / 100))]!
    one.share += value
    one.hours += hoursPerInterval
    total += value
  }
  const last = classes.findLastIndex((one) => one.hours > 0)
  return classes.slice(0, last + 1).map((one) => ({ ...one, share: one.share / (total || 1) }))
}
