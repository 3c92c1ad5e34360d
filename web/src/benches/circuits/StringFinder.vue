<script setup lang="ts">
import { computed, reactive, watch } from 'vue'
import { api, type FoundStrings, type ProposalLine } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useJob } from '@/stores/useJob'
import { useQuestions } from '@/brief/useQuestions'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { useNotice } from '@/notice/useNotice'
import BlankNumber from '@/brief/BlankNumber.vue'
import CopyTable from '@/tables/CopyTable.vue'
import type { JsonObject } from '@/api/mergePatch'
import { number, quantity } from '@/theme/format'
import { useDemand } from '@/stores/useDemand'
import { sharesText } from './arrangementWords'
import FoundWays from './FoundWays.vue'

/** Every way to connect the modules of a surface, each with its year; a click writes one to the Brief. */
const props = defineProps<{ surface: string; module: string }>()
const emit = defineEmits<{ close: [] }>()
const store = useSchemeStore()
const library = useLibrary()
const { say } = useNotice()
/** Those that lie on its plan, or that its strings have. */
const modulesOn = (surface: string) => {
  const one = store.surfaces.find((s) => s.id === surface)
  return one?.laid || one?.modules || 0
}
const wish = reactive({
  surface: props.surface,
  module: props.module,
  need: 'modules' as 'modules' | 'power' | 'area' | 'energy' | 'demand',
  number: modulesOn(props.surface) || 20,
  amount: 0,
  inverter: '',
  leave_over: 0,
  lowest_ratio: 1,
  highest_ratio: 1.4,
  phases: 0,
  mix: false,
})
watch(
  () => wish.surface,
  (surface) => {
    wish.number = modulesOn(surface) || wish.number
    wish.module = store.subarrays.find((s) => s.surface === surface)?.module ?? wish.module
  },
)
const area = computed(() => store.surfaces.find((s) => s.id === wish.surface)?.area ?? null)
/** The amount that a need begins with: what the present number of modules has. */
function need(kind: typeof wish.need) {
  const one = part.value
  const energy = store.evaluation?.headline?.energy ?? 10_000
  wish.amount = {
    modules: 0,
    power: Math.round(((one?.power ?? 430) * wish.number) / 100) / 10,
    area: Math.round(area.value ?? (one ? one.length * one.width : 2) * wish.number),
    energy: Math.round(energy / 100) * 100,
    demand: 100,
  }[kind]
  wish.need = kind
}
const UNITS = { modules: '', power: 'kW', area: 'm²', energy: 'kWh a year', demand: '% of the demand' } as const
const part = computed(() => library.modules.get(wish.module))
const used = useDemand()
const key = computed(() => (store.saved ? `${store.saved.id} ${store.saved.revision} ${JSON.stringify(wish)}` : null))
const asked = (first: boolean) => ({ ...wish, phases: (wish.phases || null) as 1 | 3 | null, first })
const { job, run, cancel } = useJob()
const { range } = useQuestions('find-strings')
/** The first rows stand while the rest is looked for. */
const { answer: firstRows } = useAnswer(key, (signal) => api.findStrings(store.saved!.id, asked(true), signal))
const {
  answer: allRows,
  fault,
  isAsking,
} = useAnswer(
  () => (firstRows.value ? key.value : null),
  (signal) => run(store.saved!.id, 'find-strings', asked(false), signal),
)
/** As many as the plan, the face or the area of the surface has room for. */
const room = computed(() => (allRows.value ?? firstRows.value)?.room ?? null)
const answer = computed(() => {
  const all = allRows.value
  return all && !isAsking.value ? all : firstRows.value?.proposals.length ? firstRows.value : all
})
const nameOf = (id: string) => {
  const inverter = library.inverters.get(id)
  return inverter ? `${inverter.maker} ${inverter.name}` : id
}
const nearest = computed(() => {
  const found = answer.value?.rejected.flatMap((line) => line.nearest) ?? []
  return [...new Set(found)]
    .toSorted((a, b) => Math.abs(a - (answer.value?.number ?? 0)) - Math.abs(b - (answer.value?.number ?? 0)))
    .slice(0, 6)
})
function take(n: number) {
  wish.need = 'modules'
  wish.number = n
}
function use(line: ProposalLine) {
  store.edit(line.patch as JsonObject)
  emit('close')
  say(`${nameOf(line.inverter)}: ${sharesText(line).join('; ')} is now in the Brief.`, {
    label: 'Undo',
    run: () => void store.undo(),
  })
}
const celsius = (found: FoundStrings) =>
  `Voc at ${quantity(found.lowest, '°C')} air, Vmp at ${quantity(found.highest_cell, '°C')} cell temperature`
