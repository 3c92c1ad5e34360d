<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'

/** By which rules currents are raised before cables and devices are chosen. */
defineProps<{ title: string; source: string }>()
const store = useSchemeStore()
const own = computed(() => store.at('/wiring/own_rules') as { title?: string; source?: string } | undefined)
const chosen = computed(() => (own.value ? 'own' : ((store.at('/wiring/rules') as string | undefined) ?? 'iec')))
function choose(event: Event) {
  const key = (event.target as HTMLSelectElement).value
  if (key === 'own') store.edit({ wiring: { own_rules: { title: 'Own rules' } } })
  else store.edit({ wiring: { rules: key, own_rules: null } })
}
</script>
<template>
  <p class="rules">
    Rule set
    <select class="blank" :value="chosen" aria-label="Rule set" @change="choose">
      <option value="iec">IEC</option>
      <option value="nec">125 % rules of NFPA 70</option>
      <option value="own">rules of one's own</option>
    </select>
    <span class="soft">{{ source }}.</span>
    <template v-if="own">
      <BriefText
        :value="own.title ?? ''"
        label="Name of the rule set"
        @change="store.edit({ wiring: { own_rules: { title: $event } } })"
      />: <BriefNumber pointer="/wiring/own_rules/array_current" label="Array current over Isc" /> × Isc for the array,
      <BriefNumber pointer="/wiring/own_rules/conductor" label="Cable current over Isc" /> × Isc for string cables,
      fuses <BriefNumber pointer="/wiring/own_rules/fuse_from" label="Lowest string fuse over Isc" /> to
      <BriefNumber pointer="/wiring/own_rules/fuse_to" label="Highest string fuse over Isc" /> × Isc, AC breakers
      <BriefNumber pointer="/wiring/own_rules/continuous" label="AC breaker over current" /> × the current.
    </template>
    Value of a kilowatt-hour
    <BriefNumber pointer="/money/energy_value" label="Value of energy" unit="" />
    <BriefText
      class="currency"
      :value="(store.at('/money/currency') as string | undefined) ?? 'EUR'"
      label="Currency (ISO 4217)"
      @change="store.edit({ money: { currency: $event.toUpperCase() || null } })"
    />
    over <BriefNumber pointer="/money/years" label="Years counted" /> years at
    <BriefNumber pointer="/money/interest" label="Interest" /> interest.
  </p>
</template>
<style scoped>
.currency {
  width: 3.2em;
}
.rules {
  font: 14px/1.6 var(--serif);
}
</style>
