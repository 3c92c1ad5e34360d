<script setup lang="ts">
import { computed } from 'vue'
import type { LooseLine, LooseValue, Scalar } from '@/api/client'
import NumberField from '@/brief/NumberField.vue'
import { fieldText, fromShown, shownUnit } from '@/theme/habits'
import { read } from '@/theme/reading'
import { useTyping } from '@/brief/useTyping'
import { useLooseWords } from './runText'

/** One loose value: its range with a step, its list of numbers, or those of its choices that are tried. */
const props = defineProps<{ line: LooseLine; value: LooseValue; hasSteps: boolean }>()
const emit = defineEmits<{ change: [value: LooseValue]; hold: [] }>()
const { text } = useLooseWords()
const isRange = computed(() => props.value.low !== null && props.value.low !== undefined)
const name = computed(() => props.line.title.split(',')[0]!)
const whose = computed(() => props.line.title.split(',').slice(1).join(',').trim())
const unit = computed(() => (props.line.unit ? shownUnit(props.line.unit) : ''))
const after = computed(() => (unit.value === '°' ? '°' : unit.value ? ` ${unit.value}` : ''))
/** Choices that there are: those that were left out stay where they can be taken again. */
const offered = computed<Scalar[]>(() => [...new Set([...every, ...(props.value.values ?? [])])])
const every: Scalar[] = [...(props.value.values ?? [])]
function toggle(one: Scalar) {
  const values = offered.value.filter((each) => (each === one) !== (props.value.values ?? []).includes(each))
  if (values.length) emit('change', { ...props.value, values })
}
const set = (part: Partial<LooseValue>) => emit('change', { ...props.value, ...part })
const {
  text: typed,
  edit,
  take,
  discard,
} = useTyping(() => (props.value.values ?? []).map((each) => fieldText(Number(each), props.line.unit)).join('; '))
/** Numbers that were typed as a list; what is no number is left out. */
function takeList() {
  const values = take()
    .split(/[;\s]+/)
    .map((each) => read(each).value)
    .filter((each) => !Number.isNaN(each))
    .map((each) => fromShown(each, props.line.unit))
  if (values.length) emit('change', { ...props.value, values })
}
function toList() {
  if (props.line.values.length) emit('change', { ...bare.value, values: [...props.line.values] })
}
const bare = computed<LooseValue>(() => {
  const { low: _low, high: _high, step: _step, ...rest } = props.value
  return rest
})
function toRange() {
  const numbers = (props.value.values ?? []).map(Number).toSorted((a, b) => a - b)
  const [low, high] = [numbers[0]!, numbers.at(-1)!]
  if (!(low < high)) return
  const { values: _values, ...rest } = props.value
  emit('change', { ...rest, low, high, step: (high - low) / Math.max(1, numbers.length - 1) })
}
</script>
<template>
  <p class="one">
    <button
      type="button"
      class="ring"
      :aria-label="`Hold ${line.title} again`"
      title="Hold it again"
      @click="emit('hold')"
    >
      <svg width="13" height="13" viewBox="0 0 12 12" aria-hidden="true">
        <circle cx="6" cy="6" r="4" fill="none" stroke="currentColor" stroke-width="1.7" stroke-dasharray="3 2" />
        <circle cx="6" cy="6" r="1.6" fill="currentColor" />
      </svg>
    </button>
    <b>{{ name }}</b><span v-if="whose" class="soft"> of {{ whose }}</span>
    <template v-if="isRange">
      from
      <NumberField
        class="blank short"
        :value="value.low ?? null"
        :unit="line.unit"
        :aria-label="`${name}: from`"
        @change="$event !== null && set({ low: $event })"
      />{{ after }}
      to
      <NumberField
        class="blank short"
        :value="value.high ?? null"
        :unit="line.unit"
        :aria-label="`${name}: to`"
        @change="$event !== null && set({ high: $event })"
      />{{ after
      }}<template v-if="hasSteps || value.step">
        by
        <NumberField
          class="blank short"
          :value="value.step ?? null"
          :aria-label="`${name}: step`"
          @change="set({ step: $event })"
        />{{ after }}</template
      ><span v-if="line.count" class="soft">({{ line.count }} values)</span
      ><button v-if="line.values.length" type="button" class="link small" @click="toList">as a list</button>
    </template>
    <span v-else-if="line.is_words" class="choices" role="group" :aria-label="`${name}: values`">
      <button
        v-for="one in offered"
        :key="String(one)"
        type="button"
        class="choice"
        :aria-pressed="(value.values ?? []).includes(one)"
        @click="toggle(one)"
      >
        {{ text(one, line) }}
      </button>
    </span>
    <template v-else>
      at
      <input
        class="blank list"
        :style="{ width: `${Math.min(40, Math.max(6, typed.length + 1))}ch` }"
        :value="typed"
        :aria-label="`${name}: values, with semicolons`"
        @input="edit(($event.target as HTMLInputElement).value)"
        @change="takeList"
        @keydown.enter="takeList"
        @keydown.esc="discard"
      />{{ after }}<button type="button" class="link small" @click="toRange">as a range</button>
    </template>
  </p>
</template>
<style scoped>
.one {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 5px;
}
.ring {
  align-self: center;
  display: inline-grid;
  padding: 5px 3px;
  color: var(--current-text, var(--current));
}
.small {
  font: 12px var(--sans);
  margin-left: 6px;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 3px 6px;
  max-height: 108px;
  overflow-y: auto;
}
.choice {
  font: 12.5px var(--sans);
  padding: 2px 8px;
  border: 1px solid var(--rule-strong);
  border-radius: 10px;
  color: var(--soft);
}
.choice[aria-pressed='true'] {
  color: var(--ink);
  border-color: var(--ink);
}
</style>
