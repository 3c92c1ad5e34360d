<script setup lang="ts">
import { computed, ref } from 'vue'
import type { DemandAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { useGesture } from '@/brief/useGesture'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number, power } from '@/theme/format'
import ApplianceMore from './ApplianceMore.vue'
import HoursLine from './HoursLine.vue'

/** The appliances of a source: each with its hours as bars on a line of the day, dragged or typed. */
const props = defineProps<{ source: string; line: DemandAnswer['appliances'][string]; tone: string }>()
const store = useSchemeStore()
const { say } = useNotice()
const gesture = useGesture()
const at = computed(() => `/demand/sources/${props.source}/appliances`)
interface Item {
  name?: string
  number?: number
  places?: number
  power: number
  hours?: string
  days?: string
  hours_a_day?: number
  duty?: number
}
const items = computed(() => Object.entries((store.at(`${at.value}/items`) ?? {}) as unknown as Record<string, Item>))
const rangesOf = (key: string) => (props.line.hours[key] ?? []) as [number, number][]
/** The appliance of which all is shown. */
const opened = ref('')

function edit(key: string, patch: JsonObject | null, name = '') {
  store.edit({ demand: { sources: { [props.source]: { appliances: { items: { [key]: patch } } } } } }, name)
}
const add = () => store.act('add-appliance', { source: props.source })
async function paste(event: ClipboardEvent) {
  const text = event.clipboardData?.getData('text/plain') ?? ''
  if (!text.includes('\t') && !text.includes('\n')) return
  event.preventDefault()
  event.stopPropagation()
  await store.act('take-rows', { source: props.source, text })
}
async function copy() {
  await navigator.clipboard.writeText(props.line.rows.map((row) => row.join('\t')).join('\n'))
  say(`Copied ${props.line.rows.length - 1} appliances with headings. Paste them into a spreadsheet.`)
}
async function takeFromClipboard() {
  await store.act('take-rows', { source: props.source, text: await navigator.clipboard.readText() })
}
const most = computed(() => Math.max(...props.line.energy_a_day))
const charges = computed(() =>
  Object.entries(props.line.charge_a_day)
    .toReversed()
    .map(([voltage, charge]) => `${number(charge)} Ah at ${voltage} V`)
    .join(', '),
)
</script>
<template>
  <div class="rows" @paste="paste">
    <p class="sum">
      At once <b>{{ power(line.peak) }}</b> of {{ power(line.connected) }} connected, surge {{ power(line.surge) }};
      <b>{{ number(most, 1) }} kWh</b> on the average day of the month that asks for most, {{ charges }}. Margin
      <BriefNumber :pointer="`${at}/margin`" label="Margin for what may be added" />.
    </p>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">Appliance</th>
          <th scope="col" class="num">Number</th>
          <th scope="col" class="num">Places</th>
          <th scope="col" class="num">Power</th>
          <th scope="col">Hours</th>
          <th scope="col" class="lane">
            <span v-for="h in [0, 6, 12, 18, 24]" :key="h" :style="{ left: `${(h / 24) * 100}%` }">{{ h }}</span>
          </th>
          <th scope="col"><span class="sr">Delete</span></th>
        </tr>
      </thead>
      <tbody>
        <template v-for="[key, item] in items" :key="key">
          <tr>
            <td><BriefText :value="item.name ?? ''" label="Name" @change="edit(key, { name: $event })" /></td>
            <td class="num">
              <BriefNumber :pointer="`${at}/items/${key}/number`" :label="`Number of ${item.name}`" />
            </td>
            <td class="num">
              <BriefNumber :pointer="`${at}/items/${key}/places`" :label="`Places of ${item.name}`" />
            </td>
            <td class="num"><BriefNumber :pointer="`${at}/items/${key}/power`" :label="`Power of ${item.name}`" /></td>
            <td class="typed">
              <BriefText
                :value="item.hours ?? '0-24'"
                :label="`Hours of ${item.name}, such as 6-8 17-22`"
                @change="edit(key, { hours: $event || null })"
              />
            </td>
            <td class="lane">
              <HoursLine
                :ranges="rangesOf(key)"
                :label="item.name ?? key"
                :tone="tone"
                :opacity="item.hours_a_day || (item.duty ?? 1) < 1 ? 0.5 : 0.8"
                @change="edit(key, { hours: $event }, gesture.name())"
              />
            </td>
            <td class="num">
              <button
                type="button"
                class="link"
                :aria-expanded="opened === key"
                :aria-label="`All of ${item.name}`"
                @click="opened = opened === key ? '' : key"
              >
                …</button
              ><button type="button" class="link" :aria-label="`Delete ${item.name}`" @click="edit(key, null)">
                ×
              </button>
            </td>
          </tr>
          <tr v-if="opened === key">
            <td colspan="7"><ApplianceMore :pointer="`${at}/items/${key}`" :name="item.name ?? key" /></td>
          </tr>
        </template>
      </tbody>
    </table>
    <p class="acts">
      <button type="button" class="button" @click="add">Add an appliance</button>
      <button type="button" class="link" @click="takeFromClipboard">Paste rows of a spreadsheet</button>
      <button type="button" class="link" :disabled="!items.length" @click="copy">Copy as cells</button>
      <span class="soft">Drag an end of a bar, or type 18-22.</span>
    </p>
  </div>
</template>
<style scoped>
.rows {
  display: grid;
  gap: 6px;
}
.sum {
  font: 13.5px/1.5 var(--serif);
}
td,
th {
  padding: 2px 6px !important;
}
td :deep(.blank) {
  max-width: 150px;
}
.typed :deep(.blank) {
  max-width: 110px;
}
.lane {
  width: 38%;
  position: relative;
}
th.lane span {
  position: absolute;
  transform: translateX(-50%);
  bottom: 4px;
  font-weight: 400;
}
.acts {
  align-items: baseline;
  font-size: 12px;
}
</style>
