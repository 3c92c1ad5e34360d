<script setup lang="ts">
import { useRoute } from 'vue-router'
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useWorking } from '@/stores/useWorking'
import { energy, energyChange, figureText, signed } from '@/theme/format'
import type { FigureText } from '@/api/client'
import { useLibrary } from '@/stores/library'
import MonthBars from '@/charts/MonthBars.vue'
import CheckList from './CheckList.vue'

const store = useSchemeStore()
const route = useRoute()
const library = useLibrary()
const working = useWorking()
const now = computed(() => store.evaluation?.headline ?? null)
const base = computed(() => store.pinnedEvaluation?.headline ?? null)

/** The annual energy is the large figure; the others follow as the design has them. */
const rows = computed(() => (store.evaluation?.figures ?? []).filter((f) => f.key !== 'energy'))
const pinned = computed(() => new Map((store.pinnedEvaluation?.figures ?? []).map((f) => [f.key, f])))
const better = computed(() => new Map(library.figures.map((f) => [f.key, f.better])))
/** The change against the pinned scheme, and whether it is a gain (1), a loss (-1) or neither. */
function change(figure: FigureText): { text: string; gain: number } | null {
  const before = pinned.value.get(figure.key)?.value
  if (figure.value === null || before === null || before === undefined) return null
  const by = (figure.value - before) * (figure.is_percentage ? 100 : 1)
  const size = Math.round(by * 10 ** figure.decimals)
  const way = better.value.get(figure.key)
  const gain = way ? Math.sign(size) * (way === 'more' ? 1 : -1) : 0
  return { text: signed(by, figure.decimals), gain }
}
const problem = computed(() => store.evaluation?.problem ?? null)
/** The bench on which the reason of a failure is edited; none where it is unknown. */
const failing = computed(() =>
  problem.value?.pointer ? store.evaluation?.checks.find((check) => check.rule === 'evaluation')?.bench : undefined,
)
</script>
<template>
  <h2 class="sr">Headline</h2>
  <div v-if="now" :class="{ stale: store.isStale }" :aria-busy="store.isStale">
    <button type="button" class="big" @click="working.show('energy')">
      <span class="sr">Show the working of</span><span class="soft">Annual energy</span>
      <span class="serif figure"
        >{{ energy(now.energy).value }} <small>{{ energy(now.energy).unit }}</small></span
      >
    </button>
    <p v-if="base" class="change" :class="now.energy >= base.energy ? 'good' : 'bad'">
      {{ energyChange(now.energy - base.energy, now.energy) }} against {{ store.pinnedLetter }}
    </p>
    <p v-else class="soft change">Baseline: other schemes are compared with this one</p>
    <p v-if="store.isOffline" class="bad stale-note" role="status">
      Server unreachable. These figures are out of date.
    </p>
    <p v-else-if="store.shown?.revision !== store.saved?.revision" class="soft stale-note" role="status">
      Figures of an earlier revision; calculating…
    </p>
    <dl>
      <div v-for="row in rows" :key="row.key">
        <dt>
          <button type="button" :aria-label="`${row.title}: show its working`" @click="working.show(row.key)">
            {{ row.title }}
          </button>
        </dt>
        <dd>{{ figureText(row) }}</dd>
        <dd
          v-if="change(row)"
          class="delta"
          :class="{ good: change(row)!.gain > 0, bad: change(row)!.gain < 0, soft: change(row)!.gain === 0 }"
        >
          {{ change(row)!.text }}
        </dd>
      </div>
    </dl>
    <MonthBars
      :values="now.monthly_energy"
      :against="base?.monthly_energy"
      unit="kWh"
      label="Energy delivered by month"
      :against-name="`scheme ${store.pinnedLetter}`"
    />
  </div>
  <div v-else class="empty">
    <template v-if="store.evaluation?.state === 'pending'">
      <p class="serif">Calculating…</p>
      <p class="soft">The first figures of this scheme.</p>
    </template>
    <template v-else-if="problem">
      <p class="serif">No figures.</p>
      <p class="bad">{{ problem.title }}</p>
      <p class="soft detail">{{ problem.detail }}</p>
      <router-link
        v-if="failing && route.params.bench !== failing"
        class="link"
        :to="{ name: 'bench', params: { ...route.params, bench: failing }, query: route.query }"
        >Show</router-link
      >
    </template>
    <template v-else>
      <p class="serif">No figures yet.</p>
      <p class="soft">
        {{ store.evaluation?.benches.find((b) => b.say)?.say ?? 'Fix the items marked in the Brief.' }}
      </p>
    </template>
  </div>
  <CheckList />
</template>
<style scoped>
.detail {
  overflow-wrap: anywhere;
}
.big {
  display: grid;
  width: 100%;
}
.figure {
  font-size: 31px;
  font-weight: 600;
  line-height: 1.12;
}
.figure small {
  font-size: 17px;
  font-weight: 600;
}
.change {
  font-weight: 600;
  font-size: 12px;
}
.change.soft {
  font-weight: 400;
}
.stale-note {
  font-size: 12px;
  margin-top: 6px;
}
.stale .figure,
.stale dd {
  opacity: 0.55;
  transition: opacity 0.15s 0.25s;
}
dl {
  margin: 10px 0 12px;
  display: grid;
  gap: 4px;
  font-size: 12.5px;
}
dl div {
  display: grid;
  grid-template-columns: 1fr auto;
  column-gap: 8px;
}
dt button {
  color: var(--soft);
  border-bottom: 1px dotted transparent;
}
dt button:hover {
  color: var(--ink);
  border-color: var(--haze);
}
dd {
  margin: 0;
  font-weight: 600;
  text-align: right;
  white-space: nowrap;
}
.delta {
  grid-column: 2;
  font-size: 11px;
  line-height: 1.2;
}
.empty {
  display: grid;
  gap: 6px;
  margin: 8px 0 18px;
}
.empty .serif {
  font-size: 22px;
  font-weight: 600;
}
</style>
