<script setup lang="ts">
import { shownUnit } from '@/theme/habits'
import NumberField from '@/brief/NumberField.vue'
import { number } from '@/theme/format'
import { RAMP_GRADIENT } from '@/theme/ramp'
import type { useScene } from './useScene'
import { useSun } from './useSun'

/** The line under the drawing: the sun of the shadows, the scale of the colours, the grid, and ways to look. */
defineProps<{
  view: ReturnType<typeof useScene>
  hasThings: boolean
  hasFace: boolean
}>()
const emit = defineEmits<{ fit: []; square: []; look: [azimuth: number, elevation: number] }>()
const grid = defineModel<number>('grid', { required: true })
const { sun, moment } = useSun()
</script>
<template>
  <div class="under soft">
    <span v-if="sun && sun.elevation > 0"
      >Shadows of {{ moment }}: sun elevation {{ number(sun.elevation) }}°, azimuth {{ number(sun.azimuth) }}°.</span
    >
    <span v-else-if="sun">{{ moment }}: the sun is below the horizon.</span>
    <span v-if="view.isColoured.value && view.shade.value" class="legend" :class="{ stale: !view.isCurrent.value }">
      <template v-if="view.quantity.value !== 'irradiation'"
        >{{ number(view.darkest.value * 100) }} %<i :style="{ background: RAMP_GRADIENT }" />100 %</template
      >
      <template v-else
        >0<i :style="{ background: RAMP_GRADIENT }" />{{
          number(view.brightest.value, view.brightest.value < 10 ? 3 : 0)
        }}
        kWh/m²</template
      >
      <b v-if="!view.isCurrent.value" role="status">previous result, recalculating…</b>
      <b v-else-if="view.shade.value.is_coarse" role="status">preview, exact result follows…</b>
    </span>
    <span class="views">
      <span v-if="hasThings"
        >grid
        <NumberField
          class="blank step"
          :value="grid"
          :limits="{ min: 0.01, max: 10 }"
          :step="0.05"
          unit="m"
          :aria-label="`Grid on which objects are moved [${shownUnit('m')}]`"
          @change="grid = $event ?? grid"
          @keydown.stop
        />
        {{ shownUnit('m') }}</span
      >
      <button type="button" class="link" title="The whole scene (F)" @click="emit('fit')">fit</button>
      <button v-if="hasFace" type="button" class="link" @click="emit('square')">square to the face</button>
      <button type="button" class="link" @click="emit('look', 212, 34)">axonometry</button>
      <button type="button" class="link" @click="emit('look', 180, 89)">plan</button>
      <button type="button" class="link" @click="emit('look', 180, 8)">from the south</button>
    </span>
  </div>
</template>
<style scoped>
.under {
  grid-row: 4;
  display: flex;
  justify-content: space-between;
  gap: 0 14px;
  font-size: 11.5px;
  padding: 2px 0;
  border-top: 1px solid var(--rule);
  min-height: 22px;
}
.under > span:first-of-type {
  flex: 1 1 0;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.legend {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
.legend i {
  width: 90px;
  height: 9px;
}
.views {
  display: inline-flex;
  gap: 10px;
  white-space: nowrap;
}
.step {
  width: 3.4em;
}
.stale {
  opacity: 0.55;
}
@media (max-width: 1150px) {
  .under > span:first-of-type,
  .views > span {
    display: none;
  }
}
</style>
