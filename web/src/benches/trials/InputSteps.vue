<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { api, type SensitivityFound } from '@/api/client'
import { useDrawnWidth } from '@/charts/useDrawnWidth'
import { scale } from '@/charts/picture'
import { useJob } from '@/stores/useJob'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { decimalsFor, number, percent, signed } from '@/theme/format'
import { fieldText, shownUnit } from '@/theme/habits'
import { useRuns } from './useRuns'

/** What a step more and a step less of each input does to a figure of the design, the largest change first. */
const store = useSchemeStore()
const library = useLibrary()
const { of, go } = useRuns()
const SHOWN = 18
const figures = computed(() => (store.evaluation?.figures ?? []).filter((one) => one.value !== null))
const figure = computed(() => {
  const asked = of('figure')
  return figures.value.some((one) => one.key === asked) ? asked : (figures.value[0]?.key ?? '')
})
const column = computed(() => figures.value.find((one) => one.key === figure.value) ?? null)
const found = ref<SensitivityFound | null>(null)
const fault = ref('')
const { job, run, cancel } = useJob()
const isOld = computed(() => found.value !== null && found.value.revision !== store.saved?.revision)
const isOther = computed(() => found.value !== null && found.value.figure !== figure.value)
async function begin() {
  if (!store.saved || job.value) return
  fault.value = ''
  try {
    await store.flush()
    found.value = await run(store.saved.id, 'sensitivity', { figure: figure.value })
  } catch (error) {
    fault.value = (error as Error).message
  }
}
watch(
  () => store.saved?.id,
  async (id) => {
    found.value = null
    if (!id) return
    const last = await api.latestJob(id, 'sensitivity').catch(() => undefined)
    if (store.saved?.id === id && last?.result) found.value = last.result
  },
  { immediate: true },
)
const isAll = ref(false)
const steps = computed(() =>
  isOther.value ? [] : (found.value?.steps ?? []).slice(0, isAll.value ? undefined : SHOWN),
)
const reach = computed(() => {
  const own = found.value?.value ?? 0
  const size = steps.value.flatMap((one) => [one.lower, one.higher]).map((v) => (v === null ? 0 : Math.abs(v - own)))
  return Math.max(...size, 1e-9)
})
const [ROW, NAME] = [23, 262]
const width = useDrawnWidth(useTemplateRef('chart'), 680, 420)
const x = computed(() => scale([-reach.value, reach.value], [NAME + 62, width.value - 62]))
const better = computed(() => library.figures.find((one) => one.key === figure.value)?.better ?? '')
const tone = (by: number) => (!better.value || !by ? 'plain' : by > 0 === (better.value === 'more') ? 'gain' : 'harm')
function change(value: number | null): string {
  if (value === null) return 'refused'
  const by = value - (found.value?.value ?? 0)
  if (column.value?.is_percentage) return signed(by * 100, 2)
  const decimals = Math.abs(by) >= 100 ? 0 : Math.abs(by) >= 1 ? 1 : 3
  return signed(by, decimals)
}
const ownText = computed(() => {
  const { value } = found.value ?? { value: 0 }
  const c = column.value
  return !c
    ? ''
    : c.is_percentage
      ? percent(value, c.decimals)
      : `${number(value, decimalsFor(value, c.decimals))} ${shownUnit(c.unit)}`
})
</script>
<template>
  <div class="steps">
    <p class="serif said">
      What one step more and one step less of each input does to
      <select
        class="blank"
        :value="figure"
        aria-label="Figure"
        @change="go({ figure: ($event.target as HTMLSelectElement).value })"
      >
        <option v-for="one in figures" :key="one.key" :value="one.key">{{ one.title }}</option></select
      >.
      <template v-if="job"
        ><progress :value="job.progress" max="1" aria-label="Progress of the steps" />
        <span class="soft">{{ job.message }}</span>
        <button type="button" class="link" @click="cancel">Cancel</button></template
      >
      <button v-else type="button" class="button" @click="begin">
        {{ found && !isOther ? 'Take the steps again' : 'Take the steps' }}
      </button>
      <span v-if="isOld && !isOther" class="care"> △ Out of date: of revision {{ found!.revision }}.</span>
    </p>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div v-if="steps.length" ref="chart" :class="{ old: isOld }">
      <svg
        class="drawing"
        :viewBox="`0 0 ${width} ${steps.length * ROW + 26}`"
        width="100%"
        :height="steps.length * ROW + 26"
        role="img"
        :aria-label="`Steps of ${steps.length} inputs, the largest change first`"
      >
        <text :x="x(0)" y="14" font-size="11.5" text-anchor="middle" style="fill: var(--soft)">{{ ownText }}</text>
        <line :x1="x(0)" :x2="x(0)" y1="20" :y2="steps.length * ROW + 24" style="stroke: var(--haze)" />
        <g v-for="(one, k) in steps" :key="one.pointer" :transform="`translate(0 ${k * ROW + 24})`">
          <text x="0" y="14" font-size="12" style="fill: var(--ink)">
            {{ one.title.length > 34 ? `${one.title.slice(0, 33)}…` : one.title }}
            <title>{{ one.title }}</title>
          </text>
          <text :x="NAME - 8" y="14" font-size="11" text-anchor="end" style="fill: var(--soft)">
            ± {{ fieldText(one.step) }} {{ one.unit }}
          </text>
          <template
            v-for="[value, side] in [
              [one.lower, '−'],
              [one.higher, '+'],
            ] as const"
            :key="side"
          >
            <template v-if="value !== null">
              <rect
                :x="Math.min(x(0), x(value - found!.value))"
                y="3"
                :width="Math.max(0.5, Math.abs(x(value - found!.value) - x(0)))"
                :height="side === '−' ? 7 : 7"
                :transform="side === '−' ? '' : 'translate(0 8)'"
                :class="tone(value - found!.value)"
                :fill-opacity="side === '−' ? 0.55 : 1"
              />
              <text
                v-if="value !== found!.value"
                :x="x(value - found!.value) + (value < found!.value ? -5 : 5)"
                :y="side === '−' ? 9.5 : 18"
                font-size="9.5"
                :text-anchor="value < found!.value ? 'end' : 'start'"
                style="fill: var(--soft)"
              >
                {{ change(value) }}
              </text>
            </template>
          </template>
        </g>
      </svg>
      <p class="legend soft">
        Above, pale: a step less. Below: a step more. {{ number(found!.without) }} inputs change nothing by a step.
        <button v-if="found!.steps.length > SHOWN" type="button" class="link" @click="isAll = !isAll">
          {{ isAll ? 'the largest alone' : `all ${found!.steps.length}` }}
        </button>
      </p>
    </div>
    <p v-else-if="!job" class="soft">
      Each input goes a step of its field up and down, the design is simulated each time, and the changes stand here by
      their size.
    </p>
  </div>
</template>
<style scoped>
.said {
  font-size: 14.5px;
  line-height: 1.8;
}
.old {
  opacity: 0.6;
}
.gain {
  fill: var(--yield);
}
.harm {
  fill: var(--loss);
}
.plain {
  fill: var(--current);
}
.legend {
  font-size: 12px;
}
</style>
