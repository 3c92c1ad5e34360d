<script setup lang="ts">
import { useNotice } from './useNotice'

/** Copies the tables of the part of the page that it stands in, as cells for a spreadsheet. */
const props = defineProps<{ within: string }>()
const { say } = useNotice()
const text = (cell: Element) => (cell.textContent ?? '').replaceAll(/\s+/g, ' ').trim()
async function copy(event: Event) {
  const tables = (event.currentTarget as HTMLElement).closest(props.within)?.querySelectorAll('table') ?? []
  const rows = [...tables].flatMap((table) => [...table.rows].map((row) => [...row.cells].map(text).join('\t')))
  await navigator.clipboard.writeText(rows.join('\n'))
  say(`${rows.length} rows are copied as cells.`)
}
</script>
<template><button type="button" class="link" @click="copy">Copy as cells</button></template>
