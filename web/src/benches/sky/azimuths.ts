import { readNumber } from '@/theme/reading'
import type { Direction } from './skyGeometry'

/** How others count azimuths. Ours is clockwise from north. */
export const CONVENTIONS = [
  { key: 'north', text: 'from north, clockwise', toOurs: (a: number) => a, example: 'east is 90' },
  { key: 'south-west', text: 'from south, west positive', toOurs: (a: number) => a + 180, example: 'east is −90' },
  { key: 'south-east', text: 'from south, east positive', toOurs: (a: number) => 180 - a, example: 'east is 90' },
  { key: 'north-left', text: 'from north, counter-clockwise', toOurs: (a: number) => -a, example: 'east is 270' },
] as const
export type Convention = (typeof CONVENTIONS)[number]['key']

const POINTS: Record<string, number> = {
  N: 0,
  NNE: 22.5,
  NE: 45,
  ENE: 67.5,
  E: 90,
  ESE: 112.5,
  SE: 135,
  SSE: 157.5,
  S: 180,
  SSW: 202.5,
  SW: 225,
  WSW: 247.5,
  W: 270,
  WNW: 292.5,
  NW: 315,
  NNW: 337.5,
}
const turn = (a: number) => Math.round((((a % 360) + 360) % 360) * 1000) / 1000

/** An azimuth as it is written: degrees in a convention, a point of the compass, or `S 12° W`. */
export function readAzimuth(text: string, convention: Convention): number {
  const word = text.trim().toUpperCase()
  if (word in POINTS) return POINTS[word]!
  const quadrant = /^([NS])\s*(\d+(?:[.,]\d+)?)\s*°?\s*([EW])$/.exec(word)
  if (quadrant) {
    const off = readNumber(quadrant[2]!, { min: 0, max: 90 })
    const [from, sign] = quadrant[1] === 'N' ? [0, 1] : [180, -1]
    return turn(from + sign * off * (quadrant[3] === 'E' ? 1 : -1))
  }
  const degrees = readNumber(text.replace('°', ''), { min: -360, max: 360 })
  if (Number.isNaN(degrees) || degrees < -360 || degrees > 360) return Number.NaN
  return degrees === 360 && convention === 'north'
    ? 360
    : turn(CONVENTIONS.find((c) => c.key === convention)!.toOurs(degrees))
}

export interface ReadPairs {
  points: Direction[]
  fault: string
}

/** Pairs of azimuth and elevation, one a line. */
export function readPairs(text: string, convention: Convention): ReadPairs {
  const points: Direction[] = []
  const rows = text
    .split('\n')
    .map((row) => row.trim())
    .filter(Boolean)
  for (const [i, row] of rows.entries()) {
    const cells = /^[NS]\s*\d+(?:[.,]\d+)?\s*°?\s*[EW]\b/i.exec(row)
      ? [
          /^[NS]\s*\d+(?:[.,]\d+)?\s*°?\s*[EW]\b/i.exec(row)![0],
          row.replace(/^[NS]\s*\d+(?:[.,]\d+)?\s*°?\s*[EW]\b[\t;, ]*/i, ''),
        ]
      : row.split(/[\t; ]+|,\s+/)
    const azimuth = readAzimuth(cells[0] ?? '', convention)
    const elevation = readNumber((cells[1] ?? '').replace('°', ''), { min: 0, max: 89 })
    if (Number.isNaN(azimuth) || Number.isNaN(elevation) || elevation < 0 || elevation > 89)
      return {
        points: [],
        fault: `Line ${i + 1}: an azimuth and an elevation of 0 to 89° were expected, such as "92 14" or "S 12° W 14".`,
      }
    points.push({ azimuth, elevation })
  }
  return { points, fault: '' }
}

/** Negative azimuths are in none of the conventions that count from north: the likely one is named. */
export function suspects(text: string, convention: Convention): boolean {
  return convention === 'north' && text.split('\n').some((row) => /^\s*[-−]\s*\d/.test(row))
}
