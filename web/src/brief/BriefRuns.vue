<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { BriefRun } from '@/api/client'
import PartChoice from '@/parts/PartChoice.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { azimuthWords, spoken } from '@/theme/format'
import { useWorking } from '@/stores/useWorking'
import BriefChoice from './BriefChoice.vue'
import BriefNumber from './BriefNumber.vue'
import LooseMark from './LooseMark.vue'

/** The text of a paragraph: its values are those of the document as it stands here. */
const props = defineProps<{ runs: BriefRun[] }>()
const store = useSchemeStore()
const route = useRoute()
const working = useWorking()
const benchOf = (run: BriefRun) => ({
  name: 'bench',
  params: { ...route.params, bench: run.bench },
  query: {
    ...route.query,
    ...(run.surface ? { surface: run.surface } : {}),
    ...(run.thing ? { thing: run.thing } : {}),
  },
})
/** On the bench Trials a value can be let loose where it stands. */
const isTrying = computed(() => route.params.bench === 'trials')
/** A value that has just been deleted is no longer there to be edited. */
const stands = (pointer: string) => !/^\/(surfaces|subarrays|inverters)\//.test(pointer) || has(pointer)
const has = (pointer: string) => store.at(pointer.split('/').slice(0, 3).join('/')) !== undefined
/** What a run says of the document besides what its own field reads there; null where its value was deleted. */
function ownText(run: BriefRun): string | null {
  if (!run.pointer || ['text', 'link', 'figure'].includes(run.kind)) return ''
  if (!stands(run.pointer)) return null
  if (run.kind === 'words') return azimuthWords((store.at(run.pointer) as number | undefined) ?? 180)
  return run.kind === 'part' ? String(store.at(run.pointer) ?? run.text) : ''
}
// As one text, so that an edit of another value leaves the paragraph as it is.
const ownTexts = computed(() => JSON.stringify(props.runs.map(ownText)))
const texts = computed(() => JSON.parse(ownTexts.value) as (string | null)[])
</script>
<template>
  <template v-for="(run, i) in runs" :key="i"
    ><template v-if="run.kind === 'text'">{{ spoken(run.text) }}</template
    ><router-link v-else-if="run.kind === 'link'" class="go" :to="benchOf(run)">{{ spoken(run.text) }}</router-link
    ><button
      v-else-if="run.kind === 'figure'"
      type="button"
      class="go"
      :aria-label="`${run.text}: show its working`"
      @click="working.show(run.figure!)"
    >
      {{ spoken(run.text) }}</button
    ><template v-else-if="texts[i] === null">–</template
    ><template v-else-if="run.kind === 'words'">, {{ texts[i] }}</template
    ><BriefNumber v-else-if="run.kind === 'value'" :pointer="run.pointer!" :label="run.label!" /><BriefChoice
      v-else-if="run.kind === 'choice'"
      :pointer="run.pointer!"
      :label="run.label!" /><PartChoice
      v-else-if="run.kind === 'part'"
      :kind="run.part as 'module' | 'inverter'"
      :pointers="run.pointers!"
      :value="texts[i]!"
      :label="run.label!" /><LooseMark
      v-if="isTrying && texts[i] !== null && ['value', 'choice', 'part'].includes(run.kind)"
      :pointers="run.kind === 'part' ? run.pointers! : [run.pointer!]"
      :label="run.label!"
  /></template>
</template>
<style scoped>
.go {
  text-decoration: none;
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.go:hover {
  border-bottom-style: solid;
}
</style>
