<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useMarks } from '@/tideline/useMarks'
import { useMoment } from '@/tideline/useMoment'
import { number, percent } from '@/theme/format'

/** What the quality checks doubt in the year; where, is marked on the Tideline. */
const props = defineProps<{ digest: string; drift: number | null }>()
const { mark } = useMarks()
const moment = useMoment()
const picked = ref('')
const { answer, fault } = useAnswer(
  () => props.digest,
  (signal) => api.weatherQuality(props.digest, signal),
)
/** Drift is found over the years of a record: it doubts the whole of each. */
const doubts = computed(() => {
  if (!answer.value || props.drift === null) return answer.value
  const intervals = (moment.days.value * 1440) / moment.step.value
  return [
    ...answer.value,
    {
      rule: 'drift',
      title: 'The sensor drifts between years',
      detail: `The clearest light of each year changes by ${percent(props.drift, 2)} a year. Check its calibration.`,
      source: 'Trend of the clear-sky index at its 95 % quantile',
      hours: moment.days.value * 24,
      runs: [[0, intervals]] as [number, number][],
    },
  ]
})
const shown = computed(() => (doubts.value ?? []).filter((d) => !picked.value || d.rule === picked.value))
watch(
  shown,
  (list) =>
    mark(
      list.length
        ? { title: list.map((d) => d.title).join(', '), runs: list.flatMap((d) => d.runs as [number, number][]) }
        : null,
    ),
  { immediate: true },
)
onBeforeUnmount(() => mark(null))
function pick(rule: string) {
  picked.value = picked.value === rule ? '' : rule
  const first = doubts.value?.find((d) => d.rule === picked.value)?.runs[0]
  if (first) moment.pick(first[0])
}
</script>
<template>
  <section class="quality">
    <h3>Quality checks</h3>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <p v-else-if="doubts && !doubts.length" class="soft">
      <span class="good">✓</span> No doubts: possible limits and closure (BSRN), night values, clear-sky envelope
      (Ineichen and Perez 2002), repeated values, clock by month.
    </p>
    <table v-else-if="doubts" class="ledger" aria-label="Quality checks">
      <tbody>
        <tr v-for="d in doubts" :key="d.rule" :class="{ on: d.rule === picked }">
          <td>
            <button type="button" class="name" :aria-pressed="d.rule === picked" @click="pick(d.rule)">
              {{ d.title }}
            </button>
          </td>
          <td class="soft">{{ d.detail }}</td>
          <td class="num">{{ number(d.hours, d.hours < 10 ? 1 : 0) }} h</td>
        </tr>
      </tbody>
    </table>
    <p v-if="doubts?.length" class="soft small">
      Marked red on the Tideline; pick one to see it alone. Source:
      {{ [...new Set(doubts.map((d) => d.source))].join('; ') }}.
    </p>
  </section>
</template>
<style scoped>
.quality {
  font-size: 12.5px;
}
.name {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
  text-align: left;
}
.on td {
  background: var(--pick);
}
.small {
  font-size: 11.5px;
  margin-top: 4px;
}
</style>
