<script setup lang="ts">
import { computed } from 'vue'
import type { SurfaceView } from '@/stores/schemeLists'
import { azimuthWords } from '@/theme/format'
import { DISC, type Pin } from './discGeometry'

/** A surface on the disc: its handle, to drag or to turn with the arrow keys, and its name. */
const props = defineProps<{
  surface: SurfaceView
  pin: Pin
  isPicked: boolean
  isNamed: boolean
  isSmall: boolean
  enlarged: number
}>()
const emit = defineEmits<{ grab: [event: PointerEvent]; key: [event: KeyboardEvent]; pick: [] }>()
const nameWidth = computed(() => (props.surface.name.length * 6 + 10) * props.enlarged)
/** Left edge of the name, kept inside of the drawing. */
const nameLeft = computed(() =>
  props.pin.isLeft
    ? Math.max(2, props.pin.labelX - nameWidth.value)
    : Math.min(props.pin.labelX, DISC.width - nameWidth.value - 2),
)
</script>
<template>
  <g>
    <path v-if="isNamed" :d="`M${pin.x} ${pin.y}L${pin.labelX} ${pin.labelY}`" stroke="#12222e" />
    <g
      tabindex="0"
      role="slider"
      class="handle"
      :aria-label="`${surface.name}: arrow keys change tilt and azimuth`"
      aria-valuemin="0"
      aria-valuemax="90"
      :aria-valuenow="surface.tilt"
      :aria-valuetext="`tilt ${surface.tilt}°, azimuth ${azimuthWords(surface.azimuth)}`"
      @pointerdown.prevent="emit('grab', $event)"
      @keydown="emit('key', $event)"
      @focus="emit('pick')"
    >
      <circle :cx="pin.x" :cy="pin.y" :r="isSmall ? 8 : 15" fill="transparent" />
      <circle
        :cx="pin.x"
        :cy="pin.y"
        :r="(isPicked ? 9 : 7.5) * (isSmall && !isNamed ? 0.55 : 1)"
        :fill="isPicked ? '#2F5D8C' : '#1b2a3a'"
        stroke="#fffdf8"
        stroke-width="2"
      />
    </g>
    <g v-if="isNamed" class="tag">
      <rect
        :x="nameLeft"
        :y="pin.labelY - 9 * enlarged"
        :width="nameWidth"
        :height="18 * enlarged"
        rx="4"
        fill="#fffdf8"
        opacity=".9"
      />
      <text
        :x="nameLeft + (pin.isLeft ? nameWidth - 5 : 5)"
        :y="pin.labelY + 4 * enlarged"
        :font-size="11.5 * enlarged"
        font-weight="600"
        :text-anchor="pin.isLeft ? 'end' : 'start'"
        style="fill: #1b2a3a"
      >
        {{ surface.name }}
      </text>
    </g>
  </g>
</template>
<style scoped>
.handle {
  cursor: grab;
}
.handle:focus-visible {
  outline: none;
}
.handle:focus-visible circle:last-child {
  stroke: #e3ac3b;
  stroke-width: 3;
}
.tag {
  pointer-events: none;
}
</style>
