<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useLibrary } from '@/stores/library'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { takeKeyboard } from '@/keyboard/takeKeyboard'
import { useSorting } from '@/tables/useSorting'
import { api, type InverterLine, type ModuleLine } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import InverterCurves from './InverterCurves.vue'
import ModuleCurves from './ModuleCurves.vue'
import PartFilters from './PartFilters.vue'
import PartsCompare from './PartsCompare.vue'
import PartsImport from './PartsImport.vue'
import TypedPart from './TypedPart.vue'
import { INVERTER_COLUMNS, MODULE_COLUMNS, type Column } from './partColumns'
import { NO_FILTER, passes } from './partFilter'
import { FAVOURITES, usePreferences } from './usePreferences'

type Part = ModuleLine | InverterLine
const props = withDefaults(
  defineProps<{ modelValue: boolean; kind: 'module' | 'inverter'; chosen: string; find?: string }>(),
  { find: '' },
)
const emit = defineEmits<{ 'update:modelValue': [value: boolean]; choose: [id: string] }>()
const MOST_COMPARED = 4
const library = useLibrary()
const preferences = usePreferences()
const { warn, say } = useNotice()
const search = ref(props.find)
const field = ref<HTMLInputElement>()
onMounted(() => {
  takeKeyboard(field)
  void preferences.read()
})
const sorting = useSorting(props.kind === 'module' ? 'power' : 'ac_power')
const filter = ref({ ...NO_FILTER })
/** The set that the list is narrowed to; all parts where it is empty. */
const set = ref('')
const compared = ref<string[]>([])
const isComparing = ref(false)
const isTyping = ref(false)
const shownCurves = ref('')
const shelf = computed(() => (props.kind === 'module' ? ('modules' as const) : ('inverters' as const)))
/** What datasheets of this kind say. */
const sheets = computed(() => library.kinds.find((one) => one.key === shelf.value))
const starred = computed(() => new Set(preferences.of(set.value || FAVOURITES)[shelf.value]))
async function remove(id: string) {
  try {
    await api.deletePart(shelf.value, id)
    await library.readParts()
  } catch (error) {
    warn((error as Error).message)
  }
}
function compare(id: string) {
  const has = compared.value.includes(id)
  if (!has && compared.value.length >= MOST_COMPARED) {
    say(`Up to ${MOST_COMPARED} parts stand side by side.`)
    return
  }
  compared.value = has ? compared.value.filter((one) => one !== id) : [...compared.value, id]
}
const columns = computed(
  () => (props.kind === 'module' ? MODULE_COLUMNS : INVERTER_COLUMNS) as unknown as Column<Part>[],
)
const all = computed(() => (props.kind === 'module' ? library.parts.modules : library.parts.inverters) as Part[])
const rows = computed(() => {
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  // A whole name is that part; else every word may stand anywhere.
  const named = all.value.filter((part) => `${part.maker} ${part.name}`.toLowerCase() === words.join(' '))
  if (named.length) return named
  const found = all.value.filter((part) => {
    if (set.value && !starred.value.has(part.id)) return false
    if (!passes(part, filter.value)) return false
    const said = `${part.maker} ${part.name} ${'technology' in part ? part.technology : ''} ${part.year} ${'power' in part ? part.power : part.ac_power}`
    return words.every((word) => said.toLowerCase().includes(word))
  })
  return sorting.sorted(
    found,
    (part, column) => ((part as unknown as Record<string, number | string>)[column] ?? '') as number,
  )
})
const sideBySide = computed(() => all.value.filter((part) => compared.value.includes(part.id)))
function kept(id: string) {
  isTyping.value = false
  search.value = ''
  const part = all.value.find((one) => one.id === id)
  if (part) search.value = `${part.maker} ${part.name}`
}
</script>
<template>
  <v-dialog
    role="none"
    :aria-modal="null"
    :model-value="modelValue"
    max-width="1040"
    @update:model-value="emit('update:modelValue', $event)"
  >
    <div class="picker" role="dialog" :aria-label="kind === 'module' ? 'Choose a module' : 'Choose an inverter'">
      <header role="none">
        <h2>{{ kind === 'module' ? 'Modules' : 'Inverters' }}</h2>
        <input
          ref="field"
          v-model="search"
          class="field"
          type="search"
          placeholder="Filter by maker, name, year…"
          aria-label="Filter the parts"
        /><button
          v-if="compared.length"
          type="button"
          class="button"
          :disabled="compared.length < 2"
          @click="isComparing = true"
        >
          Compare {{ compared.length }}</button
        ><CopyTable within=".picker" /><button type="button" class="link" @click="emit('update:modelValue', false)">
          Close
        </button>
      </header>
      <PartFilters v-model:filter="filter" v-model:set="set" :kind="kind" :parts="all" />
      <div class="scroll">
        <table class="ledger">
          <thead>
            <tr>
              <th scope="col" data-acts><span class="sr">Favourite</span></th>
              <SortHead column="name" :sorting="sorting">Part</SortHead>
              <SortHead v-for="column in columns" :key="column.key" :column="column.key" :sorting="sorting" class="num"
                >{{ column.title }}<template v-if="column.unit"> [{{ column.unit }}]</template></SortHead
              >
            </tr>
          </thead>
          <tbody>
            <tr v-for="part in rows" :key="part.id" :class="{ chosen: part.id === chosen }">
              <td class="star" data-acts>
                <button
                  type="button"
                  :aria-pressed="starred.has(part.id)"
                  :aria-label="`${part.maker} ${part.name} in ${set || FAVOURITES}`"
                  :title="starred.has(part.id) ? `Delete from ${set || FAVOURITES}` : `Add to ${set || FAVOURITES}`"
                  @click="preferences.toggle(set || FAVOURITES, shelf, part.id)"
                >
                  {{ starred.has(part.id) ? '★' : '☆' }}
                </button>
              </td>
              <td class="part">
                <button type="button" class="name" :aria-current="part.id === chosen" @click="emit('choose', part.id)">
                  {{ part.maker }} {{ part.name }}
                </button>
                <span class="small" data-acts>
                  <button
                    type="button"
                    class="link"
                    :aria-label="`Curves of ${part.maker} ${part.name}`"
                    @click="shownCurves = part.id"
                  >
                    curves
                  </button>
                  <button
                    type="button"
                    class="link"
                    :aria-pressed="compared.includes(part.id)"
                    :aria-label="`Compare ${part.maker} ${part.name}`"
                    @click="compare(part.id)"
                  >
                    compare
                  </button>
                </span>
                <template v-if="part.is_own">
                  <small class="soft"> own</small>
                  <button
                    type="button"
                    class="link remove"
                    data-acts
                    :aria-label="`Delete ${part.maker} ${part.name} from the library`"
                    title="Delete from the library; schemes keep their copies"
                    @click="remove(part.id)"
                  >
                    ×
                  </button>
                </template>
              </td>
              <td v-for="column in columns" :key="column.key" class="num">{{ column.text(part) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!rows.length" class="soft none">
          {{
            set && !starred.size
              ? `No parts in ${set} yet. Show all, and mark some with the star.`
              : 'No parts match. Try fewer words or a wider filter.'
          }}
        </p>
      </div>
      <v-dialog
        role="none"
        :aria-modal="null"
        :model-value="shownCurves !== ''"
        max-width="880"
        @update:model-value="shownCurves = ''"
      >
        <ModuleCurves v-if="shownCurves && kind === 'module'" :id="shownCurves" @close="shownCurves = ''" />
        <InverterCurves v-else-if="shownCurves" :id="shownCurves" @close="shownCurves = ''" />
      </v-dialog>
      <v-dialog role="none" :aria-modal="null" v-model="isComparing" max-width="820">
        <PartsCompare
          v-if="isComparing"
          :kind="kind"
          :parts="sideBySide"
          @close="isComparing = false"
          @choose="emit('choose', $event)"
        />
      </v-dialog>
      <v-dialog role="none" :aria-modal="null" v-model="isTyping" max-width="980">
        <TypedPart v-if="isTyping" :kind="shelf" @close="isTyping = false" @kept="kept" />
      </v-dialog>
      <div class="foot">
        <p class="acts">
          <button type="button" class="link" @click="isTyping = true">From a datasheet…</button>
          <span class="soft"
            >All as
            <a
              v-for="file in ['csv', 'xlsx', 'json'] as const"
              :key="file"
              class="link"
              :href="api.partsFile(shelf, file)"
              download
              >{{ file.toUpperCase() }}
            </a></span
          >
          <span class="soft">The makers that ship are invented; their values are typical of their years.</span>
        </p>
        <PartsImport v-if="sheets" :kind="sheets" />
      </div>
    </div>
  </v-dialog>
</template>
<style scoped>
.picker {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 18px 22px 14px;
  display: grid;
  gap: 10px;
  max-height: 86vh;
  grid-template-rows: auto auto 1fr auto;
  border: 1px solid var(--rule);
}
header {
  display: flex;
  gap: 18px;
  align-items: center;
}
header .field {
  flex: 1;
  max-width: 320px;
  margin-right: auto;
}
.scroll {
  overflow: auto;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--sheet);
  z-index: 1;
}
.part {
  white-space: nowrap;
}
.name {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
  white-space: nowrap;
}
.star {
  padding-right: 0;
  color: var(--sun-text);
}
tr:hover td {
  background: var(--wash);
}
tr.chosen td {
  background: var(--pick);
}
.none {
  padding: 20px 8px;
}
.small {
  font-size: 11.5px;
  margin-left: 8px;
  display: inline-flex;
  gap: 8px;
}
.foot {
  font-size: 12px;
  display: grid;
  gap: 6px;
}
.foot .acts {
  align-items: baseline;
  gap: 4px 18px;
}
.foot a {
  text-decoration: none;
  margin-left: 5px;
}
</style>
