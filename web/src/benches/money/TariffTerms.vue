<script setup lang="ts">
import type { Acts } from '@/api/client'
import { computed } from 'vue'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import { patchAt } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** What a tariff asks beside the price of energy: power, standing charges, taxes, net metering, change by year. */
defineProps<{ currency: string }>()
const store = useSchemeStore()
const AT = '/money/tariff'
type Named = Record<string, { name?: string; contracted?: number; per?: string }>
const demand = computed(() => (store.at(`${AT}/demand`) ?? {}) as Named)
const fixed = computed(() => (store.at(`${AT}/fixed`) ?? {}) as Named)
const taxes = computed(() => (store.at(`${AT}/taxes`) ?? {}) as Named)
const net = computed(() => store.at(`${AT}/net_metering`) !== undefined)
const exported = computed(() => store.at(`${AT}/export`) !== undefined)
const HOURS_OF = (key: string) => String(store.at(`${AT}/demand/${key}/weekday`) ?? '0-24')
const add = (term: Acts['add-term']['term']) => store.act('add-term', { term })
</script>
<template>
  <div class="terms">
    <p v-for="(charge, key) in demand" :key="key">
      {{ charge.name ?? 'Demand charge' }}:
      <BriefNumber :pointer="`${AT}/demand/${key}/price`" :label="`Price of a kW, ${charge.name}`" unit="" />
      {{ currency }} a kW of the month's highest mean over
      <BriefChoice
        :pointer="`${AT}/demand/${key}/averaging`"
        label="Averaged over"
        :options="[15, 30, 60].map((m) => ({ value: String(m), text: `${m} min` }))"
      />, {{ HOURS_OF(String(key)) === '0-24' ? 'all hours' : `weekdays ${HOURS_OF(String(key))}` }}, at least
      <BriefNumber :pointer="`${AT}/demand/${key}/ratchet`" label="Ratchet" /> of the highest before.
      <button type="button" class="link" @click="store.edit(patchAt(`${AT}/demand/${key}`, null))">Delete</button>
    </p>
    <p v-for="(charge, key) in fixed" :key="key">
      {{ charge.name ?? 'Standing charge' }}:
      <BriefNumber :pointer="`${AT}/fixed/${key}/amount`" :label="charge.name ?? 'Standing charge'" unit="" />
      {{ currency }} a <BriefChoice :pointer="`${AT}/fixed/${key}/per`" label="Per" />.
      <button type="button" class="link" @click="store.edit(patchAt(`${AT}/fixed/${key}`, null))">Delete</button>
    </p>
    <p v-for="(tax, key) in taxes" :key="key">
      {{ tax.name ?? 'Tax' }}: <BriefNumber :pointer="`${AT}/taxes/${key}/share`" :label="tax.name ?? 'Tax'" />.
      <button type="button" class="link" @click="store.edit(patchAt(`${AT}/taxes/${key}`, null))">Delete</button>
    </p>
    <p v-if="net">
      Net metering, settled after month
      <BriefNumber :pointer="`${AT}/net_metering/settled_after`" label="Settled after month" /> at
      <BriefNumber :pointer="`${AT}/net_metering/settlement`" label="Paid for what is left" unit="" /> {{ currency }}.
    </p>
    <p>Prices change by <BriefNumber :pointer="`${AT}/yearly_change`" label="Change of prices a year" /> a year.</p>
    <p class="acts">
      <button type="button" class="link" @click="add('demand')">Demand charge</button>
      <button type="button" class="link" @click="add('fixed')">Standing charge</button>
      <button type="button" class="link" @click="add('taxes')">Tax</button>
      <button v-if="!exported && !net" type="button" class="link" @click="add('export')">
        Price of exported energy
      </button>
    </p>
  </div>
</template>
<style scoped>
.terms {
  margin-top: 8px;
  font-size: 12.5px;
  display: grid;
  gap: 3px;
}
.terms p {
  line-height: 1.5;
}
.acts {
  gap: 3px 12px;
  font-size: 12px;
}
</style>
