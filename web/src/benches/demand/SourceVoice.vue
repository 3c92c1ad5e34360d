<script setup lang="ts">
import { computed } from 'vue'
import { stepBand } from '@/charts/dayShape'

/** A source along the day, as a voice of the score: its average power, as high as it is strong. */
const props = defineProps<{
  title: string
  note: string
  values: number[]
  top: number
  tone: string
  isOn: boolean
  isPicked: boolean
  isDeferrable: boolean
  left: number
  width: number
}>()
const emit = defineEmits<{ pick: [] }>()
const HEIGHT = 34
const x = (share: number) => share * (props.width - props.left - 12)
const y = (value: number) => HEIGHT - 3 - (value / Math.max(props.top, 1e-9)) * (HEIGHT - 8)
const zero = computed(() => props.values.map(() => 0))
</script>
<template>
  <button
    type="button"
    class="voice"
    :class="{ picked: isPicked, off: !isOn }"
    :aria-pressed="isPicked"
    :style="{ gridTemplateColumns: `${left}px minmax(0, 1fr)` }"
    @click="emit('pick')"
  >
    <span class="name"
      ><b>{{ title }}</b
      ><small class="soft">{{ note }}</small></span
    >
    <svg :width="Math.max(0, width - left)" :height="HEIGHT" aria-hidden="true">
      <line :x1="0" :x2="x(1)" :y1="HEIGHT - 3" :y2="HEIGHT - 3" stroke="var(--rule)" />
      <line
        v-for="h in [6, 12, 18]"
        :key="h"
        :x1="x(h / 24)"
        :x2="x(h / 24)"
        y1="0"
        :y2="HEIGHT"
        stroke="var(--rule)"
      />
      <path
        :d="stepBand(zero, values, x, y)"
        :fill="tone"
        :opacity="isDeferrable ? 0.3 : 0.7"
        :stroke="isDeferrable ? tone : 'none'"
        stroke-dasharray="4 3"
      />
    </svg>
  </button>
</template>
<style scoped>
.voice {
  display: grid;
  width: 100%;
  align-items: center;
  border-left: 3px solid transparent;
  margin-left: -8px;
  padding-left: 5px;
}
.voice:hover {
  background: var(--wash);
}
.voice.picked {
  border-left-color: var(--ink);
  background: var(--wash);
}
.voice.off {
  opacity: 0.5;
}
.name {
  display: grid;
  min-width: 0;
  line-height: 1.25;
  padding-right: 10px;
}
.name b {
  font-weight: 600;
  font-size: 12.5px;
}
.name b,
.name small {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.name small {
  font-size: 11px;
}
</style>
