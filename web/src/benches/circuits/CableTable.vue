<script setup lang="ts">
import { computed, ref } from 'vue'
import type { RunLine } from '@/api/client'
import { patchAt } from '@/api/mergePatch'
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import CopyTable from '@/tables/CopyTable.vue'
import { number, quantity } from '@/theme/format'

/** One row a run: what it is asked to carry, and how near its limits it is. */
const props = defineProps<{ runs: RunLine[]; picked: string }>()
const emit = defineEmits<{ pick: [pointer: string] }>()
const store = useSchemeStore()
const MANY = 12
const SECTIONS = [1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95, 120, 150, 185, 240]
const LAYINGS = ['open air', 'surface', 'conduit', 'buried']
const WORDS = { string: 'String cable', 'DC main': 'DC main', AC: 'AC cable', 'AC main': 'AC main' } as const
const filter = ref('')
const all = ref(false)
const fitting = computed(() =>
  props.runs.filter((r) => `${WORDS[r.kind]} ${r.serves}`.toLowerCase().includes(filter.value.trim().toLowerCase())),
)
const drawn = computed(() => (all.value ? fitting.value : fitting.value.slice(0, MANY)))
const layings = (run: RunLine) =>
  LAYINGS.filter((l) => l !== 'open air' || run.kind === 'string' || run.kind === 'DC main').map((l) => ({
    value: l,
    text: l === 'surface' ? 'on a surface' : l === 'open air' ? 'in open air' : l === 'conduit' ? 'in conduit' : l,
  }))
const metals = [
  { value: 'copper', text: 'copper' },
  { value: 'aluminium', text: 'aluminium' },
]
/** A share of a limit as the length of a bar; a third of the bar lies beyond the limit. */
const share = (value: number, limit: number) => Math.min(1, limit > 0 ? value / limit / 1.35 : 1)
const over = (value: number, limit: number) => value > limit * (1 + 1e-6)
const setSection = (run: RunLine, text: string) =>
  store.edit(patchAt(`${run.pointer}/section`, text === '' ? null : Number(text)))
