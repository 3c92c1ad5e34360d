<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import { dropped } from '@/stores/droppedFile'
import { useLibrary } from '@/stores/library'
import { useNotice } from '@/notice/useNotice'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { useSorting } from '@/tables/useSorting'
import type { DatasheetField, PartsKind } from '@/stores/partKinds'
import PartsImport from '@/parts/PartsImport.vue'
import TypedPart from '@/parts/TypedPart.vue'
import { plain } from '@/theme/format'

/** Everything in the library, kind by kind: what there is to choose from, and lists of it in and out. */
interface Column {
  key: string
  title: string
  /** Said in a wide table alone. */
  isMinor: boolean
}
/** What the server says of a kind beyond its datasheets. */
const MORE: Partial<Record<PartsKind, Column[]>> = {
  modules: [{ key: 'efficiency_percent', title: 'Efficiency [%]', isMinor: false }],
}
const MINOR = ['size', 'mass', 'warranty', 'year']
const COMMON = ['size', 'mass', 'price', 'warranty', 'year']
const library = useLibrary()
const { warn } = useNotice()
const kind = ref<PartsKind>('modules')
const isTyping = ref(false)
/** A list that was dropped is shown on the shelf of its kind. */
watch(
  dropped,
  (one) => {
    const found = library.kinds.find((k) => k.key === one?.guess.parts)
    if (one?.guess.kind === 'parts' && found) kind.value = found.key
  },
  { immediate: true },
)
const search = ref('')
const sorting = useSorting('name')
const shelf = computed(() => library.kinds.find((k) => k.key === kind.value)!)
const shown = computed(() => [
  ...shelf.value.shown.map(column),
  ...(MORE[kind.value] ?? []),
  ...COMMON.flatMap((key) => shelf.value.fields.filter((field) => field.key === key).map(column)),
])
type Row = Record<string, unknown> & { id: string; maker: string; name: string }
const all = computed(() => (library.parts[kind.value] ?? []) as unknown as Row[])
const rows = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  const found = all.value.filter((part) =>
    words.every((word) => Object.values(part).some((value) => String(value).toLowerCase().includes(word))),
  )
  return sorting.sorted(found, (part, column) =>
    column === 'name' ? `${part.maker} ${part.name}` : ((part[column] ?? '') as number | string),
  )
})
const isOwn = (id: string) => library.parts.own.includes(`${kind.value}/${id}`)

function column(field: DatasheetField): Column {
  const title = `${field.title}${field.unit ? ` [${field.unit}]` : ''}`
  return { key: field.key, title, isMinor: MINOR.includes(field.key) }
}
function text(value: unknown): string {
  if (Array.isArray(value)) return value.map(text).join(', ')
  if (value === null || value === undefined) return ''
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (typeof value === 'number') return Number.isInteger(value) && value < 10_000 ? String(value) : plain(value)
  return String(value)
}
async function remove(id: string) {
  try {
    await api.deletePart(kind.value, id)
    await library.readParts()
  } catch (error) {
    warn((error as Error).message)
  }
}
</script>
<template>
  <section class="shelf">
    <p class="kinds">
      <button
        v-for="k in library.kinds"
        :key="k.key"
        type="button"
        class="link"
        :aria-pressed="k.key === kind"
        @click="kind = k.key"
      >
        {{ k.title }} <small class="soft">{{ (library.parts[k.key] ?? []).length }}</small>
      </button>
    </p>
    <p class="tools">
      <input
        v-model="search"
        class="field"
        type="search"
        placeholder="Filter the library"
        aria-label="Filter the library"
      />
      <CopyTable within=".shelf" />
      <span class="out"
        >All as
        <a
          v-for="f in ['csv', 'xlsx', 'json'] as const"
          :key="f"
          class="link"
          :href="api.partsFile(kind, f)"
          download
          >{{ f.toUpperCase() }}</a
        ></span
      >
    </p>
    <div class="scroll">
      <table class="ledger" :aria-label="shelf.title">
        <thead>
          <tr>
            <SortHead column="name" :sorting="sorting">Part</SortHead>
            <SortHead
              v-for="c in shown"
              :key="c.key"
              :column="c.key"
              :sorting="sorting"
              class="num"
              :class="{ minor: c.isMinor }"
              >{{ c.title }}</SortHead
            >
          </tr>
        </thead>
        <tbody>
          <tr v-for="part in rows" :key="part.id">
            <td>
              <b>{{ part.maker }} {{ part.name }}</b>
              <template v-if="isOwn(part.id)">
                <small class="soft"> own</small>
                <button
                  type="button"
                  class="link"
                  data-acts
                  :aria-label="`Delete ${part.maker} ${part.name} from the library`"
                  @click="remove(part.id)"
                >
                  ×
                </button>
              </template>
            </td>
            <td v-for="c in shown" :key="c.key" class="num" :class="{ minor: c.isMinor }">
              {{ text(part[c.key])
              }}<small v-if="c.key === 'price' && part.currency" class="soft">&nbsp;{{ part.currency }}</small>
            </td>
          </tr>
        </tbody>
      </table>
      <p v-if="!rows.length" class="soft">
        {{ all.length ? 'No parts match. Try fewer words.' : 'None yet. Import a list.' }}
      </p>
    </div>
    <p><button type="button" class="link" @click="isTyping = true">Type or paste a datasheet…</button></p>
    <v-dialog v-model="isTyping" role="none" :aria-modal="null" max-width="1000">
      <TypedPart v-if="isTyping" :key="kind" :kind="kind" @close="isTyping = false" @kept="isTyping = false" />
    </v-dialog>
    <PartsImport :key="kind" :kind="shelf" />
  </section>
</template>
<style scoped>
.shelf {
  display: grid;
  gap: 10px;
}
.kinds {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
}
.tools {
  display: flex;
  gap: 14px;
  align-items: center;
  font-size: 12.5px;
}
.out {
  margin-left: auto;
  display: inline-flex;
  gap: 10px;
}
.out a {
  text-decoration: none;
}
.scroll {
  overflow: auto;
}
.shelf {
  container-type: inline-size;
}
td {
  white-space: nowrap;
}
td:first-child {
  white-space: normal;
}
@container (max-width: 620px) {
  .scroll :is(td, th) {
    padding-left: 4px;
    padding-right: 4px;
    font-size: 12px;
  }
  .scroll th,
  .scroll th :deep(*) {
    white-space: normal;
  }
}
@container (max-width: 860px) {
  .minor {
    display: none;
  }
}
</style>
