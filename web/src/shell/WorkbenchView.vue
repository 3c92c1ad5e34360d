<script setup lang="ts">
import { computed, defineAsyncComponent, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import BriefColumn from '@/brief/BriefColumn.vue'
import HeadlineColumn from '@/headline/HeadlineColumn.vue'
import TidelineStrip from '@/tideline/TidelineStrip.vue'
import WorkingPanel from '@/working/WorkingPanel.vue'
import TopBar from './TopBar.vue'
import { BENCH_TITLES, type BenchName } from '@/benchNames'
import { useNotice } from '@/notice/useNotice'
import { useTrials } from '@/stores/useTrials'
import { useRoute, useRouter } from 'vue-router'
import PrintedLine from './PrintedLine.vue'
import OpeningNotice from './OpeningNotice.vue'
import TakeAway from './TakeAway.vue'

const props = defineProps<{ project: number; scheme: number; bench: BenchName }>()
const store = useSchemeStore()
const library = useLibrary()
const fault = ref('')
const { warn } = useNotice()
const [route, router] = [useRoute(), useRouter()]
const BENCH_VIEWS = {
  site: defineAsyncComponent(() => import('@/benches/site/SiteBench.vue')),
  weather: defineAsyncComponent(() => import('@/benches/weather/WeatherBench.vue')),
  sky: defineAsyncComponent(() => import('@/benches/sky/SkyBench.vue')),
  surfaces: defineAsyncComponent(() => import('@/benches/surfaces/SurfacesBench.vue')),
  scene: defineAsyncComponent(() => import('@/benches/scene/SceneBench.vue')),
  circuits: defineAsyncComponent(() => import('@/benches/circuits/CircuitsBench.vue')),
  demand: defineAsyncComponent(() => import('@/benches/demand/DemandBench.vue')),
  storage: defineAsyncComponent(() => import('@/benches/storage/StorageBench.vue')),
  losses: defineAsyncComponent(() => import('@/benches/losses/LossesBench.vue')),
  hours: defineAsyncComponent(() => import('@/benches/hours/HoursBench.vue')),
  money: defineAsyncComponent(() => import('@/benches/money/MoneyBench.vue')),
  trials: defineAsyncComponent(() => import('@/benches/trials/TrialsBench.vue')),
  report: defineAsyncComponent(() => import('@/benches/report/ReportBench.vue')),
}
const view = computed(() => BENCH_VIEWS[props.bench])
const ready = computed(
  () => store.saved?.id === props.scheme && store.project?.id === props.project && library.parts.modules.length > 0,
)
const conflictWords = computed(() => {
  const [first] = store.conflicts
  if (!first) return ''
  const name = library.field(first.pointer)?.title || first.pointer
  const more = store.conflicts.length > 1 ? ` and ${store.conflicts.length - 1} more` : ''
  return `${name}${more} was changed elsewhere to ${JSON.stringify(first.theirs ?? null)}; your ${JSON.stringify(first.mine ?? null)} was not applied.`
})
watch(conflictWords, (words) => {
  if (words) warn(words, { label: 'Apply mine', run: () => store.applyMine() })
})
const trials = useTrials()
watch(
  () => trials.fault,
  (words) => words && warn(words),
)
/** Benches where time has no meaning fold it away. */
const hasTideline = computed(
  () => !['report', 'trials'].includes(props.bench) && (props.bench !== 'site' || store.evaluation?.headline),
)

async function open() {
  fault.value = ''
  try {
    const [, owner] = await Promise.all([library.read(), store.open(props.scheme)])
    // A scheme stands under its own project, whatever the address that led here said.
    if (owner !== props.project)
      await router.replace({ name: 'bench', params: { ...route.params, project: owner }, query: route.query })
  } catch (error) {
    fault.value = (error as Error).message
  }
}
onBeforeUnmount(() => store.close())
watch(() => [props.project, props.scheme], open, { immediate: true })
watch(
  () => [store.project?.name, props.bench],
  () => {
    document.title = `${store.project?.name ?? 'Noontide'}: ${BENCH_TITLES[props.bench]}`
  },
  { immediate: true },
)

/** The keyboard to a column of the workbench. */
const COLUMNS: Record<string, string> = {
  '1': '.brief-place',
  '2': '#bench',
  '3': 'aside[aria-label="Headline"]',
  '4': '.tideline',
}
function skip() {
  document.querySelector<HTMLElement>('#bench')?.focus()
}
function toColumn(key: string) {
  const column = document.querySelector<HTMLElement>(COLUMNS[key]!)
  const first = column?.querySelector<HTMLElement>('input, button, a[href], select, [tabindex="0"]')
  ;(key === '2' ? column : (first ?? column))?.focus()
}

function keys(event: KeyboardEvent) {
  if (event.altKey && !event.ctrlKey && !event.metaKey && COLUMNS[event.key]) {
    event.preventDefault()
    toColumn(event.key)
    return
  }
  const typing = (event.target as HTMLElement).closest('input, textarea, select')
  if ((event.ctrlKey || event.metaKey) && !event.altKey) {
    const key = event.key.toLowerCase()
    if (key === 'z' && !(typing as HTMLInputElement | null)?.closest('.picker')) {
      event.preventDefault()
      void (event.shiftKey ? store.redo() : store.undo())
    } else if (key === 'y') {
      event.preventDefault()
      void store.redo()
    }
  }
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
</script>
<template>
  <div class="workbench" :class="{ low: !hasTideline }">
    <a class="skip" href="#bench" @click.prevent="skip">Skip to the bench</a>
    <TopBar />
    <PrintedLine v-if="ready" />
    <TakeAway v-if="ready" />
    <template v-if="ready">
      <nav class="brief-place" aria-label="The Brief"><BriefColumn /></nav>
      <main id="bench" tabindex="-1" :aria-label="BENCH_TITLES[bench]">
        <h1 class="sr">{{ store.project?.name ?? 'Noontide' }}: {{ BENCH_TITLES[bench] }}</h1>
        <component :is="view" :key="scheme" /><WorkingPanel />
      </main>
      <aside aria-label="Headline"><HeadlineColumn /></aside>
      <TidelineStrip v-if="hasTideline" />
    </template>
    <main v-else class="waiting" :aria-busy="!fault">
      <OpeningNotice :fault="fault" title="This scheme cannot be shown." waiting="Reading the scheme…" @retry="open" />
    </main>
  </div>
</template>
<style scoped>
.skip {
  position: absolute;
  left: 12px;
  top: -60px;
  z-index: 900;
  padding: 6px 12px;
  background: var(--sheet);
  border: 1px solid var(--ink);
  border-radius: 6px;
}
.skip:focus {
  top: 8px;
}
.workbench {
  display: grid;
  height: 100vh;
  grid-template: 48px minmax(0, 1fr) 122px / minmax(270px, 316px) minmax(0, 1fr) 224px;
  overflow: hidden;
}
.workbench.low {
  grid-template-rows: 48px minmax(0, 1fr) 0;
}
.brief-place {
  grid-row: 2;
  min-height: 0;
}
main {
  grid-row: 2;
  grid-column: 2;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-width: 0 1px;
  position: relative;
  overflow: auto;
  min-height: 0;
}
aside {
  grid-row: 2;
  overflow-y: auto;
  position: relative;
  padding: 12px 16px 20px;
  min-height: 0;
}
.waiting {
  grid-column: 1 / -1;
  grid-row: 2 / -1;
  display: grid;
  align-content: center;
  justify-items: center;
  gap: 12px;
}
@media (max-width: 1150px) {
  .workbench {
    grid-template-columns: 270px minmax(0, 1fr) 200px;
  }
}
/* Enlarged, or on a small screen: the columns one under another, the bench first. */
@media (max-width: 999px) {
  .workbench {
    display: flex;
    flex-direction: column;
    height: auto;
    min-height: 100vh;
    overflow: visible;
  }
  main {
    order: 1;
    border-width: 1px 0;
    overflow-x: auto;
    overflow-y: visible;
  }
  main > .scene {
    height: 80vh;
  }
  .workbench :deep(.tideline) {
    order: 2;
    min-height: 122px;
  }
  .brief-place {
    order: 3;
  }
  aside {
    order: 4;
    overflow: visible;
  }
}
</style>
