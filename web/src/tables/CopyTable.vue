<script setup lang="ts">
import { useNotice } from '@/notice/useNotice'

/** Copies the tables of the part of the page that it stands in, as cells for a spreadsheet. */
const props = defineProps<{ within: string }>()
const { say } = useNotice()
/** What is to be read; buttons that only act stay out. A text that a spreadsheet would take for a formula is marked as text. */
const text = (cell: Element) => {
  const read = cell.cloneNode(true) as Element
  for (const act of read.querySelectorAll('[data-acts]')) act.remove()
  const plain = (read.textContent ?? '').replaceAll(/\s+/g, ' ').trim()
  return /^[=@]|^[+-](?![\d.])/.test(plain) ? `'${plain}` : plain
}
async function copy(event: Event) {
  const tables = (event.currentTarget as HTMLElement).closest(props.within)?.querySelectorAll('table') ?? []
  const rows = [...tables].flatMap((table) =>
    [...table.rows].map((row) =>
      [...row.cells]
        .filter((cell) => !cell.hasAttribute('data-acts'))
        .map(text)
        .join('\t'),
    ),
  )
  await navigator.clipboard.writeText(rows.join('\n'))
  say(`Copied ${rows.length} rows. Paste them into a spreadsheet.`)
}
</script>
<template><button type="button" class="link" @click="copy">Copy as cells</button></template>
