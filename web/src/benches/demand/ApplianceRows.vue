<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import type { DemandAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { useGesture } from '@/brief/useGesture'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useNotice } from '@/notice/useNotice'
import { freshId } from '@/stores/schemeLists'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number, power } from '@/theme/format'
import { hoursText } from './dayShape'

/** The appliances of a source: each with its hours as bars on a line of the day, dragged or typed. */
const props = defineProps<{ source: string; line: DemandAnswer['appliances'][string]; tone: string }>()
const store = useSchemeStore()
const { say } = useNotice()
const gesture = useGesture()
const chart = useTemplateRef('lane')
const lane = useDrawnWidth(
  computed(() => (chart.value as SVGElement[] | null)?.[0] ?? null),
  300,
)
const STEP = 15
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
const dragged = ref<{ key: string; ranges: [number, number][] } | null>(null)
const rangesOf = (key: string): [number, number][] =>
  dragged.value?.key === key ? dragged.value.ranges : ((props.line.hours[key] ?? []) as [number, number][])

function edit(key: string, patch: JsonObject | null, name = '') {
  store.edit({ demand: { sources: { [props.source]: { appliances: { items: { [key]: patch } } } } } }, name)
}
function add() {
  const key = freshId(
    'appliance',
    items.value.map(([id]) => id),
  )
  edit(key, { name: 'New appliance', power: 100, hours: '8-18' })
}
const minuteOf = (event: PointerEvent, target: Element) => {
  const box = target.getBoundingClientRect()
  return Math.min(1440, Math.max(0, Math.round((((event.clientX - box.left) / box.width) * 1440) / STEP) * STEP))
}
/** Drags an end of a bar, or the whole of it; a drag over empty hours adds a bar. */
function grab(event: PointerEvent, key: string) {
  const target = event.currentTarget as SVGElement
  target.setPointerCapture(event.pointerId)
  const start = minuteOf(event, target)
  const before = (props.line.hours[key] ?? []).map((r) => [...r] as [number, number])
  const near = 30
  const ends = before.flatMap(([a, b], i) => [
    { i, end: 0, off: Math.abs(a - start) },
    { i, end: 1, off: Math.abs(b - start) },
  ])
  const closest = ends.toSorted((a, b) => a.off - b.off)[0]
  const inside = before.findIndex(([a, b]) => start > a && start < b)
  function move(next: PointerEvent) {
    const now = minuteOf(next, target)
    const ranges = before.map((r) => [...r] as [number, number])
    if (closest && closest.off <= near) ranges[closest.i]![closest.end as 0 | 1] = now
    else if (inside >= 0) {
      const [a, b] = before[inside]!
      const by = Math.min(1440 - b, Math.max(-a, now - start))
      ranges[inside] = [a + by, b + by]
    } else ranges.push([Math.min(start, now), Math.max(start, now)])
    dragged.value = { key, ranges: merged(ranges) }
  }
  function drop() {
    target.removeEventListener('pointermove', move)
    target.removeEventListener('pointerup', drop)
    const found = dragged.value
    dragged.value = null
    if (found && found.ranges.length) edit(key, { hours: hoursText(found.ranges) }, gesture.name())
  }
  target.addEventListener('pointermove', move)
  target.addEventListener('pointerup', drop)
}
/** Bars that touch are one; one without length is gone. */
function merged(ranges: [number, number][]): [number, number][] {
  const found: [number, number][] = []
  for (const [a, b] of ranges
    .map(([p, q]) => [Math.min(p, q), Math.max(p, q)] as [number, number])
    .filter(([p, q]) => q > p)
    .toSorted((p, q) => p[0] - q[0])) {
    const last = found.at(-1)
    if (last && a <= last[1]) last[1] = Math.max(last[1], b)
    else found.push([a, b])
  }
  return found
}
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
</script>
<template>
  <div class="rows" @paste="paste">
    <p class="sum">
      At once <b>{{ power(line.peak) }}</b> of {{ power(line.connected) }} connected, surge {{ power(line.surge) }};
      <b>{{ number(most, 1) }} kWh</b> on the average day of the month that asks for most,
      {{ number((most * 1000) / 48) }} Ah at 48 V ({{ number((most * 1000) / 24) }} at 24 V). Margin
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
        <tr v-for="[key, item] in items" :key="key">
          <td><BriefText :value="item.name ?? ''" label="Name" @change="edit(key, { name: $event })" /></td>
          <td class="num"><BriefNumber :pointer="`${at}/items/${key}/number`" :label="`Number of ${item.name}`" /></td>
          <td class="num"><BriefNumber :pointer="`${at}/items/${key}/places`" :label="`Places of ${item.name}`" /></td>
          <td class="num"><BriefNumber :pointer="`${at}/items/${key}/power`" :label="`Power of ${item.name}`" /></td>
          <td class="typed">
            <BriefText
              :value="item.hours ?? '0-24'"
              :label="`Hours of ${item.name}, such as 6-8 17-22`"
              @change="edit(key, { hours: $event || null })"
            />
          </td>
          <td class="lane">
            <svg
              ref="lane"
              width="100%"
              height="20"
              role="img"
              :aria-label="`${item.name}: ${hoursText(rangesOf(key))}`"
              @pointerdown="grab($event, key)"
            >
              <line x1="0" x2="100%" y1="10" y2="10" stroke="var(--rule)" />
              <rect
                v-for="([a, b], i) in rangesOf(key)"
                :key="i"
                :x="(a / 1440) * lane"
                y="4"
                :width="Math.max(2, ((b - a) / 1440) * lane)"
                height="12"
                rx="2"
                :fill="tone"
                :opacity="item.hours_a_day || (item.duty ?? 1) < 1 ? 0.5 : 0.8"
              />
            </svg>
          </td>
          <td class="num">
            <button type="button" class="link" :aria-label="`Delete ${item.name}`" @click="edit(key, null)">×</button>
          </td>
        </tr>
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
.lane svg {
  display: block;
  cursor: ew-resize;
  touch-action: none;
}
.acts {
  align-items: baseline;
  font-size: 12px;
}
</style>
