<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useAskedAct } from '@/stores/useAskedAct'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { decimalsFor, number, percent } from '@/theme/format'
import InverterComb from './InverterComb.vue'
import ModuleElectronics from './ModuleElectronics.vue'
import { FEW, useCombFilter } from './useCombFilter'
import TrackerCurve from './TrackerCurve.vue'
import StringFinder from './StringFinder.vue'
import VoltageRows from './VoltageRows.vue'
import PartPicker from '@/parts/PartPicker.vue'

const store = useSchemeStore()
const library = useLibrary()
const route = useRoute()
const router = useRouter()
const picked = ref('')
const picking = ref(false)
const isFinding = ref(false)
useAskedAct({ 'find-strings': () => (isFinding.value = true) })
const subarray = computed(() => store.subarrays.find((s) => s.id === picked.value) ?? store.subarrays[0])
const { answer: volts, fault } = useAnswer(
  () =>
    store.shown && subarray.value && store.evaluation?.headline && store.at(`/subarrays/${subarray.value.id}`)
      ? `${store.shown.id}:${subarray.value.id} ${store.shown.revision}`
      : null,
  (signal) => api.voltages(store.shown!.id, subarray.value!.id, signal),
)
const comb = useCombFilter()
const total = computed(() => {
  const modules = store.sets.reduce(
    (sum, set) => sum + set.count * set.strings.reduce((n, s) => n + s.modules_per_string * s.strings, 0),
    0,
  )
  const strings = store.sets.reduce((sum, set) => sum + set.count * set.strings.reduce((n, s) => n + s.strings, 0), 0)
  const inverters = store.sets.reduce((sum, set) => sum + set.count, 0)
  return { modules, strings, inverters }
})
/** The surface that the address names, or that of the strings looked at, with the module on it. */
const asked = computed(() => {
  const named = store.surfaces.find((s) => s.id === route.query.surface)?.id
  const surface = named ?? subarray.value?.surface ?? store.surfaces[0]!.id
  const wired = store.subarrays.find((s) => s.surface === surface)?.module
  const laid = store.at(`/surfaces/${surface}/layout/module`) as string | undefined
  return { surface, module: wired ?? laid ?? subarray.value?.module ?? library.parts.modules[0]!.id }
})
const choose = (length: number) => {
  if (subarray.value) store.edit({ subarrays: { [subarray.value.id]: { modules_per_string: length } } })
}
/** A part that was found by name: `part=module:veltrane-430` in the address opens the library at it. */
const found = computed(() => {
  const [kind, id] = String(route.query.part ?? '').split(':')
  const part = kind === 'module' ? library.modules.get(id!) : kind === 'inverter' ? library.inverters.get(id!) : null
  return part ? { kind: kind as 'module' | 'inverter', name: `${part.maker} ${part.name}` } : null
})
const leaveFound = () => void router.replace({ query: { ...route.query, part: undefined } })
function takeFound(id: string) {
  const string = subarray.value
  if (string && found.value?.kind === 'module') store.edit({ subarrays: { [string.id]: { module: id } } })
  else if (string) store.edit({ inverters: { [string.inverter]: { model: id } } })
  leaveFound()
}
function addInverter(model: string) {
  picking.value = false
  void store.act('add-inverter', { model, module: library.parts.modules[0]?.id ?? null })
}
</script>
<template>
  <section>
    <p class="lead">
      <span v-if="subarray" class="soft head"
        >Voltages of <b>{{ subarray.name }}</b> on tracker {{ subarray.tracker }} by string length. Click a row to use
        its length.</span
      >
      <button
        v-if="store.surfaces.length && store.evaluation?.weather"
        type="button"
        class="button finds"
        @click="isFinding = true"
      >
        Find strings…
      </button>
      <a
        v-if="store.shown && store.evaluation?.headline"
        class="link sheet"
        :href="api.stringSheet(store.shown.id)"
        download
        >Sheet (PDF)</a
      >
    </p>
    <VoltageRows v-if="volts && subarray" :data="volts" :chosen="subarray.modules_per_string" @choose="choose" />
    <p v-else-if="fault" class="bad">{{ fault }}</p>
    <p v-else-if="store.sets.length" class="soft empty">The voltages appear once the scheme can be simulated.</p>
    <p v-if="volts && subarray" class="soft fuses">{{ volts.fuses }}</p>
    <p class="all">
      <b>Total:</b> {{ number(total.strings) }} string{{ total.strings === 1 ? '' : 's' }},
      {{ number(total.modules) }} modules<template v-if="store.evaluation?.headline"
        >, {{ number(store.evaluation.headline.dc_power, decimalsFor(store.evaluation.headline.dc_power, 2)) }} kW on
        {{ number(total.inverters) }} {{ store.sets.some((set) => set.model) ? 'inverter' : 'charge controller'
        }}{{ total.inverters === 1 ? ' of' : 's with' }}
        {{ number(store.evaluation.headline.ac_power, decimalsFor(store.evaluation.headline.ac_power, 1)) }} kW{{
          total.inverters === 1 ? '' : ' together'
        }}; clipping {{ percent(store.evaluation.headline.clipped_share) }} of the DC energy</template
      >.
    </p>
    <p v-if="store.sets.length > FEW" class="filter">
      <input
        v-model="comb.filter.value"
        class="field"
        type="search"
        placeholder="Filter by inverter, module, surface"
        aria-label="Filter the inverters"
      />
      <span class="soft">{{ comb.shown.value.length }} of {{ store.sets.length }} shown</span>
    </p>
    <InverterComb
      v-for="set in comb.drawn.value"
      :key="set.id"
      :set="set"
      :picked="subarray?.id ?? ''"
      @pick="picked = $event"
    />
    <p v-if="comb.shown.value.length > comb.drawn.value.length" class="soft">
      <button type="button" class="link" @click="comb.more">
        Show {{ Math.min(comb.shown.value.length - comb.drawn.value.length, FEW * 3) }} more of
        {{ comb.shown.value.length }}
      </button>
    </p>
    <p v-else-if="!comb.shown.value.length && store.sets.length" class="soft">No inverters match.</p>
    <TrackerCurve v-if="subarray && store.evaluation?.headline" :subarray="subarray.id" />
    <ModuleElectronics v-if="subarray && store.evaluation?.headline" :subarray="subarray.id" />
    <p class="add"><button type="button" class="button" @click="picking = true">Add an inverter…</button></p>
    <v-dialog role="none" :aria-modal="null" v-model="isFinding" max-width="1220">
      <StringFinder v-if="isFinding" :surface="asked.surface" :module="asked.module" @close="isFinding = false" />
    </v-dialog>
    <PartPicker v-if="picking" v-model="picking" kind="inverter" chosen="" @choose="addInverter" />
    <PartPicker
      v-if="found"
      :key="found.name"
      :model-value="true"
      :kind="found.kind"
      :chosen="
        (found.kind === 'module' ? subarray?.module : store.sets.find((s) => s.id === subarray?.inverter)?.model) ?? ''
      "
      :find="found.name"
      @choose="takeFound"
      @update:model-value="leaveFound"
    />
  </section>
</template>
<style scoped>
.lead {
  display: flex;
  align-items: baseline;
  gap: 14px;
  margin-bottom: 5px;
}
.head {
  font-size: 12px;
}
.fuses {
  font-size: 12px;
}
.sheet {
  text-decoration: none;
  white-space: nowrap;
}
.finds {
  margin-left: auto;
  white-space: nowrap;
}
.all {
  margin: 8px 0 10px;
  font-size: 13px;
}
.empty {
  padding: 30px 0;
  text-align: center;
}
.add {
  border-top: 1px solid var(--rule);
  padding-top: 12px;
}
</style>
