<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import { dropped } from '@/stores/droppedFile'
import { useLibrary } from '@/stores/library'
import { useNotice } from '@/notice/useNotice'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { useSorting } from '@/tables/useSorting'
import PartsImport from '@/parts/PartsImport.vue'
import { plain } from '@/theme/format'

/** Everything in the library, kind by kind: what there is to choose from, and lists of it in and out. */
type Kind = 'modules' | 'inverters' | 'optimisers' | 'transformers' | 'cables' | 'devices' | 'batteries' | 'controllers'
interface Column {
  key: string
  title: string
}
const KINDS: { key: Kind; title: string; columns: Column[] }[] = [
  {
    key: 'modules',
    title: 'Modules',
    columns: columns('power W', 'voc V', 'isc A', 'efficiency_percent %', 'technology'),
  },
  {
    key: 'inverters',
    title: 'Inverters',
    columns: columns('ac_power W', 'kind', 'phases', 'trackers', 'maximum_dc_voltage V', 'european_efficiency %'),
  },
  {
    key: 'optimisers',
    title: 'Optimisers',
    columns: columns(
      'power W',
      'maximum_input_voltage V',
      'output_current A',
      'fewest',
      'most',
      'weighted_efficiency %',
    ),
  },
  {
    key: 'transformers',
    title: 'Transformers',
    columns: columns(
      'rated_power VA',
      'iron_loss W',
      'copper_loss W',
      'low_voltage V',
      'high_voltage V',
      'impedance %',
    ),
  },
  { key: 'cables', title: 'Cables', columns: columns('section mm²', 'conductor', 'cores', 'is_photovoltaic') },
  { key: 'devices', title: 'Protection', columns: columns('kind', 'type', 'current A', 'voltage V', 'poles') },
  {
    key: 'batteries',
    title: 'Batteries',
    columns: columns('capacity Wh', 'power W', 'voltage V', 'efficiency %', 'cycles', 'chemistry'),
  },
  {
    key: 'controllers',
    title: 'Charge controllers',
    columns: columns('current A', 'maximum_voltage V', 'tracks', 'efficiency %'),
  },
]
const COMMON = columns('size', 'mass kg', 'price', 'warranty years', 'year')
const library = useLibrary()
const { warn } = useNotice()
const kind = ref<Kind>('modules')
/** A list that was dropped is shown on the shelf of its kind. */
watch(
  dropped,
  (one) => {
    const found = KINDS.find((k) => k.key === one?.guess.parts)
    if (one?.guess.kind === 'parts' && found) kind.value = found.key
  },
  { immediate: true },
)
const search = ref('')
const sorting = useSorting('name')
const shelf = computed(() => KINDS.find((k) => k.key === kind.value)!)
const shown = computed(() => [...shelf.value.columns, ...COMMON])
type Row = Record<string, unknown> & { id: string; maker: string; name: string }
const all = computed(() => library.parts[kind.value] as unknown as Row[])
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

function columns(...said: string[]): Column[] {
  return said.map((text) => {
    const [key, unit] = text.split(' ')
    const words = key!
      .replaceAll('_', ' ')
      .replace(/ percent$/, '')
      .replace(/^is /, '')
    return { key: key!, title: `${words[0]!.toUpperCase()}${words.slice(1)}${unit ? ` [${unit}]` : ''}` }
  })
}
function text(value: unknown): string {
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
        v-for="k in KINDS"
        :key="k.key"
        type="button"
        class="link"
        :aria-pressed="k.key === kind"
        @click="kind = k.key"
      >
        {{ k.title }} <small class="soft">{{ library.parts[k.key].length }}</small>
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
            <SortHead v-for="c in shown" :key="c.key" :column="c.key" :sorting="sorting" class="num">{{
              c.title
            }}</SortHead>
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
            <td v-for="c in shown" :key="c.key" class="num">{{ text(part[c.key]) }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="!rows.length" class="soft">
        {{ all.length ? 'No parts match. Try fewer words.' : 'None yet. Import a list.' }}
      </p>
    </div>
    <PartsImport :key="kind" :kind="kind" />
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
td {
  white-space: nowrap;
}
</style>
