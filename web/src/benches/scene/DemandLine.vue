<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { energyText, number } from '@/theme/format'
import { useDemand } from '@/stores/useDemand'

/** What the array gives against what is used: its share, and what is over. */
const store = useSchemeStore()
const route = useRoute()
const used = useDemand()
const energy = computed(() => store.evaluation?.headline?.energy ?? null)
/** A first guess: the floor of the largest building, on one storey. */
function begin() {
  const buildings = Object.values(
    ((store.document.scene ?? {}) as { buildings?: Record<string, { length?: number; width?: number }> }).buildings ??
      {},
  )
  const floors = buildings.map((b) => (b.length ?? 0) * (b.width ?? 0)).filter((floor) => floor > 0)
  const area = floors.length ? { area: Math.round(Math.max(...floors)) } : {}
  void store.act('add-source', { source: { name: 'Building', per_area: area } })
}
</script>
<template>
  <p class="soft demand">
    <template v-if="used !== null">
      The demand is
      <router-link class="link" :to="{ params: { ...route.params, bench: 'demand' }, query: route.query }">{{
        energyText(used)
      }}</router-link>
      a year<template v-if="energy !== null && used > 0"
        >; the array gives <b>{{ number((energy / used) * 100) }} %</b> of it<template v-if="energy > used"
          >, {{ energyText(energy - used) }} more than is used</template
        ></template
      >.
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
