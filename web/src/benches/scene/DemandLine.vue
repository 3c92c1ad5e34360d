<script setup lang="ts">
import { computed } from 'vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { energyText, number } from '@/theme/format'
import { useDemand } from './useDemand'

/** What the array gives against what the building uses: its share, and what is over. */
const store = useSchemeStore()
const used = useDemand()
const energy = computed(() => store.evaluation?.headline?.energy ?? null)
/** A first guess: the floor of the largest building, on one storey. */
function begin() {
  const buildings = Object.values(
    ((store.document.scene ?? {}) as { buildings?: Record<string, { length?: number; width?: number }> }).buildings ??
      {},
  )
  const floor = Math.max(20, ...buildings.map((b) => (b.length ?? 10) * (b.width ?? 8)))
  store.edit({ demand: { use: 80, area: Math.round(floor) } })
}
</script>
<template>
  <p class="soft demand">
    <template v-if="used !== null">
      The building uses <BriefNumber pointer="/demand/use" label="Use by floor area" /> on
      <BriefNumber pointer="/demand/area" label="Floor area" />, {{ energyText(used) }} a year<template
        v-if="energy !== null && used > 0"
        >; the array gives <b>{{ number((energy / used) * 100) }} %</b> of it<template v-if="energy > used"
          >, {{ energyText(energy - used) }} more than it uses</template
        ></template
      >.
      <button type="button" class="link" @click="store.edit({ demand: null })">leave it out</button>
    </template>
    <button v-else type="button" class="link" @click="begin">Compare with what the building uses</button>
  </p>
</template>
<style scoped>
.demand {
  font-size: 12px;
  margin: 3px 0 0;
}
</style>
