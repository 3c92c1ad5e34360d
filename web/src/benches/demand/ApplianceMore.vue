<script setup lang="ts">
import { computed } from 'vue'
import { patchAt } from '@/api/mergePatch'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { MONTHS } from '@/theme/format'

/** What else is said of an appliance: how hard it works, how it starts, where it is connected, on which days and in which months. */
const props = defineProps<{ pointer: string; name: string }>()
const store = useSchemeStore()
const library = useLibrary()
const at = (key: string) => `${props.pointer}/${key}`
const limits = computed(() => library.field(at('hours_a_day')) ?? undefined)
const months = computed(() => (store.at(at('months')) as number[] | undefined) ?? MONTHS.map((_, i) => i + 1))
function toggle(month: number) {
  const next = months.value.includes(month) ? months.value.filter((m) => m !== month) : [...months.value, month]
  if (next.length)
    store.edit(
      patchAt(
        at('months'),
        next.toSorted((a, b) => a - b),
      ),
    )
}
const phase = computed(() => (store.at(at('phase')) as number | undefined) ?? 0)
const toPhase = (event: Event) =>
  store.edit(patchAt(at('phase'), Number((event.target as HTMLSelectElement).value) || null))
</script>
<template>
  <p class="more">
    On <BriefNumber :pointer="at('duty')" :label="`Duty of ${name}`" /> of the time, for
    <NumberField
      class="blank few"
      :value="(store.at(at('hours_a_day')) as number | undefined) ?? null"
      :limits="limits"
      :aria-label="`Hours a day of ${name}`"
      placeholder="all"
      @change="store.edit(patchAt(at('hours_a_day'), $event))"
    />
    hours a day, <BriefChoice :pointer="at('days')" :label="`Days of ${name}`" />, in
    <span class="months" role="group" :aria-label="`Months of ${name}`"
      ><button
        v-for="(month, i) in MONTHS"
        :key="month"
        type="button"
        class="link"
        :aria-pressed="months.includes(i + 1)"
        :aria-label="month"
        @click="toggle(i + 1)"
      >
        {{ month[0] }}
      </button></span
    >. An efficiency of <BriefNumber :pointer="at('efficiency')" :label="`Efficiency of ${name}`" />, a surge of
    <BriefNumber :pointer="at('surge')" :label="`Surge factor of ${name}`" /> times its power;
    <BriefChoice :pointer="at('current')" :label="`Current of ${name}`" />, phase
    <select class="blank" :value="phase" :aria-label="`Phase of ${name}`" @change="toPhase">
      <option :value="0">any</option>
      <option v-for="n in 3" :key="n" :value="n">L{{ n }}</option></select
    >, category
    <BriefText
      :value="(store.at(at('category')) as string | undefined) ?? ''"
      :label="`Category of ${name}`"
      @change="store.edit(patchAt(at('category'), $event || null))"
    />.
  </p>
</template>
<style scoped>
.more {
  font: 12.5px/1.7 var(--serif);
  padding: 0 0 4px 12px;
  border-left: 2px solid var(--rule);
}
.few {
  width: 3.4em;
}
.months {
  display: inline-flex;
  gap: 3px;
  font: 11.5px var(--sans);
}
.months [aria-pressed='false'] {
  opacity: 0.35;
}
</style>
