<script setup lang="ts">
import { useRoute } from 'vue-router'
import type { BriefRun } from '@/api/client'
import PartChoice from '@/parts/PartChoice.vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { azimuthWords } from '@/theme/format'
import { useWorking } from '@/stores/useWorking'
import BriefChoice from './BriefChoice.vue'
import BriefNumber from './BriefNumber.vue'
import BriefParagraph from './BriefParagraph.vue'

/** The Brief: the paragraphs come as data; values are those of the document as it stands here. */
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
/** A value that has just been deleted is no longer there to be edited. */
const stands = (pointer: string) => !/^\/(surfaces|subarrays|inverters)\//.test(pointer) || has(pointer)
const has = (pointer: string) => store.at(pointer.split('/').slice(0, 3).join('/')) !== undefined
const azimuth = (run: BriefRun) => azimuthWords((store.at(run.pointer!) as number | undefined) ?? 180)
</script>
<template>
  <div class="brief">
    <h2 class="sr">The Brief</h2>
    <BriefParagraph v-for="paragraph in store.evaluation?.brief ?? []" :key="paragraph.bench" :bench="paragraph.bench">
      <template v-for="(run, i) in paragraph.runs" :key="i"
        ><template v-if="run.kind === 'text'">{{ run.text }}</template
        ><router-link v-else-if="run.kind === 'link'" class="go" :to="benchOf(run)">{{ run.text }}</router-link
        ><button
          v-else-if="run.kind === 'figure'"
          type="button"
          class="go"
          :aria-label="`${run.text}: show its working`"
          @click="working.show(run.figure!)"
        >
          {{ run.text }}</button
        ><template v-else-if="!stands(run.pointer!)">–</template
        ><template v-else-if="run.kind === 'words'">, {{ azimuth(run) }}</template
        ><BriefNumber v-else-if="run.kind === 'value'" :pointer="run.pointer!" :label="run.label!" /><BriefChoice
          v-else-if="run.kind === 'choice'"
          :pointer="run.pointer!"
          :label="run.label!" /><PartChoice
          v-else-if="run.kind === 'part'"
          :kind="run.part as 'module' | 'inverter'"
          :pointers="run.pointers!"
          :value="String(store.at(run.pointer!) ?? run.text)"
          :label="run.label!"
      /></template>
    </BriefParagraph>
  </div>
</template>
<style scoped>
.brief {
  padding: 12px 10px 24px 22px;
  overflow-y: auto;
  height: 100%;
}
.go {
  text-decoration: none;
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
.go:hover {
  border-bottom-style: solid;
}
</style>
