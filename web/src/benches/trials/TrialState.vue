<script setup lang="ts">
import { computed, ref } from 'vue'
import type { TrialAnswer } from '@/api/client'
import { useTrials } from '@/stores/useTrials'
import { number } from '@/theme/format'

/** How far a study is: what it comes to before it is begun, its progress, its end, and whether the design has changed since. */
const props = defineProps<{ set: TrialAnswer }>()
const trials = useTrials()
const isAsking = ref(false)
const outlook = computed(() => props.set.outlook)
const duration = (seconds: number) =>
  seconds < 1.5
    ? 'about a second'
    : seconds < 90
      ? `about ${number(seconds)} s`
      : seconds < 5400
        ? `about ${number(seconds / 60)} min`
        : `about ${number(seconds / 3600, 1)} h`
const left = computed(() => {
  const { done, runs, seconds } = props.set
  return done && seconds ? ((runs - done) * seconds) / done : 0
})
const share = computed(() => (props.set.runs ? props.set.done / props.set.runs : 0))
const count = (n: number, noun: string) => `${number(n)} ${noun}${n === 1 ? '' : 's'}`
const isOpen = computed(() => ['paused', 'cancelled', 'interrupted', 'failed'].includes(props.set.state))
const WORDS: Record<string, string> = {
  paused: 'Paused',
  cancelled: 'Cancelled',
  interrupted: 'Interrupted by a server restart',
  failed: 'Ended',
}
</script>
<template>
  <div class="state" role="status">
    <template v-if="set.state === 'draft' && outlook">
      <template v-if="outlook.problem"
        ><p class="bad">{{ outlook.problem }}</p></template
      >
      <template v-else>
        <button type="button" class="button strong" :disabled="trials.isBusy" @click="trials.start">
          Run {{ count(outlook.runs, 'design') }}
        </button>
        <span class="soft"
          >{{ count(outlook.solar_years, 'solar year') }}
          {{ outlook.solar_years < outlook.runs ? 'between them' : '' }}, {{ duration(outlook.seconds) }} in one
          process</span
        >
      </template>
    </template>
    <template v-else-if="set.state === 'running'">
      <progress :value="share" max="1" aria-label="Progress of the trials" />
      <span>{{ number(set.done) }} of {{ number(set.runs) }} designs</span>
      <span v-if="left > 2" class="soft">{{ duration(left) }} left</span>
      <span v-if="set.message" class="care">△ {{ set.message }}</span>
      <button type="button" class="link" @click="trials.pause">Pause</button>
      <button type="button" class="link" @click="trials.cancel">Cancel</button>
    </template>
    <template v-else>
      <span v-if="isOpen" class="care"
        >△ {{ WORDS[set.state] }} after {{ number(set.done) }} of {{ number(set.runs) }} designs{{
          set.state === 'failed' && set.message ? `: ${set.message}` : '.'
        }}</span
      >
      <button
        v-if="isOpen && set.done < set.runs"
        type="button"
        class="button"
        :disabled="trials.isBusy"
        @click="trials.start"
      >
        Run the rest
      </button>
      <span v-if="set.state === 'done'" class="soft"
        >{{ count(set.done, 'design') }} in
        {{ set.seconds < 9.5 ? number(set.seconds, 1) : number(set.seconds) }} s<template v-if="set.failed"
          >, {{ number(set.failed) }} without a year</template
        ><template v-if="set.kept < set.done - set.failed">; {{ number(set.kept) }} keep every limit</template>.</span
      >
      <span v-if="set.changed.length" class="care">△ Out of date: {{ set.changed.join(', ') }} changed since.</span>
      <button type="button" class="link" :disabled="trials.isBusy" @click="trials.again">
        {{ set.changed.length ? 'Run them on the design as it is now' : 'Run again' }}
      </button>
      <button v-if="!isAsking" type="button" class="link" @click="isAsking = true">Delete…</button>
      <template v-else>
        <button type="button" class="link bad" @click="trials.remove">Delete these {{ number(set.done) }} runs</button>
        <button type="button" class="link" @click="isAsking = false">Keep them</button>
      </template>
    </template>
  </div>
</template>
<style scoped>
.state {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 3px 14px;
  min-height: 28px;
}
progress {
  width: 180px;
  align-self: center;
}
</style>
