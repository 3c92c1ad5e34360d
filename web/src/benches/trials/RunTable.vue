<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { api, type FigureColumn, type TrialRun, type TrialAnswer } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import NumberField from '@/brief/NumberField.vue'
import { number } from '@/theme/format'
import { figureValue, shortTitle, unitOf, useLooseWords } from './runText'
import { useRunPages } from './useRunPages'
import { useRuns } from './useRuns'
import { shownUnit } from '@/theme/habits'

/** All runs as a table: sorted, filtered and paged by the server, so that a hundred thousand are as quick as ten. */
const props = defineProps<{ set: TrialAnswer }>()
const { say, warn } = useNotice()
const { columns, loose, aim, stamp, hovered, selected, of, go } = useRuns()
const { text } = useLooseWords()
const ROW = 27
const MOST_COPIED = 20_000

const FIRST = ['energy', 'specific_yield', 'net_present_value', 'payback', 'self_sufficiency', 'lost_load', 'errors']
const shown = computed<FigureColumn[]>(() => {
  const asked = of('columns')
  const limits = (props.set.study?.limits ?? []) as { figure: string }[]
  const keys = asked ? asked.split(',') : [aim.value?.figure, ...limits.map((one) => one.figure), ...FIRST]
  return [...new Set(keys)].flatMap((key) => columns.value.filter((one) => one.key === key)).slice(0, asked ? 40 : 6)
})
function toggleColumn(key: string) {
  const now = shown.value.map((one) => one.key)
  const next = now.includes(key) ? now.filter((one) => one !== key) : [...now, key]
  if (next.length) go({ columns: next.join() })
}
const sort = computed(() => of('sort') || aim.value?.figure || 'run')
const down = computed(() => (of('sort') ? of('down') === '1' : aim.value?.better === 'more'))
const sortBy = (key: string) =>
  go({ sort: key, down: sort.value === key && !down.value ? '1' : sort.value === key ? undefined : downFirst(key) })
const downFirst = (key: string) => (columns.value.find((one) => one.key === key)?.better === 'more' ? '1' : undefined)
const where = computed(() => (of('where') ? of('where').split('~') : []))
/** Where there are limits, runs that break one stand aside until they are asked for. */
const hasLimits = computed(() => Boolean((props.set.study?.limits as unknown[] | undefined)?.length))
const kept = computed(() => (of('kept') ? of('kept') === '1' : hasLimits.value && props.set.kept > 0))
const asked = computed(() => ({ sort: sort.value, down: down.value, where: where.value, kept: kept.value }))
const askedText = computed(() => JSON.stringify(asked.value))
const steady = computed(() => JSON.parse(askedText.value) as typeof asked.value)
const { row, look, chosen, ranges, fault, pages } = useRunPages(() => props.set.id, steady, stamp)

const box = useTemplateRef<HTMLElement>('box')
const top = ref(0)
const first = computed(() => Math.max(0, Math.floor(top.value / ROW) - 6))
const last = computed(() => Math.min(chosen.value, first.value + 44))
const rows = computed(() =>
  Array.from({ length: Math.max(0, last.value - first.value) }, (_, k) => ({
    at: first.value + k,
    run: row(first.value + k),
  })),
)
watch([first, last], () => look(first.value, last.value))
watch(askedText, () => {
  top.value = 0
  if (box.value) box.value.scrollTop = 0
})
const scroll = (event: Event) => (top.value = (event.target as HTMLElement).scrollTop)

/** How far along the values of all runs one lies, for the line under it. */
function share(run: TrialRun, key: string): number | null {
  const [low, high] = ranges.value[key] ?? []
  const value = run.figures[key]
  if (value === null || value === undefined || low === undefined || high === undefined || high <= low) return null
  return (value - low) / (high - low)
}
/** The row that the keyboard is on. */
const atRow = ref(-1)
async function keys(event: KeyboardEvent) {
  const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[event.key]
  if (by === undefined) return
  event.preventDefault()
  atRow.value = Math.max(0, Math.min(chosen.value - 1, atRow.value + by))
  const { value: el } = box
  if (el) {
    const y = atRow.value * ROW
    if (y < el.scrollTop) el.scrollTop = y
    if (y + 3 * ROW > el.scrollTop + el.clientHeight) el.scrollTop = y + 3 * ROW - el.clientHeight
  }
  await nextTick()
  const run = row(atRow.value)
  if (run) selected.value = run.number
  else isAwaited.value = true
}
/** A row that the keyboard is on is selected when it has come. */
const isAwaited = ref(false)
watch(pages, () => {
  const run = isAwaited.value ? row(Math.max(0, atRow.value)) : null
  if (!run) return
  isAwaited.value = false
  selected.value = run.number
})
function select(run: TrialRun, at: number) {
  atRow.value = at
  selected.value = run.number
}

