import { rampColour } from '@/theme/ramp'

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
  const per = perDay / 24
  for (let day = 0; day < days; day++) {
    for (let hour = 0; hour < 24; hour++) {
      let sum = 0
      let count = 0
      const first = day * perDay + Math.floor(hour * per)
      for (let k = 0; k < Math.max(1, per); k++) {
        sum += values[first + k] ?? 0
        count++
      }
      const place = ((23 - hour) * days + day) * 4
      if (isDark(first)) continue
      const [r, g, b] = rampColour((sum / count - low) / (high - low || 1))
      image.data.set([r, g, b, 255], place)
    }
  }
  return image
}
