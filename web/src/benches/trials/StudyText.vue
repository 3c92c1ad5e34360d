<script setup lang="ts">
import { computed } from 'vue'
import type { Aim, Limit, LooseValue, Study, TrialAnswer } from '@/api/client'
import { useTrials } from '@/stores/useTrials'
import NumberField from '@/brief/NumberField.vue'
import LooseText from './LooseText.vue'
import TieText from './TieText.vue'

/** The study as text: what is loose, how it is tried, what is aimed at and held to; every value is edited where it stands. */
const props = defineProps<{ set: TrialAnswer }>()
const trials = useTrials()
const study = computed(() => props.set.study as unknown as Study)
const way = computed(() => study.value.way ?? 'grid')
const aims = computed<Aim[]>(() => [...(study.value.aim ? [study.value.aim] : []), ...(study.value.also ?? [])])
const limits = computed<Limit[]>(() => study.value.limits ?? [])
const columns = computed(() => props.set.figures)
const titleOf = (key: string) => columns.value.find((one) => one.key === key)?.title ?? key
const choices = computed(() => props.set.choices)
const wayOf = (key: string) => choices.value.ways.find((one) => one.key === key)

const change = (part: Partial<Study>) => void trials.rewrite({ ...study.value, ...part })
const setLoose = (key: string, value: LooseValue) => change({ loose: { ...study.value.loose, [key]: value } })
function setWay(next: string) {
  const runs = wayOf(next)?.is_counted ? (study.value.runs ?? choices.value.usual_runs) : null
  const aim = next === 'search' ? (study.value.aim ?? choices.value.aims[0]) : study.value.aim
  change({ way: next, runs, aim })
}
const aimOf = (figure: string) => choices.value.aims.find((one) => one.figure === figure)!
const nextAim = computed(() => choices.value.aims.find((one) => !aims.value.some((aim) => aim.figure === one.figure)))
function setAims(next: Aim[]) {
  change({ aim: next[0] ?? null, also: next.slice(1) })
}
/** A title in the midst of a sentence: abbreviations stay as they are. */
const inSentence = (title: string) => (/^[A-Z]{2}/.test(title) ? title : title.charAt(0).toLowerCase() + title.slice(1))
/** What is done to each design, with the loose values that it goes by. */
const actWords = (act: { verb: string; arguments: object }) => {
  const by = Object.values(act.arguments).flatMap((given) =>
    given && typeof given === 'object' && 'loose' in given
      ? [props.set.loose.find((one) => one.key === given.loose)?.title ?? String(given.loose)]
      : [],
  )
  return `${act.verb.replaceAll('-', ' ')}${by.length ? ` (${by.map(inSentence).join(', ')})` : ''}`
}
const isDone = (verb: string) => (study.value.acts ?? []).some((act) => act.verb === verb)
const openActs = computed(() => choices.value.acts.filter((one) => !isDone(one.verb)))
const doneActs = computed(() => choices.value.acts.filter((one) => isDone(one.verb)))
/** Numbers that another value can follow. */
const leads = computed(() => props.set.loose.filter((one) => !one.is_words))
const setTie = (pointer: string, part: { times?: number; plus?: number }) =>
  change({ ties: { ...study.value.ties, [pointer]: { ...study.value.ties![pointer]!, ...part } } })
function addFollower(event: Event) {
  const select = event.target as HTMLSelectElement
  if (select.value && leads.value.length) void trials.letFollow(select.value, leads.value[0]!.key)
  select.value = ''
}
const setLimits = (next: Limit[]) => change({ limits: next })
/** One on the first figure that is not held to yet. */
function addLimit() {
  const figure = choices.value.figures.find((key) => !limits.value.some((one) => one.figure === key))
  if (figure) setLimits([...limits.value, { figure, at_most: 0 }])
}
const toggleBetter = (k: number) =>
  setAims(aims.value.map((one, i) => (i === k ? { ...one, better: one.better === 'more' ? 'less' : 'more' } : one)))
