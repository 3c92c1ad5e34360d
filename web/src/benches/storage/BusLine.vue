<script setup lang="ts">
import { computed } from 'vue'
import { patchAt } from '@/api/mergePatch'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** What carries the sun to a battery where there is no grid: charge controllers on a bus, or the array's own inverters. */
const store = useSchemeStore()
const library = useLibrary()
const INVERTER = '/storage/off_grid/inverter'
const first = computed(
  () => Object.values((store.at('/inverters') ?? {}) as Record<string, { model?: string; controller?: string }>)[0],
)
const hangsOn = computed(() =>
  first.value?.controller ? `controllers ${first.value.controller}` : `inverters ${first.value?.model ?? ''}`,
)
function hang(event: Event) {
  const [kind, part] = (event.target as HTMLSelectElement).value.split(' ')
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
    >.
  </p>
</template>
