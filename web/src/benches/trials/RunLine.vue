<script setup lang="ts">
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type TrialAnswer } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { figureWords, shortTitle, useLooseWords } from './runText'
import { useRuns } from './useRuns'

/** The run that is pointed at or selected: its values and figures, and what can be made of it. */
const props = defineProps<{ set: TrialAnswer }>()
const store = useSchemeStore()
const [route, router] = [useRoute(), useRouter()]
const { say, warn } = useNotice()
const { hovered, selected, columns, loose, aim, figure } = useRuns()
const { words } = useLooseWords()
const shown = computed(() => hovered.value ?? selected.value)
const { answer } = useAnswer(
  () => (shown.value === null ? null : `${props.set.id} ${shown.value} ${JSON.stringify(props.set.study?.limits)}`),
  (signal) => api.trialRun(props.set.id, shown.value!, signal),
)
const run = computed(() => answer.value?.rows[0] ?? null)
/** The figures that say the most about it: what is aimed at, what is drawn, then the first of the Headline. */
const told = computed(() => {
  const wanted = [aim.value?.figure, figure.value, 'energy', 'specific_yield', 'payback', 'self_sufficiency', 'errors']
  return [...new Set(wanted)].flatMap((key) => columns.value.filter((one) => one.key === key)).slice(0, 5)
})
async function adopt(pin: boolean) {
  const number = selected.value
  if (number === null) return
  try {
    await store.flush()
    const made = await api.adoptRun(props.set.id, number, pin)
    await store.readProject()
    await store.readPinned()
    const to = { name: 'bench', params: { ...route.params, scheme: made.id, bench: 'surfaces' } }
    say(`Run ${number} is scheme ${made.letter}${pin ? ', and the baseline' : ''}.`, {
      label: `Open ${made.letter}`,
      run: () => void router.push(to),
    })
  } catch (error) {
    warn((error as Error).message)
  }
}
</script>
<template>
  <div class="line" aria-live="polite">
    <template v-if="run">
      <span
        ><b>Run {{ run.number }}</b
        >:
        <template v-for="(one, k) in loose" :key="one.key"
          >{{ k ? ', ' : '' }}{{ shortTitle(one) }} {{ words(run.values[one.key], one) }}</template
        ></span
      >
      <span v-if="run.state === 'failed'" class="bad">{{ run.error }}</span>
      <span v-for="one in told" v-else :key="one.key" class="soft"
        >{{ one.title }} {{ figureWords(run.figures[one.key], one) }}</span
      >
      <span v-if="run.broken.length" class="care"
        >△ {{ run.broken.length }} limit{{ run.broken.length > 1 ? 's' : '' }} broken</span
      >
      <span v-if="selected === run.number && run.state === 'done'" class="acts-here">
        <button type="button" class="button" @click="adopt(false)">Adopt as a scheme</button>
        <button type="button" class="link" @click="adopt(true)">Adopt and pin</button>
        <button type="button" class="link" @click="selected = null">Let go</button>
      </span>
      <span v-else class="soft">click to select it</span>
    </template>
    <span v-else class="soft">Point at a run to read it; select one to adopt it as a scheme.</span>
  </div>
</template>
<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 2px 16px;
  min-height: 52px;
  align-content: flex-start;
  border-top: 1px solid var(--rule);
  padding-top: 6px;
  font-size: 12.5px;
}
.acts-here {
  display: inline-flex;
  gap: 12px;
  align-items: baseline;
  margin-left: auto;
}
</style>