const filtered = ref('')
const ends = ref<{ low: number | null; high: number | null }>({ low: null, high: null })
const filterColumns = computed(() => [
  ...loose.value.filter((one) => !one.is_words).map((one) => ({ key: one.key, title: shortTitle(one), by: 1 })),
  ...columns.value.map((one) => ({ key: one.key, title: one.title, by: one.is_percentage ? 100 : 1 })),
])
function addFilter() {
  const column = filterColumns.value.find((one) => one.key === filtered.value)
  if (!column) return
  const end = (value: number | null) => (value === null ? '' : String(value / column.by))
  const rest = where.value.filter((one) => !one.startsWith(`${column.key}:`))
  const { low, high } = ends.value
  const next = low === null && high === null ? rest : [...rest, `${column.key}:${end(low)}:${end(high)}`]
  go({ where: next.join('~') || undefined })
}
const filterWords = (text_: string) => {
  const [key, low, high] = text_.split(':')
  const column = filterColumns.value.find((one) => one.key === key)
  const value = (end: string | undefined) => number(Number(end) * (column?.by ?? 1), 2).replace(/[.,]00$/, '')
  const title = column?.title ?? key
  return low && high
    ? `${title} ${value(low)} to ${value(high)}`
    : low
      ? `${title} from ${value(low)}`
      : `${title} to ${value(high)}`
}
const drop = (one: string) => go({ where: where.value.filter((each) => each !== one).join('~') || undefined })

async function copy() {
  const lines = [
    [
      'run',
      ...loose.value.map((one) => one.title),
      ...columns.value.map((one) => `${one.title}${one.unit ? ` [${one.unit}]` : ''}`),
      'error',
    ].join('\t'),
  ]
  try {
    for (let from = 0; from < Math.min(chosen.value, MOST_COPIED); from += 500) {
      const page = await api.trialRuns(props.set.id, { ...steady.value, first: from, count: 500 })
      for (const run of page.rows)
        lines.push(
          [
            run.number,
            ...loose.value.map((one) => run.values[one.key]),
            ...columns.value.map((one) => run.figures[one.key] ?? ''),
            run.error,
          ].join('\t'),
        )
    }
    await navigator.clipboard.writeText(lines.join('\n'))
    say(`Copied ${number(lines.length - 1)} runs. Paste them into a spreadsheet.`)
  } catch (error) {
    warn((error as Error).message)
  }
}
</script>
<template>
  <div class="runs">
    <div class="tools">
      <label
        ><input type="checkbox" :checked="kept" @change="go({ kept: kept ? '0' : '1' })" /> only those that keep every
        limit</label
      >
      <span class="filter"
        >where
        <select v-model="filtered" class="blank" aria-label="Column of the filter">
          <option value="">a column…</option>
          <option v-for="one in filterColumns" :key="one.key" :value="one.key">{{ one.title }}</option>
        </select>
        <template v-if="filtered"
          >from
          <NumberField
            class="blank short"
            :value="ends.low"
            aria-label="Filter from"
            @change="((ends = { ...ends, low: $event }), addFilter())" />
          to
          <NumberField
            class="blank short"
            :value="ends.high"
            aria-label="Filter to"
            @change="((ends = { ...ends, high: $event }), addFilter())"
        /></template>
      </span>
      <button
        v-for="one in where"
        :key="one"
        type="button"
        class="chip"
        :aria-label="`Drop the filter ${filterWords(one)}`"
        @click="drop(one)"
      >
        {{ filterWords(one) }} ×
      </button>
      <details class="columns">
        <summary class="link">Columns</summary>
        <div>
          <label v-for="one in columns" :key="one.key"
            ><input
              type="checkbox"
              :checked="shown.some((each) => each.key === one.key)"
              @change="toggleColumn(one.key)"
            />
            {{ one.title }}</label
          >
        </div>
      </details>
      <button type="button" class="link" @click="copy">Copy as cells</button>
      <span class="soft">{{ number(chosen) }} of {{ number(set.done) }}</span>
    </div>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div
      ref="box"
      class="box"
      tabindex="0"
      role="group"
      aria-label="Runs; arrow keys select one"
      @scroll.passive="scroll"
      @keydown="keys"
    >
      <table class="ledger" aria-label="Runs" :aria-rowcount="chosen">
        <thead>
          <tr>
            <th class="num" scope="col" :aria-sort="sort === 'run' ? (down ? 'descending' : 'ascending') : 'none'">
              <button type="button" @click="sortBy('run')">Run{{ sort === 'run' ? (down ? ' ↓' : ' ↑') : '' }}</button>
            </th>
            <th
              v-for="one in loose"
              :key="one.key"
              scope="col"
              :class="{ num: !one.is_words }"
              :aria-sort="sort === one.key ? (down ? 'descending' : 'ascending') : 'none'"
              :title="one.title"
            >
              <button type="button" @click="sortBy(one.key)">
                {{ shortTitle(one) }}<small v-if="one.unit" class="soft"> [{{ shownUnit(one.unit) }}]</small
                >{{ sort === one.key ? (down ? ' ↓' : ' ↑') : '' }}
              </button>
            </th>
            <th
              v-for="one in shown"
              :key="one.key"
              scope="col"
              class="num"
              :aria-sort="sort === one.key ? (down ? 'descending' : 'ascending') : 'none'"
            >
              <button type="button" @click="sortBy(one.key)">
                {{ one.title }}<small v-if="unitOf(one)" class="soft"> [{{ unitOf(one) }}]</small
                >{{ sort === one.key ? (down ? ' ↓' : ' ↑') : '' }}
              </button>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="first > 0" aria-hidden="true" :style="{ height: `${first * ROW}px` }"></tr>
          <tr
            v-for="{ at, run } in rows"
            :key="at"
            :aria-rowindex="at + 1"
            :aria-selected="run?.number === selected"
            :class="{
              over: run && run.number === hovered,
              selected: run && run.number === selected,
              broken: run && run.broken.length,
              failed: run?.state === 'failed',
            }"
            :style="{ height: `${ROW}px` }"
            @pointerenter="run && (hovered = run.number)"
            @pointerleave="hovered = null"
            @click="run && select(run, at)"
          >
            <template v-if="run">
              <td class="num soft">{{ run.broken.length ? '△ ' : '' }}{{ run.number }}</td>
              <td v-for="one in loose" :key="one.key" :class="{ num: !one.is_words }">
                {{ text(run.values[one.key], one) }}
              </td>
              <td v-if="run.state === 'failed'" :colspan="shown.length" class="bad why" :title="run.error">
                {{ run.error }}
              </td>
              <template v-else>
                <td v-for="one in shown" :key="one.key" class="num figure">
                  {{ figureValue(run.figures[one.key], one)
                  }}<i
                    v-if="share(run, one.key) !== null"
                    :class="one.better"
                    :style="{ width: `${(share(run, one.key)! * 100).toFixed(1)}%` }"
                  ></i>
                </td>
              </template>
            </template>
          </tr>
          <tr v-if="last < chosen" aria-hidden="true" :style="{ height: `${(chosen - last) * ROW}px` }"></tr>
        </tbody>
      </table>
    </div>
  </div>
