<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useLibrary } from '@/stores/library'
import { number } from '@/theme/format'
import CopyTable from '@/tables/CopyTable.vue'
import SortHead from '@/tables/SortHead.vue'
import { takeKeyboard } from '@/keyboard/takeKeyboard'
import { useSorting } from '@/tables/useSorting'
import { api, type InverterLine, type ModuleLine } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import ModuleCurves from './ModuleCurves.vue'
import PartsImport from './PartsImport.vue'

const props = withDefaults(
  defineProps<{ modelValue: boolean; kind: 'module' | 'inverter'; chosen: string; find?: string }>(),
  { find: '' },
)
const emit = defineEmits<{ 'update:modelValue': [value: boolean]; choose: [id: string] }>()
const library = useLibrary()
const { warn } = useNotice()
const search = ref(props.find)
const field = ref<HTMLInputElement>()
onMounted(() => takeKeyboard(field))
const sorting = useSorting(props.kind === 'module' ? 'power' : 'ac_power')

interface Column {
  key: string
  title: string
  unit: string
  text: (part: never) => string
}
const moduleColumns: Column[] = [
  { key: 'power', title: 'Power', unit: 'W', text: (m: ModuleLine) => number(m.power) },
  {
    key: 'efficiency_percent',
    title: 'Efficiency',
    unit: '%',
    text: (m: ModuleLine) => number(m.efficiency_percent, 1),
  },
  { key: 'voc', title: 'Voc', unit: 'V', text: (m: ModuleLine) => number(m.voc, 1) },
  { key: 'isc', title: 'Isc', unit: 'A', text: (m: ModuleLine) => number(m.isc, 2) },
  {
    key: 'power_coefficient',
    title: 'Temp. coeff.',
    unit: '%/K',
    text: (m: ModuleLine) => number(m.power_coefficient, 2),
  },
  { key: 'area_square_metres', title: 'Area', unit: 'm²', text: (m: ModuleLine) => number(m.area_square_metres, 2) },
  { key: 'technology', title: 'Cells', unit: '', text: (m: ModuleLine) => `${m.technology}, ${m.cells_in_series}` },
  { key: 'year', title: 'Year', unit: '', text: (m: ModuleLine) => String(m.year) },
]
const inverterColumns: Column[] = [
  {
    key: 'ac_power',
    title: 'AC power',
    unit: 'kW',
    text: (i: InverterLine) => number(i.ac_power / 1000, i.ac_power < 10000 ? 1 : 0),
  },
  { key: 'trackers', title: 'Trackers', unit: '', text: (i: InverterLine) => String(i.trackers) },
  {
    key: 'maximum_dc_voltage',
    title: 'Max. DC voltage',
    unit: 'V',
    text: (i: InverterLine) => number(i.maximum_dc_voltage),
  },
  {
    key: 'mppt_minimum',
    title: 'MPP window',
    unit: 'V',
    text: (i: InverterLine) => `${number(i.mppt_minimum)}–${number(i.mppt_maximum)}`,
  },
  {
    key: 'maximum_tracker_current',
    title: 'Max. current per tracker',
    unit: 'A',
    text: (i: InverterLine) => number(i.maximum_tracker_current),
  },
  {
    key: 'european_efficiency',
    title: 'European',
    unit: '%',
    text: (i: InverterLine) => number(i.european_efficiency, 1),
  },
  { key: 'phases', title: 'Phases', unit: '', text: (i: InverterLine) => String(i.phases) },
  { key: 'year', title: 'Year', unit: '', text: (i: InverterLine) => String(i.year) },
]
const shownCurves = ref('')
const shelf = computed(() => (props.kind === 'module' ? 'modules' : 'inverters'))
async function remove(id: string) {
  try {
    await api.deletePart(shelf.value, id)
    await library.readParts()
  } catch (error) {
    warn((error as Error).message)
  }
}
const columns = computed(() => (props.kind === 'module' ? moduleColumns : inverterColumns))
const rows = computed(() => {
  const all = (props.kind === 'module' ? library.parts.modules : library.parts.inverters) as unknown as (Record<
    string,
    number | string
  > & { id: string; maker: string; name: string })[]
  const words = search.value.toLowerCase().split(/\s+/).filter(Boolean)
  // A whole name is that part; else every word may stand anywhere.
  const named = all.filter((part) => `${part.maker} ${part.name}`.toLowerCase() === words.join(' '))
  if (named.length) return named
  const found = all.filter((part) =>
    words.every((word) =>
      `${part.maker} ${part.name} ${part.technology ?? ''} ${part.year} ${part.power ?? part.ac_power}`
        .toLowerCase()
        .includes(word),
    ),
  )
  return sorting.sorted(found, (part, column) => part[column]!)
})
</script>
<template>
  <v-dialog :model-value="modelValue" max-width="880" @update:model-value="emit('update:modelValue', $event)">
    <div class="picker" role="dialog" :aria-label="kind === 'module' ? 'Choose a module' : 'Choose an inverter'">
      <header>
        <h2>{{ kind === 'module' ? 'Modules' : 'Inverters' }}</h2>
        <input
          ref="field"
          v-model="search"
          class="field"
          type="search"
          placeholder="Filter by maker, name, year…"
          aria-label="Filter the parts"
        /><CopyTable within=".picker" /><button type="button" class="link" @click="emit('update:modelValue', false)">
          Close
        </button>
      </header>
      <div class="scroll">
        <table class="ledger">
          <thead>
            <tr>
              <SortHead column="name" :sorting="sorting">Part</SortHead>
              <SortHead v-for="column in columns" :key="column.key" :column="column.key" :sorting="sorting" class="num"
                >{{ column.title }}<template v-if="column.unit"> [{{ column.unit }}]</template></SortHead
              >
            </tr>
          </thead>
          <tbody>
            <tr v-for="part in rows" :key="part.id" :class="{ chosen: part.id === chosen }">
              <td>
                <button type="button" class="name" :aria-current="part.id === chosen" @click="emit('choose', part.id)">
                  {{ part.maker }} {{ part.name }}
                </button>
                <button
                  v-if="kind === 'module'"
                  type="button"
                  class="link curves"
                  data-acts
                  :aria-label="`Curves of ${part.maker} ${part.name}`"
                  @click="shownCurves = part.id"
                >
                  curves
                </button>
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
              <td v-for="column in columns" :key="column.key" class="num">{{ column.text(part as never) }}</td>
            </tr>
          </tbody>
        </table>
        <p v-if="!rows.length" class="soft none">No parts match. Try fewer words.</p>
      </div>
      <v-dialog :model-value="shownCurves !== ''" max-width="880" @update:model-value="shownCurves = ''">
        <ModuleCurves v-if="shownCurves" :id="shownCurves" @close="shownCurves = ''" />
      </v-dialog>
      <div class="foot">
        <PartsImport :kind="shelf" />
        <p class="soft">The makers that ship are invented; their values are typical of their years.</p>
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
  gap: 12px;
  max-height: 84vh;
  grid-template-rows: auto 1fr auto;
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
}
header .link:first-of-type {
  margin-left: auto;
}
.scroll {
  overflow: auto;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--sheet);
}
.name {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
  white-space: nowrap;
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
.curves {
  margin-left: 8px;
  font-size: 11.5px;
}
.foot {
  font-size: 12px;
}
</style>
