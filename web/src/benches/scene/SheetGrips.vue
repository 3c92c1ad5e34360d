<script setup lang="ts">
import type { Handle } from './dimensions'

/** The handles of the selected object: taken hold of, they turn or raise it. */
defineProps<{ grips: { handle: Handle; at: [number, number]; from: [number, number] }[] }>()
const emit = defineEmits<{ take: [event: PointerEvent, handle: Handle] }>()
</script>
<template>
  <g
    v-for="g in grips"
    :key="g.handle.kind"
    class="grip"
    :class="g.handle.kind"
    @pointerdown.stop="emit('take', $event, g.handle)"
  >
    <title>
      {{ g.handle.kind === 'turn' ? 'Drag to turn; [ and ] turn by 5°' : 'Drag to raise; Page Up and Page Down' }}
    </title>
    <path v-if="g.handle.kind === 'turn'" :d="`M${g.from}L${g.at}`" class="stem" />
    <circle :cx="g.at[0]" :cy="g.at[1]" r="11" class="area" />
    <path
      :d="
        g.handle.kind === 'turn'
          ? `M${g.at[0] - 5},${g.at[1] + 3}a5.5,5.5 0 1 1 10,0m0,0l-3.4,-1m3.4,1l.6,-3.6`
          : `M${g.at[0]},${g.at[1] + 7}v-14m-3.2,3.6l3.2,-3.8l3.2,3.8m-6.4,6.8l3.2,3.8l3.2,-3.8`
      "
    />
  </g>
</template>
<style scoped>
.grip {
  pointer-events: auto;
  cursor: grab;
}
.grip .area {
  fill: transparent;
}
.grip path {
  fill: none;
  stroke: var(--current);
  stroke-width: 1.5px;
}
.grip .stem {
  stroke-dasharray: 2 3;
  stroke-width: 1px;
}
.grip:hover .area {
  fill: var(--sheet);
}
</style>
