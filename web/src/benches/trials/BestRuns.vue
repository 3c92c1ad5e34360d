<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, type TrialAnswer } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import NumberField from '@/brief/NumberField.vue'
import { number } from '@/theme/format'
import { figureWords, shortTitle, useLooseWords } from './runText'
import { useRuns } from './useRuns'

/** The best run, how many are as good within a share of it, and what these have in common. */
const props = defineProps<{ set: TrialAnswer }>()
const { stamp, aim, columns, loose, hovered, selected, go } = useRuns()
const { words } = useLooseWords()
const share = ref(2)
const { answer, fault } = useAnswer(
  () =>
    stamp.value && aim.value
      ? `${stamp.value} ${aim.value.figure} ${JSON.stringify(props.set.study?.limits)} ${share.value}`
      : null,
  (signal) => api.trialGood(props.set.id, { share: share.value }, signal),
)
const best = computed(() => answer.value?.rows[0] ?? null)
const column = computed(() => columns.value.find((one) => one.key === answer.value?.figure) ?? null)
</script>
<template>
  <p v-if="fault" class="bad">{{ fault }}</p>
  <p v-else-if="answer && column" class="best serif">
    <template v-if="best">
      The best is
      <button
        type="button"
        class="blank"
        @click="selected = best.number"
        @pointerenter="hovered = best.number"
        @pointerleave="hovered = null"
      >
        run {{ best.number }}</button
      >,
      {{
        column.title.toLowerCase() === column.title
          ? column.title
          : column.title.charAt(0).toLowerCase() + column.title.slice(1)
      }}
      <b>{{ figureWords(best.figures[column.key], column) }}</b> with
      <template v-for="(one, k) in loose" :key="one.key"
        >{{ k ? ', ' : '' }}{{ shortTitle(one) }} {{ words(best.values[one.key], one) }}</template
      >. Of {{ number(answer.designs) }} different designs that keep the limits,
      <button type="button" class="blank" @click="go({ view: 'table', good: '1' })">{{ number(answer.count) }}</button>
      {{ answer.count === 1 ? 'is' : 'are' }} as good within
      <NumberField
        class="blank share"
        :value="share"
        :limits="{ min: 0, max: 100 }"
        aria-label="Share of the best within which a design is as good"
        @change="share = $event ?? share"
      />
      %. {{ answer.common.join(' ') }}
    </template>
    <template v-else>No run keeps every limit.</template>
  </p>
</template>
<style scoped>
.best {
  font-size: 15.5px;
  line-height: 1.65;
  max-width: 84ch;
  padding: 6px 0 2px;
}
.best :deep(.share) {
  width: 24px;
}
</style>
