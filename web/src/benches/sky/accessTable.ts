import { readNumbers } from '@/theme/reading'

/** A pasted table of solar access: twelve rows of twenty-four shares, or of per cent; headings and a column of months may stand around. */
export function accessOf(text: string): { access: number[][] } | { fault: string } {
  const lines = text.split('\n').map((row) =>
    row
      .trim()
      .split(/[\t;]+|\s+/)
      .map((cell) => cell.replace('%', '')),
  )
  const cells = readNumbers(lines.flat(), { min: 0, max: 100 })
  const rows = lines
    .map((row) => row.map(() => cells.shift()!).filter((value) => !Number.isNaN(value)))
    .filter((row) => row.length >= 24)
    .map((row) => row.slice(-24))
  const table = rows.length === 13 ? rows.slice(1) : rows
  if (table.length !== 12)
    return {
      fault: `Twelve rows of 24 values were expected, one a month and hour; ${table.length} such rows are there.`,
    }
  const isPercent = table.some((row) => row.some((value) => value > 1.5))
  const access = table.map((row) => row.map((value) => (isPercent ? value / 100 : value)))
  const wrong = access.findIndex((row) => row.some((value) => value < 0 || value > 1))
  if (wrong >= 0) return { fault: `Row ${wrong + 1}: solar access lies between 0 and 1, or 0 and 100 %.` }
  return { access }
}

/** The mean over the points of an array, of so many that were joined before and one more. */
export const joined = (mean: number[][], count: number, more: number[][]) =>
  mean.map((row, m) => row.map((value, h) => Math.round(((value * count + more[m]![h]!) / (count + 1)) * 1e5) / 1e5))

/** Whether a text is an outline, two numbers a line, and not a table. */
export function isOutline(text: string): boolean {
  const rows = text
    .split('\n')
    .map((row) => row.trim())
    .filter(Boolean)
  return rows.length > 1 && rows.every((row) => row.split(/[\t; ]+|,\s+/).length === 2)
}
