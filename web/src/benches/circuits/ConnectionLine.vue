<script setup lang="ts">
import { computed } from 'vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import { number } from '@/theme/format'

/** What the grid is and what it asks, in a sentence whose values are edited where they stand. */
const props = defineProps<{ phases: number[] }>()
const store = useSchemeStore()
const library = useLibrary()
const limit = computed(() => store.at('/connection/export_limit') as number | undefined)
const resistance = computed(() => store.at('/connection/resistance') as number | undefined)
const factor = computed(() => (store.at('/connection/power_factor') as number | undefined) ?? 1)
const isAbsorbing = computed(() => (store.at('/connection/is_absorbing') as boolean | undefined) ?? true)
const transformer = computed(() => (store.at('/connection/transformer') as string | undefined) ?? '')
const single = computed(() => store.sets.filter((s) => store.circuits.inverters[s.id]?.phases === 1))
const loads = computed(() => props.phases.map((p, i) => `L${i + 1} ${number(p / 1000, 1)}`).join(', '))
const EARTHING = ['TN-S', 'TN-C-S', 'TT'].map((value) => ({ value, text: value }))
const LIGHTNING = [
  { value: 'none', text: 'no external lightning protection' },
  { value: 'separated', text: 'lightning protection at its separation distance' },
  { value: 'bonded', text: 'lightning protection bonded to the array' },
]
const setTransformer = (event: Event) =>
  store.edit({ connection: { transformer: (event.target as HTMLSelectElement).value || null } })
const setPhase = (id: string, event: Event) =>
  store.edit({ inverters: { [id]: { phase: (event.target as HTMLSelectElement).value || null } } })
</script>
<template>
  <div>
    <h3>Connection</h3>
    <p class="words">
      A grid of <BriefNumber pointer="/connection/voltage" label="Voltage of the grid" /> phase to phase,
      <BriefChoice pointer="/connection/earthing" label="Earthing" :options="EARTHING" />;
      <BriefChoice
        pointer="/connection/lightning_protection"
        label="External lightning protection"
        :options="LIGHTNING"
      />. Power factor <BriefNumber pointer="/connection/power_factor" label="Power factor" /><template
        v-if="factor < 1"
        >, reactive power
        <button
          type="button"
          class="link"
          @click="store.edit({ connection: { is_absorbing: isAbsorbing ? false : null } })"
        >
          {{ isAbsorbing ? 'drawn' : 'given' }}
        </button></template
      >.
      <template v-if="limit !== undefined">
        At most <BriefNumber pointer="/connection/export_limit" label="Export limit" /> are exported (<button
          type="button"
          class="link"
          @click="store.edit({ connection: { export_limit: null } })"
        >
          no limit</button
        >).
      </template>
      <template v-else>
        No export limit (<button
          type="button"
          class="link"
          @click="
            store.edit({ connection: { export_limit: Math.round((store.evaluation?.headline?.ac_power ?? 10) * 0.7) } })
          "
        >
          set one</button
        >).
      </template>
      <template v-if="resistance !== undefined">
        The grid has <BriefNumber pointer="/connection/resistance" label="Grid resistance" /> and
        <BriefNumber pointer="/connection/reactance" label="Grid reactance" /> a conductor; the voltage may rise by
        <BriefNumber pointer="/connection/rise_limit" label="Voltage rise limit" />.
      </template>
      <template v-else>
        The grid's impedance is not known (<button
          type="button"
          class="link"
          @click="store.edit({ connection: { resistance: 0.1 } })"
        >
          set it</button
        >).
      </template>
      Transformer:
      <select class="blank" :value="transformer" aria-label="Transformer" @change="setTransformer">
        <option value="">none</option>
        <option v-for="t in library.parts.transformers" :key="t.id" :value="t.id">
          {{ t.maker }} {{ t.name }}
        </option></select
      >. Auxiliaries draw <BriefNumber pointer="/connection/auxiliaries" label="Auxiliaries" />.
    </p>
    <p v-if="single.length" class="words">
      Phases carry {{ loads }} kVA:
      <template v-for="(set, i) in single.slice(0, 12)" :key="set.id"
        >{{ i ? ', ' : '' }}{{ set.name }} on
        <select
          class="blank"
          :value="(store.at(`/inverters/${set.id}/phase`) as string | undefined) ?? ''"
          :aria-label="`Phase of ${set.name}`"
          @change="setPhase(set.id, $event)"
        >
          <option value="">the phase with least</option>
          <option v-for="p in ['L1', 'L2', 'L3']" :key="p" :value="p">{{ p }}</option>
        </select></template
      >.
    </p>
  </div>
</template>
<style scoped>
.words {
  font: 14px/1.65 var(--serif);
}
</style>