</template>
<style scoped>
.runs {
  display: grid;
  gap: 6px;
}
.tools label {
  display: inline-flex;
  gap: 4px;
  align-items: center;
}
.filter :deep(.short) {
  width: 58px;
}
.chip {
  border: 1px solid var(--rule-strong);
  border-radius: 10px;
  padding: 1px 8px;
}
.columns {
  position: relative;
}
.columns summary {
  list-style: none;
}
.columns > div {
  position: absolute;
  z-index: 30;
  right: 0;
  top: 22px;
  display: grid;
  gap: 3px;
  max-height: 300px;
  overflow-y: auto;
  padding: 9px 14px;
  background: var(--sheet);
  border: 1px solid var(--rule-strong);
  border-radius: 7px;
  box-shadow: var(--shadow);
  white-space: nowrap;
}
.box {
  max-height: max(260px, calc(100vh - 470px));
  overflow: auto;
  border-bottom: 1px solid var(--rule);
}
thead th {
  position: sticky;
  top: 0;
  background: var(--sheet);
  z-index: 2;
}
th button {
  font-weight: 600;
}
.ledger th,
.ledger td {
  padding: 0 12px 0 0;
  white-space: nowrap;
}
.ledger td {
  height: 27px;
  line-height: 25px;
  border-bottom: 1px solid var(--rule);
}
tbody tr {
  cursor: pointer;
}
tr.over td {
  background: var(--wash);
}
tr.selected td {
  background: var(--wash);
  font-weight: 600;
}
tr.broken td {
  color: var(--soft);
}
.why {
  max-width: 420px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.figure {
  position: relative;
}
.num.figure {
  padding-right: 14px;
}
.figure i {
  position: absolute;
  left: 0;
  bottom: 1px;
  height: 2px;
  max-width: calc(100% - 12px);
  background: var(--haze);
}
.figure i.more {
  background: var(--yield);
}
.figure i.less {
  background: var(--loss);
}
</style>