const valueOf = (event: Event) => (event.target as HTMLSelectElement).value
/** A limit is written as its percentage where its figure is. */
const scale = (key: string) => (columns.value.find((one) => one.key === key)?.is_percentage ? 100 : 1)
const isMost = (limit: Limit) => limit.at_most !== null && limit.at_most !== undefined
function setLimit(k: number, part: { figure?: string; most?: boolean; value?: number }) {
  setLimits(
    limits.value.map((one, i) => {
      if (i !== k) return one
      const figure = part.figure ?? one.figure
      const isAtMost = part.most ?? isMost(one)
      const value = part.value ?? (part.figure ? 0 : (one.at_most ?? one.at_least ?? 0))
      return isAtMost ? { figure, at_most: value } : { figure, at_least: value }
    }),
  )
}
const unitOf = (key: string) => {
  const column = columns.value.find((one) => one.key === key)
  return column?.is_percentage ? '%' : (column?.unit ?? '')
}
</script>
<template>
  <div class="study serif">
    <div class="loose">
      <LooseText
        v-for="one in set.loose"
        :key="one.key"
        :line="one"
        :value="study.loose[one.key]!"
        :has-steps="way === 'grid' || way === 'one at a time'"
        @change="setLoose(one.key, $event)"
        @hold="trials.letLoose([], false, [one.key])"
      />
      <TieText
        v-for="one in set.ties"
        :key="one.pointer"
        :tie="one"
        :leads="leads"
        @change="setTie(one.pointer, $event)"
        @lead="trials.letFollow(one.pointer, $event)"
        @drop="trials.letLoose([one.pointer], false)"
      />
    </div>
    <p>
      <select class="blank" :value="way" aria-label="How they are tried" @change="setWay(valueOf($event))">
        <option v-for="one in choices.ways" :key="one.key" :value="one.key">{{ one.title }}</option></select
      ><template v-if="wayOf(way)?.is_counted">
        of
        <NumberField
          class="blank short"
          :value="study.runs ?? null"
          :limits="{ min: choices.least_runs, max: wayOf(way)!.most_runs }"
          aria-label="Runs"
          @change="$event !== null && change({ runs: $event })" />
        runs, seed
        <NumberField
          class="blank short"
          :value="study.seed ?? 1"
          :limits="{ min: choices.least_seed, max: choices.most_seed }"
          aria-label="Seed"
          @change="$event !== null && change({ seed: $event })" /></template
      >.
      <template v-if="aims.length">
        Looked for:
        <template v-for="(aim, k) in aims" :key="aim.figure"
          ><template v-if="k">, and </template
          ><button
            type="button"
            class="blank"
            :aria-label="`${aim.better === 'more' ? 'most' : 'least'} ${titleOf(aim.figure)}: turn it round`"
            @click="toggleBetter(k)"
          >
            {{ aim.better === 'more' ? 'most' : 'least' }}</button
          >{{ ' '
          }}<select
            class="blank"
            :value="aim.figure"
            :aria-label="k ? `Aim ${k + 1}` : 'Aim'"
            @change="setAims(aims.map((one, i) => (i === k ? aimOf(valueOf($event)) : one)))"
          >
            <option v-for="one in choices.aims" :key="one.figure" :value="one.figure">
              {{ titleOf(one.figure) }}
            </option></select
          ><button
            v-if="k || way !== 'search'"
            type="button"
            class="drop"
            :aria-label="`Do not aim at ${titleOf(aim.figure)}`"
            @click="setAims(aims.filter((_, i) => i !== k))"
          >
            ×
          </button></template
        ><template v-if="aims.length < 3 && nextAim"
          >{{ ' '
          }}<button type="button" class="link add" @click="setAims([...aims, nextAim])">
            and another aim…
          </button></template
        >.
      </template>
      <button v-else-if="nextAim" type="button" class="link add" @click="setAims([nextAim])">
        say what is looked for…
      </button>
      <template v-if="limits.length">
        Held to:
        <span v-for="(limit, k) in limits" :key="k" class="limit"
          ><select
            class="blank"
            :value="limit.figure"
            :aria-label="`Figure of limit ${k + 1}`"
            @change="setLimit(k, { figure: valueOf($event) })"
          >
            <option v-for="one in columns" :key="one.key" :value="one.key">{{ one.title }}</option></select
          >{{ ' '
          }}<select
            class="blank"
            :value="isMost(limit) ? 'most' : 'least'"
            :aria-label="`Side of limit ${k + 1}`"
            @change="setLimit(k, { most: valueOf($event) === 'most' })"
          >
            <option value="most">at most</option>
            <option value="least">at least</option></select
          >{{ ' '
          }}<NumberField
            class="blank short"
            :value="(limit.at_most ?? limit.at_least ?? 0) * scale(limit.figure)"
            :aria-label="`Value of limit ${k + 1}`"
            @change="$event !== null && setLimit(k, { value: $event / scale(limit.figure) })"
          />{{ unitOf(limit.figure) ? ` ${unitOf(limit.figure)}` : ''
          }}<button
            type="button"
            class="drop"
            :aria-label="`Delete the limit on ${titleOf(limit.figure)}`"
            @click="setLimits(limits.filter((_, i) => i !== k))"
          >
            ×</button
          >{{ k < limits.length - 1 ? ', ' : '. ' }}</span
        >
      </template>
      <button type="button" class="link add" @click="addLimit">
        {{ limits.length ? 'another limit…' : 'hold them to a limit…' }}
      </button>
    </p>
    <p class="soft acts-line">
      <template v-if="study.acts?.length"
        >To each design is done, in this order: {{ study.acts.map(actWords).join('; then ') }}.
      </template>
      <button
        v-for="one in openActs"
        :key="one.verb"
        type="button"
        class="link add"
        @click="change({ acts: [...(study.acts ?? []), { verb: one.verb, arguments: one.arguments }] })"
      >
        {{ one.title.toLowerCase() }} for each design
      </button>
      <button
        v-for="one in doneActs"
        :key="one.verb"
        type="button"
        class="link add"
        @click="change({ acts: study.acts!.filter((act) => act.verb !== one.verb) })"
      >
        do not {{ one.title.toLowerCase() }}
      </button>
      <button v-if="!study.loose.array" type="button" class="link add" @click="trials.letSizeLoose('array')">
        let the size of the array loose
      </button>
      <button v-if="!study.loose.battery" type="button" class="link add" @click="trials.letSizeLoose('battery')">
        let the size of the battery loose
      </button>
      <button v-if="!study.loose.ratio" type="button" class="link add" @click="trials.letSizeLoose('ratio')">
        let the DC/AC ratio loose: inverters follow it
      </button>
      <select
        v-if="leads.length && choices.followers.length"
        class="blank follow"
        value=""
        aria-label="Let another value follow a loose one"
        @change="addFollower"
      >
        <option value="">let another value follow…</option>
        <option v-for="one in choices.followers" :key="one.pointer" :value="one.pointer">{{ one.title }}</option>
      </select>
    </p>
  </div>
</template>
<style scoped>
.study {
  font-size: 15.5px;
  line-height: 1.75;
}
.loose {
  display: grid;
}
.study :deep(.short) {
  width: 46px;
}
.drop {
  padding: 0 0 0 4px;
  color: var(--haze-text);
}
.add {
  font: 12.5px var(--sans);
}
.limit {
  white-space: nowrap;
}
.acts-line {
  font: 12.5px/1.7 var(--sans);
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}
select.blank {
  max-width: 230px;
}
.follow {
  width: 170px;
  font: 12.5px var(--sans);
}
</style>
