<script setup lang="ts">
import { computed } from 'vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import NumberField from '@/brief/NumberField.vue'
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
const collector = computed(
  () => store.at('/connection/collector') as { length?: number; section?: number | null } | null | undefined,
)
const CONDUCTORS = ['aluminium', 'copper'].map((value) => ({ value, text: value }))
const limitsOf = (pointer: string) => library.field(pointer) ?? undefined
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
        No export limit (<button type="button" class="link" @click="store.act('limit-export', {})">set one</button>).
      </template>
      <template v-if="resistance !== undefined">
        The grid has <BriefNumber pointer="/connection/resistance" label="Grid resistance" /> and
        <BriefNumber pointer="/connection/reactance" label="Grid reactance" /> a conductor; the voltage may rise by
        <BriefNumber pointer="/connection/rise_limit" label="Voltage rise limit" />.
      </template>
      <template v-else>
        The grid's impedance is not known (<button type="button" class="link" @click="store.act('set-impedance', {})">
          set it</button
        >).
      </template>
      Transformer:
      <select class="blank" :value="transformer" aria-label="Transformer" @change="setTransformer">
        <option value="">none</option>
        <option v-for="t in library.parts.transformers" :key="t.id" :value="t.id">
          {{ t.maker }} {{ t.name }}
        </option></select
      ><template v-if="transformer"
        >, one in each of <BriefNumber pointer="/connection/stations" label="Stations" /> stations alike<template
          v-if="collector"
          >, joined by <BriefNumber pointer="/connection/collector/length" label="Medium-voltage cable" /> of
          <BriefChoice
            pointer="/connection/collector/conductor"
            label="Conductor of the medium-voltage cable"
            :options="CONDUCTORS"
          />
          from one to the next and to the grid, section
          <NumberField
            class="blank short"
            :limits="limitsOf('/connection/collector/section')"
            :value="collector.section ?? null"
            placeholder="as needed"
            aria-label="Section of the medium-voltage cable"
            @change="store.edit({ connection: { collector: { section: $event } } })"
          />
          mm² (<button type="button" class="link" @click="store.edit({ connection: { collector: null } })">
            leave it out</button
          >)</template
        ><template v-else
          >, their medium voltage not counted (<button
            type="button"
            class="link"
            @click="store.act('join-stations', {})"
          >
            add its cable</button
          >)</template
        ></template
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
.short {
  width: 76px;
}
.words {
  font: 14px/1.65 var(--serif);
}
</style>
