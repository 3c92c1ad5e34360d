<script setup lang="ts">
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import type { ReportAnswer, ReportCatalogue } from '@/api/client'

/** The contents of a report in their order, with the pages that it does not have below; arrow keys move a page. */
const props = defineProps<{ catalogue: ReportCatalogue; pages: string[]; answer: ReportAnswer | null }>()
const emit = defineEmits<{ toggle: [key: string]; move: [key: string, by: number]; show: [sheet: number] }>()
const lines = computed(() =>
  props.pages.flatMap((key) => {
    const page = props.catalogue.pages.find((one) => one.key === key)
    if (!page) return []
    const first = props.answer?.sheets.findIndex((sheet) => sheet.page === key) ?? -1
    const why = props.answer?.left_out.find((one) => one.page === key)?.why ?? ''
    return [{ ...page, first, why }]
  }),
)
const others = computed(() => props.catalogue.pages.filter((page) => !props.pages.includes(page.key)))
const WAYS: Record<string, number> = { ArrowUp: -1, ArrowDown: 1 }
function keys(event: KeyboardEvent, key: string) {
  const by = WAYS[event.key]
  if (!by || !event.altKey) return
  event.preventDefault()
  event.stopPropagation()
  moved = key
  emit('move', key, by)
}
/** The keyboard stays on a page that it has moved. */
let moved = ''
const list = useTemplateRef<HTMLOListElement>('list')
watch(
  () => props.pages,
  async () => {
    const key = moved
    moved = ''
    await nextTick()
    if (key) list.value?.querySelector<HTMLElement>(`[data-page="${key}"]`)?.focus()
  },
)
let dragged = ''
function drop(key: string) {
  const [from, to] = [props.pages.indexOf(dragged), props.pages.indexOf(key)]
  if (from >= 0 && to >= 0 && from !== to) emit('move', dragged, to - from)
  dragged = ''
}
</script>
<template>
  <ol ref="list" aria-label="Pages of the report">
    <li
      v-for="line in lines"
      :key="line.key"
      draggable="true"
      @dragstart="dragged = line.key"
      @dragover.prevent
      @drop.prevent="drop(line.key)"
    >
      <button
        type="button"
        class="name"
        :data-page="line.key"
        :class="{ off: line.first < 0 && line.why }"
        :title="line.why || `${line.says}. Drag it, or Alt with an arrow key, to move it.`"
        @click="line.first >= 0 && emit('show', line.first)"
        @keydown="keys($event, line.key)"
      >
        {{ line.title }}
      </button>
      <span class="at soft">{{ line.first >= 0 ? line.first + 1 : '' }}</span>
      <button type="button" class="link" :aria-label="`Leave out ${line.title}`" @click="emit('toggle', line.key)">
        ×
      </button>
      <small v-if="line.why && line.first < 0" class="soft">{{ line.why }}</small>
    </li>
  </ol>
  <template v-if="others.length">
    <h3 class="cap">Not in it</h3>
    <ul aria-label="Pages that can be added">
      <li v-for="page in others" :key="page.key">
        <button type="button" class="name soft" :title="page.says" @click="emit('toggle', page.key)">
          + {{ page.title }}
        </button>
      </li>
    </ul>
  </template>
</template>
<style scoped>
ol,
ul {
  list-style: none;
  margin: 0 0 12px;
  padding: 0;
  font-size: 13px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto;
  gap: 8px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule);
  padding: 2px 0;
}
ul li {
  border: 0;
  padding: 1px 0;
}
li small {
  grid-column: 1 / -1;
  font-size: 11px;
}
.name {
  text-align: left;
  min-height: 24px;
}
ol .name {
  cursor: grab;
}
.off {
  color: var(--haze-text);
  font-style: italic;
}
.at {
  font-size: 12px;
}
</style>
