<script setup lang="ts">
import type { Acts } from '@/api/client'
import { computed } from 'vue'
import { patchAt } from '@/api/mergePatch'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefNumber from '@/brief/BriefNumber.vue'
import { useRoute } from 'vue-router'

/** What carries the sun to a battery where there is no grid: charge controllers on a bus, or the array's own inverters. */
const store = useSchemeStore()
const library = useLibrary()
const INVERTER = '/storage/off_grid/inverter'
const CABLES = '/storage/off_grid/cables'
const route = useRoute()
const protection = computed(() => ({
  name: 'bench',
  params: { ...route.params, bench: 'circuits' },
  query: { ...route.query, page: 'wiring' },
}))
const first = computed(
  () => Object.values((store.at('/inverters') ?? {}) as Record<string, { model?: string; controller?: string }>)[0],
)
const hangsOn = computed(() =>
  first.value?.controller ? `controllers ${first.value.controller}` : `inverters ${first.value?.model ?? ''}`,
)
function hang(event: Event) {
  const [kind, part] = (event.target as HTMLSelectElement).value.split(' ') as [Acts['hang-strings']['kind'], string]
  void store.act('hang-strings', { kind, part })
}
const choose = (event: Event) => store.edit(patchAt(INVERTER, (event.target as HTMLSelectElement).value || null))
</script>
<template>
  <p v-if="first" class="said">
    The strings hang on
    <select class="blank" :value="hangsOn" aria-label="The strings hang on" @change="hang">
      <optgroup label="Charge controllers">
        <option v-for="part in library.parts.controllers ?? []" :key="part.id" :value="`controllers ${part.id}`">
          {{ part.maker }} {{ part.name }}, {{ part.tracks ? 'MPPT' : 'PWM' }}, {{ part.current }} A
        </option>
      </optgroup>
      <optgroup label="Inverters">
        <option v-for="part in library.parts.inverters" :key="part.id" :value="`inverters ${part.id}`">
          {{ part.maker }} {{ part.name }}
        </option>
      </optgroup></select
    ><template v-if="first.controller"
      >, and the battery bus feeds the use through
      <select class="blank" :value="store.at(INVERTER) ?? ''" aria-label="Inverter of the battery bus" @change="choose">
        <option value="">an inverter of the battery's power</option>
        <option v-for="part in library.parts.inverters" :key="part.id" :value="part.id">
          {{ part.maker }} {{ part.name }}
        </option>
      </select></template
    >.<template v-if="first.controller">
      One pair of cables of <BriefNumber :pointer="`${CABLES}/battery`" label="Battery cable, one way" /> reaches the
      battery, <BriefNumber :pointer="`${CABLES}/controllers`" label="Cable from a controller to the bus" /> each
      controller, with a voltage drop of <BriefNumber :pointer="`${CABLES}/drop`" label="Voltage drop on the bus" /> at
      most; the DC circuits are <BriefNumber :pointer="`${CABLES}/direct`" label="Cable of the DC circuits" /> long and
      drop <BriefNumber :pointer="`${CABLES}/direct_drop`" label="Voltage drop of the DC circuits" /> at most.
      <router-link class="link" :to="protection">Fuses and cables</router-link>
    </template>
  </p>
</template>
