<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefParagraph from './BriefParagraph.vue'

/** The Brief: the paragraphs come as data. */
const store = useSchemeStore()
const route = useRoute()
const toTakeAway = computed(() => ({ query: { ...route.query, act: 'take-away' } }))
const toTrials = computed(() => ({ name: 'bench', params: { ...route.params, bench: 'trials' }, query: route.query }))
const toReport = computed(() => ({ name: 'bench', params: { ...route.params, bench: 'report' }, query: route.query }))
</script>
<template>
  <div class="brief">
    <h2 class="sr">The Brief</h2>
    <BriefParagraph
      v-for="paragraph in store.evaluation?.brief ?? []"
      :key="paragraph.bench"
      :bench="paragraph.bench"
      :runs="paragraph.runs"
    />
    <section v-if="store.evaluation?.brief.length" :class="{ here: route.params.bench === 'trials' }">
      <h3 class="cap"><router-link :to="toTrials">Trials</router-link></h3>
      <p><router-link class="go" :to="toTrials">Many designs at once</router-link>.</p>
    </section>
    <section v-if="store.evaluation?.brief.length" :class="{ here: route.params.bench === 'report' }">
      <h3 class="cap"><router-link :to="toReport">Report</router-link></h3>
      <p>
        <router-link class="go" :to="toReport">The design on paper</router-link>, for the one who reads it; or
        <router-link class="go" :to="toTakeAway">take it away</router-link> as files.
      </p>
    </section>
  </div>
</template>
<style scoped>
.brief {
  padding: 12px 10px 24px 22px;
  overflow-y: auto;
  /* Words for a screen reader lie inside of it, and make the page no longer than the window. */
  position: relative;
  height: 100%;
}
section {
  padding: 7px 10px 9px 14px;
  border-left: 3px solid transparent;
  margin-left: -14px;
  border-radius: 0 8px 8px 0;
}
section.here {
  border-left-color: var(--ink);
  background: var(--sheet);
}
section p {
  margin: 4px 0 0;
  font: 15px/1.55 var(--serif);
}
.cap a,
.go {
  text-decoration: none;
}
.cap a {
  color: var(--haze-text);
}
.go {
  font-weight: 600;
  border-bottom: 1.5px dotted var(--haze);
}
</style>
