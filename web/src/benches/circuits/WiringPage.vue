<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { percent, quantity } from '@/theme/format'
import CableTable from './CableTable.vue'
import ConnectionLine from './ConnectionLine.vue'
import ProtectionTable from './ProtectionTable.vue'
import RuleSet from './RuleSet.vue'
import SectionCosts from './SectionCosts.vue'

/** Every cable with its section, and all protection, each held against its rule. */
const store = useSchemeStore()
const picked = ref('')
const { answer, fault } = useAnswer(
  () => (store.shown && store.evaluation?.headline ? `${store.shown.id} ${store.shown.revision}` : null),
  (signal) => api.wiring(store.shown!.id, signal),
)
const STRING_LENGTH = 25
const AC_LENGTH = 15
const MAIN_LENGTH = 30
const bareStrings = computed(() => store.subarrays.filter((s) => !store.at(`/subarrays/${s.id}/cable`)))
const bareSets = computed(() => store.sets.filter((s) => !store.at(`/inverters/${s.id}/cable`)))
const hasMain = computed(() => Boolean(store.at('/connection/cable')))
const each = (ids: string[], length: number): JsonObject =>
  Object.fromEntries(ids.map((id) => [id, { cable: { length } }]))
const setStrings = () =>
  store.edit({
    subarrays: each(
      bareStrings.value.map((s) => s.id),
      STRING_LENGTH,
    ),
  })
const setInverters = () =>
  store.edit({
    inverters: each(
      bareSets.value.map((s) => s.id),
      AC_LENGTH,
    ),
  })
const setMain = () => store.edit({ connection: { cable: { length: MAIN_LENGTH } } })
const run = computed(() => answer.value?.runs.find((r) => r.pointer === picked.value) ?? answer.value?.runs[0])
</script>
<template>
  <section v-if="answer" class="wiring">
    <RuleSet :title="answer.rules" :source="answer.rules_source" />
    <h3>
      Cables
      <small class="soft"
        >DC cables lose <b>{{ percent(answer.dc_loss, 2) }}</b> of the year's energy, AC cables
        <b>{{ percent(answer.ac_loss, 2) }}</b></small
      >
    </h3>
    <p v-if="bareStrings.length || bareSets.length || !hasMain" class="acts">
      <button v-if="bareStrings.length" type="button" class="button" @click="setStrings">
        Set string cables of {{ quantity(STRING_LENGTH, 'm') }}
      </button>
      <button v-if="bareSets.length" type="button" class="button" @click="setInverters">
        Set AC cables of {{ quantity(AC_LENGTH, 'm') }}
      </button>
      <button v-if="!hasMain" type="button" class="button" @click="setMain">
        Set an AC main cable of {{ quantity(MAIN_LENGTH, 'm') }}
      </button>
    </p>
    <p v-if="bareStrings.length || bareSets.length" class="soft small">
      Until a cable has a length, the share of the losses stands for it<template
        v-if="bareStrings.length && bareStrings.length < store.subarrays.length"
      >
        ({{
          bareStrings
            .map((s) => s.id)
            .slice(0, 4)
            .join(', ')
        }}{{ bareStrings.length > 4 ? ', …' : '' }})</template
      >.
    </p>
    <CableTable v-if="answer.runs.length" :runs="answer.runs" :picked="run?.pointer ?? ''" @pick="picked = $event" />
    <SectionCosts v-if="run" :run="run" :currency="answer.currency" />
    <ConnectionLine :phases="answer.phases" />
    <ProtectionTable :lines="answer.protection" />
  </section>
  <p v-else-if="fault" class="bad">{{ fault }}</p>
  <p v-else class="soft empty">Cables and protection appear once the scheme can be simulated.</p>
</template>
<style scoped>
.wiring {
  display: grid;
  gap: 9px;
}
h3 small {
  font-weight: 400;
  margin-left: 8px;
  font-family: var(--sans);
  font-size: 12.5px;
}
.small {
  font-size: 12px;
}
</style>
