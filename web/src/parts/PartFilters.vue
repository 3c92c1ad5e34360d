<script setup lang="ts">
import { computed, ref } from 'vue'
import type { InverterLine, ModuleLine } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { vFocus } from '@/keyboard/vFocus'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { NO_FILTER, type PartFilter } from './partFilter'
import { FAVOURITES, usePreferences } from './usePreferences'

/** A sentence that narrows the library, and the sets of preferred parts. */
const props = defineProps<{ kind: 'module' | 'inverter'; parts: (ModuleLine | InverterLine)[] }>()
const filter = defineModel<PartFilter>('filter', { required: true })
const set = defineModel<string>('set', { required: true })
const preferences = usePreferences()
const store = useSchemeStore()
const { say } = useNotice()
const naming = ref(false)
const name = ref('')
const makers = computed(() => [...new Set(props.parts.map((part) => part.maker))].toSorted())
const kinds = computed(() =>
  [...new Set(props.parts.map((part) => ('power' in part ? part.technology! : (part.kind ?? 'string'))))].toSorted(),
)
const isNarrowed = computed(() => Object.values(filter.value).some((value) => value !== '' && value !== null))
const amount = (key: 'from' | 'to' | 'voltage' | 'trackers', event: Event) => {
  const raw = (event.target as HTMLInputElement).value.trim()
  const value = Number(raw.replace(',', '.'))
  filter.value = { ...filter.value, [key]: raw === '' || Number.isNaN(value) ? null : value }
}
const word = (key: 'maker' | 'kind' | 'phases', event: Event) => {
  filter.value = { ...filter.value, [key]: (event.target as HTMLSelectElement).value }
}
async function begin() {
  const wanted = name.value.trim()
  naming.value = false
  if (!wanted) return
  await preferences.keep({ ...preferences.of(wanted) })
  set.value = wanted
  name.value = ''
}
async function drop() {
  const gone = preferences.of(set.value)
  set.value = ''
  await preferences.remove(gone.name)
  say(`${gone.name} deleted; its parts stay in the library.`, { label: 'Undo', run: () => void preferences.keep(gone) })
}
/** The rules of the open scheme go with the set, and come back from it. */
const rules = computed(() => (set.value ? preferences.of(set.value).rules : null))
const ownRules = computed(() => store.at('/wiring/own_rules') as JsonObject | undefined)
const keepRules = () => preferences.keep({ ...preferences.of(set.value), rules: ownRules.value as never })
/** Setbacks of one's own that the scheme uses go with the set too; they are chosen from there on the Scene bench. */
const setbacks = computed(() => {
  const surfaces = Object.values(
    (store.document.surfaces ?? {}) as Record<string, { layout?: { own_set?: { title: string } } }>,
  )
  const has = new Set(((set.value && preferences.of(set.value).setbacks) || []).map((one) => one.title))
  const found = new Map(
    surfaces.flatMap((s) => (s.layout?.own_set ? [[s.layout.own_set.title, s.layout.own_set]] : [])),
  )
  return [...found.values()].filter((one) => !has.has(one.title))
})
const keepSetbacks = () => {
  const kept = preferences.of(set.value)
  return preferences.keep({ ...kept, setbacks: [...(kept.setbacks ?? []), ...setbacks.value] as never })
}
const takeRules = () => {
  store.edit({ wiring: { own_rules: rules.value as unknown as JsonObject } })
  say(`The scheme uses the rules “${rules.value?.title ?? set.value}”.`, {
    label: 'Undo',
    run: () => void store.undo(),
  })
}
</script>
<template>
  <div class="filters">
    <p>
      <select
        class="blank"
        :value="set"
        aria-label="Set of parts"
        @change="set = ($event.target as HTMLSelectElement).value"
      >
        <option value="">All parts</option>
        <option v-for="n in preferences.names.value" :key="n" :value="n">{{ n }}</option>
      </select>
      by
      <select class="blank" :value="filter.maker" aria-label="Maker" @change="word('maker', $event)">
        <option value="">any maker</option>
        <option v-for="m in makers" :key="m" :value="m">{{ m }}</option>
      </select>
      of
      <input
        class="blank"
        inputmode="decimal"
        :value="filter.from ?? ''"
        placeholder="any"
        aria-label="Power from"
        @change="amount('from', $event)"
      />
      to
      <input
        class="blank"
        inputmode="decimal"
        :value="filter.to ?? ''"
        placeholder="any"
        aria-label="Power to"
        @change="amount('to', $event)"
      />
      {{ kind === 'module' ? 'W' : 'kW' }}, {{ kind === 'module' ? 'cells' : 'kind' }}
      <select class="blank" :value="filter.kind" aria-label="Kind" @change="word('kind', $event)">
        <option value="">any</option>
        <option v-for="k in kinds" :key="k" :value="k">{{ k }}</option></select
      >, at least
      <input
        class="blank"
        inputmode="decimal"
        :value="filter.voltage ?? ''"
        placeholder="any"
        aria-label="Voltage from"
        @change="amount('voltage', $event)"
      />
      V<template v-if="kind === 'inverter'"
        >,
        <select class="blank" :value="filter.phases" aria-label="Phases" @change="word('phases', $event)">
          <option value="">any phases</option>
          <option value="1">one phase</option>
          <option value="3">three phases</option></select
        >, trackers from
        <input
          class="blank"
          inputmode="numeric"
          :value="filter.trackers ?? ''"
          placeholder="1"
          aria-label="Trackers from"
          @change="amount('trackers', $event)"
      /></template>
      <button v-if="isNarrowed" type="button" class="link clear" @click="filter = { ...NO_FILTER }">Clear</button>
    </p>
    <div class="soft sets">
      <form v-if="naming" @submit.prevent="begin">
        <input
          v-model="name"
          v-focus
          class="field"
          maxlength="80"
          placeholder="Region or customer"
          aria-label="Name of the set"
          @keydown.esc.stop="naming = false"
        />
        <button type="submit" class="button">Begin</button>
      </form>
      <button v-else type="button" class="link" @click="naming = true">New set of preferred parts…</button>
      <template v-if="set">
        <button v-if="set !== FAVOURITES" type="button" class="link" @click="drop">Delete {{ set }}</button>
        <button v-if="ownRules" type="button" class="link" @click="keepRules">Keep the scheme's rules with it</button>
        <button v-if="setbacks.length" type="button" class="link" @click="keepSetbacks">
          Keep the scheme's setbacks with it
        </button>
        <button v-if="rules" type="button" class="link" @click="takeRules">Use its rules “{{ rules.title }}”</button>
      </template>
    </div>
  </div>
</template>
<style scoped>
.filters {
  font: 14px/1.6 var(--serif);
}
.filters .blank {
  min-width: 26px;
}
.clear,
.sets {
  font: 12px var(--sans);
}
.sets {
  display: flex;
  gap: 16px;
  align-items: center;
}
.sets form {
  display: flex;
  gap: 8px;
}
.sets .field,
.sets .button {
  font-size: 12px;
  padding: 2px 8px;
}
</style>
