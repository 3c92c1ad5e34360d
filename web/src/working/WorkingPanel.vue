<script setup lang="ts">
import { onBeforeUnmount, onMounted, watch } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import BriefNumber from '@/brief/BriefNumber.vue'
import MonthlyValues from '@/brief/MonthlyValues.vue'
import { number, plain } from '@/theme/format'
import { OF_WEATHER, useWorking } from '@/stores/useWorking'
import TexFormula from './TexFormula.vue'

const store = useSchemeStore()
const library = useLibrary()
const { shown, close } = useWorking()
const { answer, fault } = useAnswer(
  () => (shown.value && store.shown ? `${store.shown.id}:${shown.value} ${store.shown.revision}` : null),
  async (signal) => {
    const key = shown.value!
    if (!key.startsWith(OF_WEATHER)) return api.working(store.shown!.id, key, signal)
    const digest = store.evaluation!.weather!.digest
    return { ...(await api.weatherWorking(digest, key.slice(OF_WEATHER.length), signal)), revision: 0 }
  },
)
// A working of a newer revision than the figures beside it: someone else has edited, and the figures follow.
watch(answer, (found) => {
  if (found && found.revision > (store.saved?.revision ?? 0)) store.hear(found.revision)
})
const isPercentage = (key: string) => library.figures.find((figure) => figure.key === key)?.is_percentage ?? false
const title = (name: string) => `${name[0]!.toUpperCase()}${name.slice(1).replace(/ by month$/, '')}`
/** Whether a value of the design can be given by month instead, and is not yet. */
const hasMonths = (pointer: string) => pointer !== '' && library.field(`${pointer}_by_month`) !== null
const isNumber = (value: number | string): value is number => typeof value === 'number'
const editable = (pointer: string) => pointer !== '' && typeof store.at(pointer) !== 'object'
function keys(event: KeyboardEvent) {
  if (event.key === 'Escape' && shown.value) close()
}
function valueText({ key, value, unit }: { key: string; value: number | string; unit: string }): string {
  if (typeof value === 'string') return value
  return isPercentage(key) ? `${number(value * 100, 2)} %` : `${plain(value)} ${unit}`
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
</script>
<template>
  <section v-if="shown" class="working" role="dialog" aria-label="Working">
    <header role="none">
      <span class="cap">Working</span><button type="button" class="link" @click="close">Close</button>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <template v-else-if="answer">
      <h2>{{ answer.title }}</h2>
      <p class="result serif">
        {{ valueText(answer) }}
      </p>
      <div class="formula"><TexFormula :tex="answer.equation" block /></div>
      <dl>
        <div v-for="input in answer.inputs" :key="input.name" :class="{ wide: input.pointer.endsWith('_by_month') }">
          <dt><TexFormula v-if="input.symbol" :tex="input.symbol" /> {{ input.name }}</dt>
          <dd>
            <MonthlyValues
              v-if="input.pointer.endsWith('_by_month')"
              :pointer="input.pointer"
              :label="title(input.name)"
            />
            <BriefNumber
              v-else-if="editable(input.pointer) && isNumber(input.value)"
              :pointer="input.pointer"
              :label="input.name"
            />
            <b v-else>{{ isNumber(input.value) ? plain(input.value) : input.value }} {{ input.unit }}</b>
          </dd>
          <dd class="soft origin">
            {{ input.origin }}
            <MonthlyValues
              v-if="hasMonths(input.pointer)"
              :pointer="`${input.pointer}_by_month`"
              :label="title(input.name)"
            />
          </dd>
        </div>
      </dl>
      <details v-if="answer.steps.length" :open="answer.steps.length < 4">
        <summary class="soft">{{ answer.steps.length === 12 ? 'By month' : 'Along the way' }}</summary>
        <table class="ledger">
          <tbody>
            <tr v-for="step in answer.steps" :key="step.name">
              <td>{{ step.name }}</td>
              <td class="num">{{ plain(step.value as number) }} {{ step.unit }}</td>
            </tr>
          </tbody>
        </table>
      </details>
      <p v-if="answer.note" class="soft">{{ answer.note }}</p>
      <p class="source"><span class="cap">Source</span> {{ answer.source }}</p>
    </template>
  </section>
</template>
<style scoped>
.working {
  position: absolute;
  inset: 0 0 0 auto;
  width: min(400px, 100%);
  overflow-y: auto;
  background: var(--sheet);
  border-left: 1px solid var(--rule-strong);
  box-shadow: var(--shadow);
  padding: 14px 22px 24px;
  display: grid;
  gap: 12px;
  align-content: start;
  z-index: 20;
}
header {
  display: flex;
  justify-content: space-between;
}
.result {
  font-size: 26px;
  font-weight: 600;
  line-height: 1;
}
.formula {
  overflow-x: auto;
  padding: 10px 0 12px;
  border-block: 1px solid var(--rule);
  font-size: 14px;
}
dl {
  margin: 0;
  display: grid;
}
dl div {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 0 14px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}
dt {
  min-width: 0;
}
dd {
  margin: 0;
  text-align: right;
}
.origin {
  grid-column: 1 / -1;
  text-align: left;
  font-size: 12px;
}
.source {
  font-size: 12px;
  line-height: 1.5;
}
dl .wide {
  grid-template-columns: 1fr;
}
dl .wide dd {
  text-align: left;
}
summary {
  cursor: pointer;
}
</style>