</script>
<template>
  <div class="finder" role="dialog" aria-label="Find strings">
    <header role="none">
      <h3>Find strings</h3>
      <span v-if="isAsking" class="soft" role="status"
        >{{ answer?.is_partial ? 'Looking for more…' : 'Looking…' }} {{ job?.message
        }}<button v-if="job" type="button" class="link" @click="cancel">Cancel</button></span
      >
      <CopyTable v-if="answer?.proposals.length" within=".finder" />
      <button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <p class="wish serif">
      Spread
      <BlankNumber
        v-if="wish.need === 'modules'"
        :value="wish.number"
        label="Number of modules"
        :range="range('number')"
        :step="1"
        @change="wish.number = $event"
      />
      <BlankNumber
        v-else
        :value="wish.amount"
        :label="`Amount in ${UNITS[wish.need]}`"
        :range="range('amount')"
        :step="wish.need === 'energy' ? 100 : 1"
        @change="wish.amount = $event"
      />
      <select
        class="blank"
        :value="wish.need"
        aria-label="What is needed"
        @change="need(($event.target as HTMLSelectElement).value as typeof wish.need)"
      >
        <option value="modules">modules</option>
        <option value="power">kW of</option>
        <option value="area">m² of</option>
        <option value="energy">kWh a year from</option>
        <option v-if="used !== null || wish.need === 'demand'" value="demand">% of the demand from</option>
      </select>
      <template v-if="wish.need === 'modules' && room && room !== wish.number">
        <button type="button" class="link" @click="wish.number = room">(room for {{ number(room) }})</button>
      </template>
      <select v-model="wish.module" class="blank" aria-label="Module">
        <option v-for="m in library.parts.modules" :key="m.id" :value="m.id">{{ m.maker }} {{ m.name }}</option>
      </select>
      on
      <select v-model="wish.surface" class="blank" aria-label="Surface">
        <option v-for="s in store.surfaces" :key="s.id" :value="s.id">{{ s.name }}</option>
      </select>
      over
      <select v-model="wish.inverter" class="blank" aria-label="Inverter">
        <option value="">any inverter</option>
        <option v-for="i in library.parts.inverters" :key="i.id" :value="i.id">{{ i.maker }} {{ i.name }}</option>
      </select>
      <button
        v-if="!wish.inverter"
        type="button"
        class="link"
        :aria-pressed="wish.mix"
        title="The larger ones full, the rest on a smaller one"
        @click="wish.mix = !wish.mix"
      >
        two models too
      </button>
      of
      <select v-model.number="wish.phases" class="blank" aria-label="Phases">
        <option :value="0">any phases</option>
        <option :value="1">one phase</option>
        <option :value="3">three phases</option></select
      >, DC/AC ratio
      <BlankNumber
        :value="wish.lowest_ratio"
        label="Lowest DC/AC ratio"
        :range="range('lowest_ratio', { max: wish.highest_ratio })"
        :step="0.05"
        @change="wish.lowest_ratio = $event"
      />
      to
      <BlankNumber
        :value="wish.highest_ratio"
        label="Highest DC/AC ratio"
        :range="range('highest_ratio', { min: wish.lowest_ratio })"
        :step="0.05"
        @change="wish.highest_ratio = $event"
      />, leaving at most
      <BlankNumber
        :value="wish.leave_over"
        label="Modules left over"
        :range="range('leave_over')"
        :step="1"
        @change="wish.leave_over = $event"
      />
      over.
    </p>
    <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
    <template v-if="answer">
      <FoundWays
        v-if="answer.proposals.length"
        :proposals="answer.proposals"
        :name-of="nameOf"
        :unit="wish.need === 'modules' ? null : UNITS[wish.need === 'demand' ? 'energy' : wish.need]"
        :is-whole="wish.need === 'energy' || wish.need === 'demand'"
        :leaves-over="wish.leave_over > 0"
        @use="use"
      />
      <p v-else class="care">
        △ {{ number(answer.number) }} modules do not meet these limits.
        <template v-if="nearest.length">
          Nearest that go:
          <button v-for="n in nearest" :key="n" type="button" class="link near" @click="take(n)">
            {{ number(n) }}
          </button>
        </template>
      </p>
      <p class="soft small">
        <template v-if="wish.need !== 'modules'"
          ><b>{{ number(answer.number) }} modules</b> for {{ number(wish.amount) }} {{ UNITS[wish.need]
          }}{{ wish.need === 'demand' ? `, ${number(answer.amount)} kWh a year` : '' }}, with the losses, soiling, shade
          and ageing of the scheme. </template
        >{{ celsius(answer) }}. Price: modules and inverters, list price in {{ store.at('/money/currency') ?? 'EUR' }}.
        The energy is that of this surface alone, with all losses of the scheme.
        <template v-if="answer.more"
          >The {{ answer.proposals.length }} most even ways of
          {{ number(answer.proposals.length + answer.more) }}.</template
        >
        Using one replaces the strings of the surface.
        <template v-if="answer.battery">A battery for the first? {{ answer.battery }}</template>
      </p>
      <details v-if="answer.rejected.length" :open="!answer.proposals.length" class="small">
        <summary class="soft">
          {{ answer.rejected.length > 1 ? `${answer.rejected.length} inverters do` : 'One inverter does' }} not meet the
          limits, and why
        </summary>
        <ul>
          <li v-for="line in answer.rejected" :key="line.inverter">
            <b>{{ nameOf(line.inverter) }}:</b> {{ line.reasons.join(' ') }}
          </li>
        </ul>
      </details>
    </template>
  </div>
</template>
<style scoped>
header .soft .link {
  margin-left: 8px;
}
.finder {
  background: var(--sheet);
  padding: 16px 22px;
  border-radius: 12px;
  display: grid;
  gap: 10px;
  font-size: 12.5px;
}
header {
  display: flex;
  gap: 16px;
  align-items: baseline;
}
h3 {
  margin-right: auto;
}
.wish {
  font-size: 16px;
  line-height: 1.75;
}
.wish .link {
  font-size: 12.5px;
}
.wish :deep(input.blank) {
  field-sizing: content;
  min-width: 1.2em;
  width: auto;
}
.near {
  margin-left: 8px;
}
.small {
  font-size: 12px;
}
summary {
  cursor: pointer;
}
ul {
  margin: 4px 0;
  padding-left: 18px;
  display: grid;
  gap: 3px;
  max-height: 24vh;
  overflow-y: auto;
}
</style>
