<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import type { BriefRun } from '@/api/client'
import { BENCH_TITLES, type BenchName } from '@/benchNames'
import BriefRuns from './BriefRuns.vue'

/** A paragraph of the Brief: its heading leads to its bench and tells the state of its part of the store. */
const props = defineProps<{ bench: BenchName; runs: BriefRun[] }>()
const store = useSchemeStore()
const route = useRoute()
const state = computed(() => store.evaluation?.benches.find((bench) => bench.name === props.bench))
/** A paragraph that an edit, an undo or someone else has touched lights up for a moment. */
const touched = ref(false)
let timer = 0
watch(
  () => store.saved?.revision,
  () => {
    if (!store.saved?.changed.includes(props.bench)) return
    touched.value = true
    window.clearTimeout(timer)
    timer = window.setTimeout(() => {
      touched.value = false
    }, 700)
  },
)
onBeforeUnmount(() => window.clearTimeout(timer))
const here = computed(() => route.params.bench === props.bench)
const words = computed(() => {
  const s = state.value
  if (!s) return null
  if (s.state === 'unused') return null
  if (s.state === 'open') return { text: 'to do', tone: 'care' }
  if (s.errors) return { text: `${s.errors} to fix`, tone: 'bad' }
  if (s.cautions) return { text: `${s.cautions} caution${s.cautions > 1 ? 's' : ''}`, tone: 'care' }
  return { text: '✓', tone: 'good' }
})
</script>
<template>
  <section :class="{ here, touched }">
    <h3 class="cap">
      <router-link
        :to="{ name: 'bench', params: { ...route.params, bench }, query: route.query }"
        :aria-current="here ? 'page' : undefined"
        >{{ BENCH_TITLES[bench] }}</router-link
      >
      <span v-if="words" :class="words.tone"
        ><span v-if="words.text === '✓'" class="sr">fine</span>{{ words.text }}</span
      >
    </h3>
    <p><BriefRuns :runs="runs" /></p>
    <p v-if="state?.say" class="say care">{{ state.say }}</p>
  </section>
</template>
<style scoped>
section {
  padding: 7px 10px 9px 14px;
  border-left: 3px solid transparent;
  margin-left: -14px;
  border-radius: 0 8px 8px 0;
}
section {
  transition: border-color 0.4s;
}
section.touched {
  border-left-color: var(--yield) !important;
}
section.here {
  border-left-color: var(--ink);
  background: var(--sheet);
}
h3 {
  display: flex;
  justify-content: space-between;
  margin-bottom: 4px;
}
h3 span {
  letter-spacing: 0;
  text-transform: none;
  font-size: 11.5px;
}
a {
  text-decoration: none;
  color: var(--haze-text);
}
a:hover,
.here a {
  color: var(--ink);
}
p {
  font: 15px/1.55 var(--serif);
}
.say {
  font: 12.5px/1.4 var(--sans);
  margin-top: 3px;
}
</style>
