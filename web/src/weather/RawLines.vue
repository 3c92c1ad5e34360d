<script setup lang="ts">
import { computed } from 'vue'
import type { Reading, ReadingAnswer } from '@/api/client'
import { number } from '@/theme/format'
import { roleOf } from './roles'

/** The lines of the file as they stand, each field in the colour of what it is taken for. */
const props = defineProps<{ lines: ReadingAnswer['lines']; reading: Reading }>()
const roles = computed(() => new Map(props.reading.columns.map((c) => [c.place, roleOf(c.role)])))
const shown = computed(() => props.reading.columns.map((c) => c.place).slice(0, 14))
const codes = computed(() => new Set(props.reading.missing))
function isMissing(text: string) {
  return text !== '' && codes.value.has(Number(props.reading.decimal === ',' ? text.replace(',', '.') : text))
}
const width = computed(() => shown.value.length)
</script>
<template>
  <div class="raw" tabindex="0" role="region" aria-label="Lines of the file">
    <table>
      <tbody>
        <tr v-for="(line, i) in lines" :key="i" :class="line.kind">
          <template v-if="line.kind === 'gap'">
            <td class="n">⋮</td>
            <td :colspan="width" class="soft">{{ number(line.number) }} line{{ line.number === 1 ? '' : 's' }}</td>
          </template>
          <template v-else-if="line.kind === 'row' || line.kind === 'header'">
            <td class="n">{{ line.number }}</td>
            <td
              v-for="place in shown"
              :key="place"
              :class="[
                roles.get(place)?.colour,
                { unused: !roles.get(place), missing: line.kind === 'row' && isMissing(line.fields[place] ?? '') },
              ]"
            >
              {{ line.fields[place] ?? '' }}
            </td>
          </template>
          <template v-else>
            <td class="n">{{ line.number }}</td>
            <td :colspan="width" class="words">{{ line.fields[0] }}</td>
          </template>
        </tr>
      </tbody>
    </table>
  </div>
</template>
<style scoped>
.raw {
  overflow: auto;
  background: color-mix(in srgb, var(--paper) 70%, var(--sheet));
  border: 1px solid var(--rule);
  border-radius: 8px;
  padding: 6px 8px;
}
table {
  border-collapse: collapse;
  font:
    11.5px/17px ui-monospace,
    Menlo,
    Consolas,
    monospace;
  color: var(--ink);
}
td {
  padding: 0 5px;
  white-space: nowrap;
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.n {
  color: var(--soft);
  text-align: right;
  user-select: none;
  opacity: 0.75;
}
.words {
  color: var(--soft);
  max-width: none;
}
.header td {
  font-weight: 700;
}
.sun {
  background: color-mix(in srgb, var(--sun) 24%, transparent);
}
.loss {
  background: color-mix(in srgb, var(--loss) 18%, transparent);
}
.current {
  background: color-mix(in srgb, var(--current) 18%, transparent);
}
.yield {
  background: color-mix(in srgb, var(--yield) 20%, transparent);
}
.haze {
  background: color-mix(in srgb, var(--haze) 20%, transparent);
}
.ink {
  background: var(--wash);
}
.row .unused {
  color: var(--soft);
  text-decoration: line-through;
  opacity: 0.6;
}
.missing {
  outline: 1.5px solid var(--loss);
  outline-offset: -2px;
}
</style>