/** A run by its kind and what it serves. */
const nameOf = (run: RunLine) => `the ${WORDS[run.kind].replace(/^S/, 's')}${run.serves ? ` of ${run.serves}` : ''}`
const mainOf = (run: RunLine) => `/subarrays/${run.owner}/main_cable`
</script>
<template>
  <div class="cables">
    <p v-if="runs.length > MANY" class="filter">
      <input v-model="filter" class="field" type="search" placeholder="Filter cables" aria-label="Filter cables" />
      <span class="soft">{{ drawn.length }} of {{ runs.length }} shown</span>
    </p>
    <table class="ledger">
      <thead>
        <tr>
          <th scope="col">Cable</th>
          <th scope="col">Length</th>
          <th scope="col">Conductor and laying</th>
          <th scope="col">Section</th>
          <th scope="col">Current of ampacity</th>
          <th scope="col">Voltage drop</th>
          <th scope="col"><span class="sr">Act</span></th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="run in drawn"
          :key="run.pointer"
          :class="{ on: run.pointer === picked }"
          @click="emit('pick', run.pointer)"
        >
          <th scope="row">
            <button type="button" :aria-pressed="run.pointer === picked" @click.stop="emit('pick', run.pointer)">
              {{ WORDS[run.kind] }}
            </button>
            <span class="soft owner">{{ run.serves }}{{ run.count > 1 ? ` × ${number(run.count)}` : '' }}</span>
          </th>
          <td><BriefNumber :pointer="`${run.pointer}/length`" :label="`Length of ${nameOf(run)}`" /></td>
          <td class="how">
            <BriefChoice
              :pointer="`${run.pointer}/conductor`"
              :label="`Conductor of ${nameOf(run)}`"
              :options="metals"
            />
            <BriefChoice
              :pointer="`${run.pointer}/laying`"
              :label="`Laying of ${nameOf(run)}`"
              :options="layings(run)"
            />
            <span class="soft"
              >{{ quantity(run.ambient, '°C') }},
              <BriefNumber :pointer="`${run.pointer}/circuits`" :label="`Circuits side by side of ${nameOf(run)}`" />
              side by side</span
            >
          </td>
          <td>
            <select
              class="blank"
              :value="run.is_proposed ? '' : String(run.section)"
              :aria-label="`Section of ${nameOf(run)}`"
              @change="setSection(run, ($event.target as HTMLSelectElement).value)"
            >
              <option value="">{{ run.proposed ?? run.section }} mm²</option>
              <option v-for="s in SECTIONS" :key="s" :value="String(s)">{{ s }} mm², set</option>
            </select>
            <span class="soft owner short">{{ run.economic ? `economic ${run.economic}` : 'no price' }}</span>
          </td>
          <td>
            <svg class="bar" viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true">
              <rect class="rail" width="100" height="8" />
              <rect
                :width="share(run.current, run.ampacity) * 100"
                height="8"
                :class="over(run.current, run.ampacity) ? 'wrong' : 'amps'"
              />
              <path d="M74.07 0V8" class="limit" />
            </svg>
            <span :class="over(run.current, run.ampacity) ? 'bad' : 'soft'" :title="`${run.asks}; ${run.source}`"
              >{{ number(run.current, 1) }} of {{ number(run.ampacity, run.ampacity < 100 ? 1 : 0) }} A</span
            >
          </td>
          <td>
            <svg class="bar" viewBox="0 0 100 8" preserveAspectRatio="none" aria-hidden="true">
              <rect class="rail" width="100" height="8" />
              <rect
                :width="share(run.drop, run.drop_limit) * 100"
                height="8"
                :class="over(run.drop, run.drop_limit) ? 'wrong' : 'volts'"
              />
              <path d="M74.07 0V8" class="limit" />
            </svg>
            <span :class="over(run.drop, run.drop_limit) ? 'bad' : 'soft'"
              >{{ number(run.drop, 2) }} of
              <BriefNumber :pointer="`${run.pointer}/drop_limit`" :label="`Voltage drop limit of ${nameOf(run)}`"
            /></span>
          </td>
          <td class="do" data-acts>
            <button
              v-if="run.kind === 'string' && !store.at(mainOf(run))"
              type="button"
              class="link"
              title="Strings meet in a combiner box; one cable goes on from there"
              @click.stop="store.edit(patchAt(mainOf(run), { length: 20 }))"
            >
              + main
            </button>
            <button
              type="button"
              class="soft"
              :aria-label="`Delete ${nameOf(run)}`"
              title="Delete; the share of the losses stands for it"
              @click.stop="store.edit(patchAt(run.pointer, null))"
            >
              ✕
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="soft small">
      <button v-if="fitting.length > drawn.length" type="button" class="link" @click="all = true">
        Show all {{ fitting.length }}
      </button>
      <CopyTable within=".cables" />
      Sections of IEC 60228; the bar's mark is the limit. A section without “set” follows the design.
    </p>
  </div>
</template>
<style scoped>
.cables {
  overflow-x: auto;
}
th[scope='row'] {
  font-weight: 600;
  color: var(--ink);
}
th[scope='row'] button {
  font-weight: 600;
}
.owner {
  display: block;
  font-weight: 400;
  font-size: 11.5px;
  white-space: normal;
  overflow-wrap: break-word;
  max-width: 150px;
}
.owner.short {
  white-space: nowrap;
}
tr.on {
  background: var(--pick);
}
.how {
  min-width: 138px;
}
.bar {
  display: block;
  width: 78px;
  height: 7px;
  margin-bottom: 2px;
}
.rail {
  fill: var(--rule);
  opacity: 0.6;
}
.amps {
  fill: var(--current);
}
.volts {
  fill: var(--sun);
}
.wrong {
  fill: var(--loss);
}
.limit {
  stroke: var(--ink);
  stroke-width: 1.4;
  vector-effect: non-scaling-stroke;
}
td {
  white-space: nowrap;
}
table.ledger td,
table.ledger th {
  padding-inline: 6px;
}
.how {
  white-space: normal;
}
.do {
  text-align: right;
}
.do button + button {
  margin-left: 8px;
}
.small {
  font-size: 12px;
  margin-top: 4px;
}
@media (max-width: 1150px) {
  .how {
    min-width: 84px;
  }
  .owner {
    max-width: 84px;
  }
  .owner.short {
    white-space: normal;
  }
  .bar {
    width: 52px;
  }
  table.ledger th {
    white-space: normal;
  }
  .do button {
    display: block;
    margin-left: auto;
  }
  table.ledger td,
  table.ledger th {
    padding-inline: 4px;
  }
}
.small > .link {
  margin-right: 10px;
}
</style>
