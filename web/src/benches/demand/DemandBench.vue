<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type DemandKinds } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { energyText, MONTHS, number, percent, plain } from '@/theme/format'
import { useMoment } from '@/tideline/useMoment'
import { useDropped } from '@/stores/droppedFile'
import { useNotice } from '@/notice/useNotice'
import AddSource from './AddSource.vue'
import DayHill from './DayHill.vue'
import DemandMonths from './DemandMonths.vue'
import DurationCurve from './DurationCurve.vue'
import SourceSheet from './SourceSheet.vue'
import SourceVoice from './SourceVoice.vue'
import UseSheet from './UseSheet.vue'
import { toneOf } from './sourceTones'

/** Who uses the energy, and when: the sources as voices of a day, their sum as a hill with the sun drawn through it. */
const LEFT = 190
const store = useSchemeStore()
const working = useWorking()
const moment = useMoment()
const [route, router] = [useRoute(), useRouter()]
const kinds = shallowRef<DemandKinds | null>(null)
const by = ref<'kind' | 'weekday'>('kind')
const wanted = ref(0)
const isAdding = ref(false)
/** Of the bench without its margins; it is there before the answer is. */
const width = useDrawnWidth(useTemplateRef('bench'), 700, 280)
onMounted(async () => {
  kinds.value = await api.demandKinds()
})
const { answer, fault } = useAnswer(
  () => (store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision} ${by.value}` : null),
  (signal) => api.demand(store.shown!.id, by.value, signal),
)
/** Average days of working days and days off, or of the weekdays; the group is that of the answer until the next one is there. */
function toGroup(event: Event) {
  const [kindOfDays, place] = (event.target as HTMLSelectElement).value.split(' ')
  by.value = kindOfDays as typeof by.value
  wanted.value = Number(place)
}
const kind = computed(() => Math.min(wanted.value, (answer.value?.groups.length ?? 1) - 1))
const sources = computed(
  () => (store.document.demand as { sources?: Record<string, object> } | undefined)?.sources ?? {},
)
const ids = computed(() => Object.keys(sources.value))
/** The month of the moment that the Tideline stands at. */
const month = computed(() => {
  const day = Math.floor(moment.interval.value / moment.perDay.value)
  return new Date(Date.UTC(moment.year.value, 0, 1 + day)).getUTCMonth()
})
function toMonth(event: Event) {
  const to = Number((event.target as HTMLSelectElement).value)
  const day = Math.round((Date.UTC(moment.year.value, to, 15) - Date.UTC(moment.year.value, 0, 1)) / 86_400_000)
  moment.pick(day * moment.perDay.value + (moment.interval.value % moment.perDay.value))
}
const picked = computed(() => {
  const asked = String(route.query.thing ?? '')
  return ids.value.includes(asked) ? asked : ''
})
const pick = (key: string) =>
  void router.replace({ query: { ...route.query, thing: key && key !== picked.value ? key : undefined } })
const isOn = (key: string) => (sources.value[key] as { is_on?: boolean } | undefined)?.is_on !== false
const voices = computed(() =>
  ids.value.map((id) => {
    const line = answer.value?.sources.find((s) => s.key === id)
    return {
      id,
      title: line?.title ?? String((sources.value[id] as { name?: string }).name ?? id),
      note: line ? `${energyText(line.energy)}, up to ${plain(line.peak)} kW` : 'not in use',
      values: line?.days[month.value]?.[kind.value] ?? [],
      isDeferrable: line?.is_deferrable ?? false,
    }
  }),
)
const top = computed(() => Math.max(...voices.value.flatMap((v) => v.values), 1e-6))
async function add(source: object) {
  const before = new Set(ids.value)
  isAdding.value = false
  await store.act('add-source', { source })
  const fresh = ids.value.find((id) => !before.has(id))
  if (fresh) pick(fresh)
}
watch(picked, (key) => {
  if (key) isAdding.value = false
})
/** A file of a meter on its way to be a source, and the field that asks for one. */
const meter = shallowRef<File | null>(null)
const field = ref<HTMLInputElement>()
const { warn } = useNotice()
function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  meter.value = input.files?.[0] ?? null
  input.value = ''
}
useDropped('use', ({ file }) => {
  meter.value = file
})
useDropped('demand', async ({ file }) => {
  try {
    const given = JSON.parse(await file.text()) as { sources?: Record<string, object> }
    for (const source of Object.values(given.sources ?? {})) await store.act('add-source', { source })
  } catch (error) {
    warn(`${file.name}: ${(error as Error).message}`)
  }
})
async function takeMeter(source: object) {
  meter.value = null
  await add(source)
}
const peakWords = computed(() => (answer.value ? moment.words(answer.value.peak_at) : ''))
const yearHours = computed(() => moment.days.value * 24)
</script>
<template>
  <div ref="bench" class="bench">
    <header>
      <h2>Demand</h2>
      <div v-if="ids.length" class="tools">
        <label
          >average
          <select class="blank" :value="`${by} ${wanted}`" aria-label="Average day" @change="toGroup">
            <template v-for="(names, key) in kinds?.groups ?? {}" :key="key">
              <option v-for="(name, i) in names" :key="name" :value="`${key} ${i}`">{{ name }}</option>
            </template>
          </select></label
        >
        <label
          >month
          <select class="blank" :value="month" aria-label="Month of the sun" @change="toMonth">
            <option v-for="(name, i) in MONTHS" :key="name" :value="i">{{ name }}</option>
          </select></label
        >
        <button type="button" class="link" :aria-expanded="isAdding" @click="isAdding = !isAdding">Add a source</button>
      </div>
    </header>
    <template v-if="kinds && !meter && (isAdding || !ids.length)">
      <AddSource :kinds="kinds" :is-empty="!ids.length" @add="add" @file="field?.click()" />
    </template>
    <input
      ref="field"
      class="sr"
      type="file"
      tabindex="-1"
      aria-label="File of interval data"
      accept=".csv,.txt,.tsv,.xlsx,.parquet,.json,.xml"
      @change="chosen"
    />
    <UseSheet v-if="meter" :file="meter" @close="meter = null" @take="takeMeter" />
    <p v-if="fault" class="bad">{{ fault }}</p>
    <template v-if="ids.length && answer">
      <p v-if="answer.problem" class="bad said">{{ answer.problem }}</p>
      <p v-else-if="answer.sources.length" class="said serif">
        The sun meets
        <button type="button" class="go" @click="working.show('self_sufficiency')">
          {{ percent(answer.self_sufficiency) }}
        </button>
        of
        <button type="button" class="go" @click="working.show('demand_energy')">{{ energyText(answer.energy) }}</button>
        {{ answer.has_battery ? 'with the battery' : 'as it arises' }}, in {{ percent(answer.hours_met, 0) }} of the
        hours all of it; at most {{ plain(answer.peak) }} kW,
        <button type="button" class="go" @click="moment.pick(answer.peak_at)">{{ peakWords }}</button>, and
        {{ plain(answer.base) }} kW at all times.
      </p>
      <DayHill
        v-if="answer.sources.length"
        :demand="answer"
        :month="month"
        :kind="kind"
        :picked="picked"
        :left="LEFT"
        @pick="pick"
      />
      <div class="voices">
        <template v-for="voice in voices" :key="voice.id">
          <SourceVoice
            :title="voice.title"
            :note="voice.note"
            :values="voice.values"
            :top="top"
            :tone="toneOf(voice.id, ids)"
            :is-on="isOn(voice.id)"
            :is-picked="picked === voice.id"
            :is-deferrable="voice.isDeferrable"
            :left="LEFT"
            :width="width"
            @pick="pick(voice.id)"
          />
          <SourceSheet
            v-if="picked === voice.id && kinds"
            :source="voice.id"
            :demand="answer"
            :kinds="kinds"
            :tone="toneOf(voice.id, ids)"
            @gone="pick('')"
          />
        </template>
      </div>
      <div v-if="answer.sources.length" class="year">
        <DurationCurve :demand="answer.duration" :imported="answer.import_duration" :hours="yearHours" />
        <DemandMonths :demand="answer" />
      </div>
      <p class="soft foot">
        {{ energyText(answer.direct_energy) }} used as it is produced, {{ energyText(answer.exported) }} to the grid,
        {{ energyText(answer.imported) }} from it<template v-if="answer.own_use > 0.5"
          >; the plant itself draws {{ number(answer.own_use) }} kWh at night</template
        >. A dashed voice waits for the sun or for cheap hours.
      </p>
    </template>
    <p v-else-if="ids.length && !store.evaluation?.headline" class="soft empty">
      The demand is drawn once the scheme has weather and modules.
    </p>
  </div>
</template>
<style scoped>
.said {
  font-size: 14.5px;
  line-height: 1.5;
  margin: 2px 0 6px;
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.go:hover {
  border-bottom-style: solid;
}
.voices {
  display: grid;
  margin-top: 4px;
}
.year {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 24px;
  margin-top: 16px;
}
.foot {
  font-size: 12px;
  margin-top: 10px;
}
.tools label {
  color: var(--soft);
}
.tools label select {
  color: var(--ink);
}
</style>
