<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, type PreviewAnswer } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { freshId } from '@/stores/schemeLists'
import { useNotice } from '@/notice/useNotice'
import { energyChange } from '@/theme/format'

/** Optimisers at the modules, or a microinverter for each: tried beside the string inverter, and used with a click. */
const props = defineProps<{ subarray: string }>()
const store = useSchemeStore()
const library = useLibrary()
const { say } = useNotice()
const strings = computed(() => store.subarrays.find((s) => s.id === props.subarray))
const set = computed(() => store.sets.find((s) => s.id === strings.value?.inverter))
const modulePower = computed(() => store.circuits.subarrays[props.subarray]?.module_power ?? 0)
const chosen = computed(() => (store.at(`/subarrays/${props.subarray}/optimiser`) as string | undefined) ?? '')
const choose = (id: string) => store.edit({ subarrays: { [props.subarray]: { optimiser: id || null } } })
/** Those whose power comes nearest to the module's. */
const nearest = <T extends { id: string }>(parts: T[], power: (part: T) => number, count: number, least: number) =>
  parts
    .filter((part) => power(part) >= modulePower.value * least)
    .toSorted((a, b) => power(a) - power(b))
    .slice(0, count)

interface Option {
  key: string
  title: string
  patch: JsonObject
  answer: PreviewAnswer | null
  fault: string
}
const options = ref<Option[] | null>(null)
watch(
  () => [props.subarray, store.saved?.revision],
  () => (options.value = null),
)

/** A microinverter for each module, or for as many as it has inputs; what is over gets one of its own. */
function micro(model: string, inputs: number): JsonObject {
  const s = strings.value!
  const modules = s.modules_per_string * s.strings * (set.value?.count ?? 1)
  const sets: [string, number, number][] = []
  const taken = store.sets.map((one) => one.id)
  const groups: [number, number][] = [
    [Math.floor(modules / inputs), inputs],
    [modules % inputs ? 1 : 0, modules % inputs],
  ]
  for (const [count, used] of groups)
    if (count) sets.push([freshId('micro', [...taken, ...sets.map((one) => one[0])]), count, used])
  const fresh: [string, JsonObject][] = []
  for (const [id, , used] of sets)
    for (let tracker = 1; tracker <= used; tracker++) {
      const key = freshId('micro', [...store.subarrays.map((one) => one.id), ...fresh.map((one) => one[0])])
      fresh.push([
        key,
        { surface: s.surface, module: s.module, modules_per_string: 1, strings: 1, inverter: id, tracker },
      ])
    }
  const isAlone = (set.value?.strings.length ?? 0) === 1
  return {
    inverters: {
      ...Object.fromEntries(sets.map(([id, count]) => [id, { model, count }])),
      ...(isAlone ? { [set.value!.id]: null } : {}),
    },
    subarrays: { [props.subarray]: null, ...Object.fromEntries(fresh) },
  }
}
async function compare() {
  const found: Option[] = [
    ...nearest(library.parts.optimisers, (o) => o.power, 1, 0.9).map((o) => ({
      key: o.id,
      title: `Optimisers ${o.maker} ${o.name}`,
      patch: { subarrays: { [props.subarray]: { optimiser: o.id } } } as JsonObject,
      answer: null,
      fault: '',
    })),
    ...nearest(
      library.parts.inverters.filter((i) => i.kind === 'micro'),
      (i) => i.maximum_dc_power / i.trackers,
      2,
      1,
    ).map((i) => ({
      key: i.id,
      title: `Microinverters ${i.maker} ${i.name}`,
      patch: micro(i.id, i.trackers),
      answer: null,
      fault: '',
    })),
  ]
  options.value = found
  await Promise.all(
    found.map(async (option, n) => {
      try {
        option.answer = await api.preview(store.saved!.id, { patch: option.patch, rule: '', pointer: '' })
      } catch (error) {
        option.fault = (error as Error).message
      }
      if (options.value === found || options.value?.[n]?.key === option.key) options.value = [...found]
    }),
  )
}
function use(option: Option) {
  store.edit(option.patch)
  say(`${option.title} on ${strings.value?.name}.`, { label: 'Undo', run: () => void store.undo() })
}
</script>
<template>
  <section v-if="strings" class="electronics">
    <h3>
      Module-level electronics <small class="soft">of {{ strings?.name }}</small>
    </h3>
    <p class="words">
      At each module
      <select
        class="blank"
        :value="chosen"
        aria-label="Optimiser at each module"
        @change="choose(($event.target as HTMLSelectElement).value)"
      >
        <option value="">no optimiser</option>
        <option v-for="o in library.parts.optimisers" :key="o.id" :value="o.id">
          {{ o.maker }} {{ o.name }}
        </option></select
      >.
      <button v-if="!chosen" type="button" class="button" @click="compare">
        Compare with module-level electronics
      </button>
    </p>
    <ul v-if="options" aria-label="Module-level electronics compared">
      <li v-for="option in options" :key="option.key">
        <b>{{ option.title }}</b>
        <span v-if="option.answer">
          {{ energyChange(option.answer.energy - option.answer.energy_before, option.answer.energy_before) }} a
          year<template v-if="option.answer.found.length">; then open: {{ option.answer.found.join('; ') }}</template
          ><template v-if="option.answer.solved.length">; solved: {{ option.answer.solved.join('; ') }}</template>
        </span>
        <span v-else-if="option.fault" class="bad">{{ option.fault }}</span>
        <span v-else class="soft">Trying it…</span>
        <button type="button" class="link" :disabled="!option.answer" @click="use(option)">Use</button>
      </li>
    </ul>
  </section>
</template>
<style scoped>
.electronics {
  border-top: 1px solid var(--rule);
  padding-top: 8px;
  margin-top: 12px;
}
.words {
  font: 14px/1.7 var(--serif);
}
.words .button {
  font-family: var(--sans);
  margin-left: 10px;
}
ul {
  margin: 4px 0 0;
  padding: 0;
  list-style: none;
  font-size: 12.5px;
}
li {
  display: flex;
  gap: 12px;
  padding: 3px 0;
  border-bottom: 1px solid var(--rule);
  align-items: baseline;
}
li .link {
  margin-left: auto;
}
</style>
