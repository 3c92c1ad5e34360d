import { rampPoint } from '@/theme/ramp'

export interface YearPicture {
  days: number
  perDay: number
  low: number
  high: number
}

/**
 * Paints a year as an image, one column a day and one row an hour of the day, midnight at the foot.
 *
 * Values at or under `low` while the sun is down are left transparent, so that the night is the paper.
 */
export function paintYear(
  values: ArrayLike<number>,
  picture: YearPicture,
  isDark: (interval: number) => boolean,
): ImageData {
  const { days, perDay, low, high } = picture
  const image = new ImageData(days, 24)
  const points = new Uint32Array(image.data.buffer)
  const per = perDay / 24
  for (let day = 0; day < days; day++) {
    for (let hour = 0; hour < 24; hour++) {
      const first = day * perDay + Math.floor(hour * per)
      if (isDark(first)) continue
      let sum = 0
      let count = 0
      for (let k = 0; k < Math.max(1, per); k++) {
        sum += values[first + k] ?? 0
        count++
      }
      points[(23 - hour) * days + day] = rampPoint((sum / count - low) / (high - low || 1))
    }
  }
  return image
}
