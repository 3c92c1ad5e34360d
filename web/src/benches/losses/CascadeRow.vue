<script setup lang="ts">
import { computed } from 'vue'
import type { CascadeLine } from '@/api/client'
import { signed } from '@/theme/format'
import { isZero } from './useCascade'

/** One loss or gain: its share, its piece of what is left, its energy, its change against the pinned scheme, its months. */
const props = defineProps<{
  line: CascadeLine
  /** Where the bar ends before and after the line, in per cent of the scale. */
  left: { before: number; after: number }
  energy: string
  change: number | null
  isCompared: boolean
  isPicked: boolean
}>()
const emit = defineEmits<{ working: []; hours: [] }>()
const still = computed(() => isZero(props.line.share))
const tone = computed(() => (props.line.energy > 0 ? 'good' : still.value ? 'soft' : 'bad'))
const colour = computed(() => (props.line.energy > 0 ? 'var(--yield)' : 'var(--loss)'))
const bar = computed(() => {
  const [from, to] = [props.left.before, props.left.after].sort((a, b) => a - b)
  return { from: from!, width: Math.max(0.3, to! - from!) }
})
const monthHeights = computed(() => {
  const top = Math.max(...props.line.monthly.map(Math.abs), 1e-9)
  return props.line.monthly.map((value) => (Math.abs(value) / top) * 14)
})
/** Transposition is no loss of an hour. */
const hasHours = computed(() => props.line.key !== 'transposition')
</script>
<template>
  <tr class="line" :class="{ picked: isPicked, still }">
    <td>
      <button type="button" :aria-label="`${line.title}: show its working`" @click="emit('working')">
        {{ line.title }}
      </button>
    </td>
    <td class="num" :class="tone">
      <b>{{ signed(line.share * 100, Math.abs(line.share) < 0.001 ? 2 : 1) }} %</b>
    </td>
    <td class="bar">
      <svg width="100%" height="14" preserveAspectRatio="none" aria-hidden="true">
        <rect
          x="0"
          y="1"
          :width="`${bar.from}%`"
          height="12"
          :fill="line.group === 'sunlight' ? 'var(--sun)' : 'var(--current)'"
          opacity=".24"
        />
        <rect
          :x="`${bar.from}%`"
          y="1"
          :width="`${bar.width}%`"
          height="12"
          :fill="colour"
          :opacity="still ? 0.3 : 0.9"
        />
      </svg>
    </td>
    <td class="num">{{ energy }}</td>
    <td v-if="isCompared" class="num change" :class="(change ?? 0) >= 0 ? 'good' : 'bad'">
      {{ change === null ? '' : signed(change * 100, 1) }}
    </td>
    <td class="months">
      <button
        type="button"
        :aria-label="`Show ${line.title} in the Tideline`"
        :disabled="!hasHours"
        :title="hasHours ? 'Show its hours in the Tideline' : ''"
        @click="emit('hours')"
      >
        <svg viewBox="0 0 72 16" width="72" height="16" aria-hidden="true">
          <rect
            v-for="(height, i) in monthHeights"
            :key="i"
            :x="i * 6"
            :y="15 - height"
            width="4.4"
            :height="Math.max(0.8, height)"
            :fill="line.monthly[i]! > 0 ? 'var(--yield)' : 'var(--loss)'"
            opacity=".75"
          />
        </svg>
      </button>
    </td>
  </tr>
</template>
<style scoped>
td {
  padding: 0.6px 6px;
  vertical-align: middle;
}
td:first-child {
  padding-left: 14px;
  white-space: nowrap;
}
button:hover {
  text-decoration: underline;
  text-decoration-thickness: 1px;
  text-underline-offset: 3px;
}
.line:hover td,
.picked td {
  background: var(--pick);
}
.still {
  color: var(--soft);
}
.bar svg,
.months svg {
  display: block;
}
.change {
  font-size: 12px;
}
.months {
  width: 84px;
}
@media (max-width: 1150px) {
  td {
    padding-inline: 4px;
  }
  td:first-child {
    padding-left: 8px;
  }
  .months,
  .months svg {
    width: 46px;
  }
}
</style>
