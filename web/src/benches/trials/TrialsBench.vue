<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useTrials } from '@/stores/useTrials'
import { number } from '@/theme/format'
import BestRuns from './BestRuns.vue'
import RunEffects from './RunEffects.vue'
import RunFront from './RunFront.vue'
import RunLine from './RunLine.vue'
import RunMap from './RunMap.vue'
import RunTable from './RunTable.vue'
import InputSteps from './InputSteps.vue'
import StudyText from './StudyText.vue'
import TrialState from './TrialState.vue'
import DesignTo from '@/target/DesignTo.vue'
import { RUN_VIEWS, useRuns } from './useRuns'

/** Many designs at once: what is let loose, what is looked for, and the runs as a table, a map, a front and effects. */
const store = useSchemeStore()
const trials = useTrials()
const { view, go, of } = useRuns()
const wanted = computed(() => Number(of('set')) || undefined)
watch(
  () => store.saved?.id,
  (id) => id && void trials.read(wanted.value),
  { immediate: true },
)
// The set that is looked at has an address.
watch(
  () => trials.chosen?.id,
  (id) => id && id !== wanted.value && go({ set: String(id) }),
)
const set = computed(() => trials.chosen)
const isDesigning = ref(false)
const hasRuns = computed(() => Boolean(set.value && set.value.done))
const shown = computed(() => (hasRuns.value ? view.value : 'steps'))
const views = computed(() => RUN_VIEWS.filter((one) => hasRuns.value || one.key === 'steps'))
const STATES: Record<string, string> = {
  draft: 'draft',
  running: 'running',
  paused: 'paused',
  cancelled: 'cancelled',
  done: '',
  failed: 'failed',
  interrupted: 'interrupted',
}
const about = (line: { state: string; done: number; runs: number }) =>
  [STATES[line.state], line.state === 'draft' ? '' : number(line.done)].filter(Boolean).join(', ')
</script>
<template>
  <div class="bench trials">
    <header>
      <h2>Trials</h2>
      <div class="tools" role="group" aria-label="Sets of trials">
        <button type="button" class="link" :aria-expanded="isDesigning" @click="isDesigning = !isDesigning">
          Design to a target…
        </button>
        <button
          v-for="line in trials.lines.length > 1 ? trials.lines.slice(0, 6) : []"
          :key="line.id"
          type="button"
          class="link set"
          :aria-pressed="line.id === set?.id"
          @click="trials.look(line.id)"
        >
          {{ line.title }} <small class="soft">{{ about(line) }}</small>
        </button>
        <select
          v-if="trials.lines.length > 6"
          class="blank"
          aria-label="Earlier sets"
          @change="trials.look(Number(($event.target as HTMLSelectElement).value))"
        >
          <option value="">{{ trials.lines.length - 6 }} earlier…</option>
          <option v-for="line in trials.lines.slice(6)" :key="line.id" :value="line.id">{{ line.title }}</option>
        </select>
      </div>
    </header>
    <DesignTo v-if="isDesigning" @close="isDesigning = false" />
    <p v-if="!trials.isRead" class="empty soft" aria-busy="true">Reading the trials…</p>
    <template v-else>
      <p v-if="!set?.loose.length" class="serif invitation">
        Nothing is loose yet. Let a value of the Brief loose with the ring
        <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
          <circle cx="6" cy="6" r="4" fill="none" stroke="currentColor" stroke-width="1.5" stroke-dasharray="3 2" />
        </svg>
        beside it: a tilt, a battery, a module; or
        <button type="button" class="blank" @click="trials.letSizeLoose('array')">the size of the array</button>. Every
        combination becomes a design of its own, with its own year.
      </p>
      <StudyText v-else :key="set.id" :set="set" />
      <TrialState v-if="set?.loose.length" :set="set" />
      <BestRuns v-if="set && hasRuns" :set="set" />
      <nav v-if="store.evaluation?.headline" class="views" aria-label="Pictures of the runs">
        <button
          v-for="one in views"
          :key="one.key"
          type="button"
          :aria-pressed="shown === one.key"
          @click="go({ view: one.key })"
        >
          {{ one.title }}
        </button>
        <span v-if="hasRuns && set" class="files soft"
          >All runs as <a :href="api.trialFile(set.id, 'csv')">CSV</a>,
          <a :href="api.trialFile(set.id, 'xlsx')">XLSX</a>, <a :href="api.trialFile(set.id, 'parquet')">Parquet</a>;
          the <a :href="api.trialFile(set.id, 'study')">study</a></span
        >
      </nav>
      <template v-if="set && hasRuns">
        <RunTable v-if="shown === 'table'" :key="set.id" :set="set" />
        <RunMap v-else-if="shown === 'map'" :key="`m${set.id}`" :set="set" />
        <RunFront v-else-if="shown === 'front'" :key="`f${set.id}`" :set="set" />
        <RunEffects v-else-if="shown === 'effects'" :key="`e${set.id}`" :set="set" />
        <RunLine v-if="shown !== 'steps'" :set="set" />
      </template>
      <InputSteps v-if="shown === 'steps' && store.evaluation?.headline" />
    </template>
  </div>
</template>
<style scoped>
.trials {
  display: grid;
  gap: 8px;
  align-content: start;
  min-height: 100%;
  padding-bottom: 14px;
}
.invitation {
  font-size: 16px;
  line-height: 1.6;
  max-width: 60ch;
  padding: 8px 0 4px;
}
.set {
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.set[aria-pressed='true'] {
  font-weight: 600;
  text-decoration: none;
}
.views {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: baseline;
  border-bottom: 1px solid var(--rule-strong);
  padding-top: 4px;
}
.views button {
  padding: 3px 0 5px;
  color: var(--soft);
  border-bottom: 2px solid transparent;
  margin-bottom: -1px;
}
.views button[aria-pressed='true'] {
  color: var(--ink);
  font-weight: 600;
  border-bottom-color: var(--ink);
}
.files {
  margin-left: auto;
  font-size: 12px;
}
</style>
