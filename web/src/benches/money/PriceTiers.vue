<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** Prices that rise with the energy of the month: ends and prices are typed, tiers added and taken away. */
defineProps<{ currency: string }>()
const store = useSchemeStore()
type Tier = { up_to?: number | null; price: number }
const tiers = computed(() => (store.at('/money/tariff/energy/tiers') ?? []) as unknown as Tier[])
const set = (after: Tier[]) => store.act('set-tiers', { tiers: after })
async function typed(event: Event, index: number, key: 'up_to' | 'price') {
  const input = event.target as HTMLInputElement
  const value = Number(input.value.replace(',', '.'))
  if (input.value.trim() && Number.isFinite(value))
    await set(tiers.value.map((tier, i) => (i === index ? { ...tier, [key]: value } : tier)))
  // What is no number, or is refused, goes back to what it was.
  input.value = String(tiers.value[index]?.[key] ?? '')
}
const add = () => store.act('set-tiers', { tiers: tiers.value, divide_last: true })
const remove = (index: number) => set(tiers.value.filter((_, i) => i !== index))
</script>
<template>
  <ol>
    <li v-for="(tier, i) in tiers" :key="i">
      <template v-if="i < tiers.length - 1">
        up to
        <input
          class="blank"
          size="6"
          :value="tier.up_to"
          :aria-label="`End of tier ${i + 1}`"
          @change="typed($event, i, 'up_to')"
        />
        kWh a month
      </template>
      <template v-else>all {{ i ? 'over it' : 'energy' }}</template>
      <span class="at"
        ><input
          class="blank"
          size="6"
          :value="tier.price"
          :aria-label="`Price of tier ${i + 1}`"
          @change="typed($event, i, 'price')"
        />
        {{ currency }}</span
      >
      <button
        v-if="i < tiers.length - 1"
        type="button"
        class="link"
        :aria-label="`Delete tier ${i + 1}`"
        @click="remove(i)"
      >
        ×
      </button>
    </li>
  </ol>
  <p class="add"><button type="button" class="link" @click="add">Add a tier</button></p>
</template>
<style scoped>
ol {
  list-style: none;
  margin: 6px 0 2px;
  padding: 0;
  font-size: 12.5px;
  display: grid;
  gap: 3px;
}
li {
  display: flex;
  gap: 5px;
  align-items: baseline;
}
.at {
  margin-left: auto;
}
.add {
  font-size: 12px;
}
</style>
