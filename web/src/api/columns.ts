export interface Columns {
  revision: number
  step: number
  year: number
  utc_offset: number
  intervals: number
  columns: { key: string; title: string; unit: string; values: Float32Array }[]
}

/** Reads `application/vnd.noontide.columns`: the length of a JSON header, the header, float32 columns. */
export function readColumns(buffer: ArrayBuffer): Columns {
  const length = new DataView(buffer).getUint32(0, true)
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as Omit<Columns, 'columns'> & {
    columns: Omit<Columns['columns'][number], 'values'>[]
  }
  return {
    ...header,
    columns: header.columns.map((column, i) => ({
      ...column,
      values: new Float32Array(buffer, 4 + length + i * header.intervals * 4, header.intervals),
    })),
  }
}
