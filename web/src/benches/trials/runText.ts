import type { FigureColumn, LooseLine, Scalar } from '@/api/client'
import { useLibrary } from '@/stores/library'
import { decimalsFor, number, percent, plain } from '@/theme/format'
import { fieldText, shownUnit, toShown } from '@/theme/habits'

/** A figure of a run without its unit; a dash where there is none. */
export function figureValue(value: number | null | undefined, column: FigureColumn): string {
  if (value === null || value === undefined) return '–'
  if (column.is_percentage) return percent(value, column.decimals)
  return number(toShown(value, column.unit), decimalsFor(value, column.decimals))
}
/** The same with its unit. */
export const figureWords = (value: number | null | undefined, column: FigureColumn) =>
  `${figureValue(value, column)}${column.unit && !column.is_percentage && value != null ? ` ${shownUnit(column.unit)}` : ''}`

/** The unit of a column, as it stands under its heading. */
export const unitOf = (column: FigureColumn) => (column.is_percentage ? '%' : shownUnit(column.unit))

/** The short name of a loose value: what stands before the thing that it belongs to. */
export const shortTitle = (one: { title: string }) => one.title.split(',')[0]!

const MOST_DECIMALS = 3
/** Decimals that the values of a list need between them, so that 1.0 stands over 1.1; null where they are not known, or not round. */
function decimalsOf(values: Scalar[] | undefined, unit: string): number | null {
  const shown = (values ?? []).filter((one) => typeof one === 'number').map((one) => toShown(one, unit))
  for (let decimals = 0; shown.length && decimals <= MOST_DECIMALS; decimals++) {
    const by = 10 ** decimals
    if (shown.every((one) => Math.abs(one * by - Math.round(one * by)) < 1e-6)) return decimals
  }
  return null
}

/** Words for loose values: parts by their names, choices by theirs, numbers in the reader's unit. */
export function useLooseWords() {
  const library = useLibrary()
  function text(value: Scalar | undefined, one: { unit: string; pointers?: string[]; values?: Scalar[] }): string {
    if (value === null || value === undefined) return 'none'
    if (typeof value === 'boolean') return value ? 'yes' : 'no'
    if (typeof value === 'number') {
      const decimals = decimalsOf(one.values, one.unit)
      if (decimals !== null) return number(toShown(value, one.unit), decimals)
      return one.unit ? fieldText(value, one.unit) : Number.isInteger(value) ? number(value) : plain(value)
    }
    for (const shelf of Object.values(library.parts) as { id?: string; maker?: string; name?: string }[][]) {
      const part = Array.isArray(shelf) ? shelf.find((each) => each?.id === value) : undefined
      if (part?.name) return `${part.maker ?? ''} ${part.name}`.trim()
    }
    return (one.pointers?.[0] && library.field(one.pointers[0])?.words[value]) || value
  }
  const words = (value: Scalar | undefined, one: LooseLine) => {
    const unit = typeof value === 'number' && one.unit ? shownUnit(one.unit) : ''
    return `${text(value, one)}${unit === '°' ? '°' : unit ? ` ${unit}` : ''}`
  }
  return { text, words }
}
