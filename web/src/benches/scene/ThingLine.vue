<script setup lang="ts">
import { computed } from 'vue'
import type { JsonObject } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import type { Thing } from './useThings'

/** The picked thing in a sentence: its name, its kind of roof, its direction, and what can be done with it. */
const props = defineProps<{ thing: Thing; azimuth: number }>()
const emit = defineEmits<{
  change: [patch: JsonObject]
  act: [verb: 'delete' | 'duplicate' | 'mirror' | 'copy' | 'lock' | 'hide']
}>()
const ROOFS = {
  flat: 'flat',
  shed: 'shed',
  gable: 'gable',
  hip: 'hip',
  half_hip: 'half-hip',
  gambrel: 'gambrel',
  mansard: 'mansard',
} as const
const roof = computed(
  () => (Object.keys(ROOFS) as (keyof typeof ROOFS)[]).find((kind) => props.thing.values[kind]) ?? 'flat',
)
const root = computed(() => `/scene/${props.thing.kind}/${props.thing.id}`)
const PITCHES: Record<string, string[]> = {
  shed: ['pitch'],
  gable: ['pitch'],
  hip: ['pitch'],
  half_hip: ['pitch', 'gable'],
  gambrel: ['lower_pitch', 'upper_pitch', 'break_height'],
  mansard: ['lower_pitch', 'upper_pitch', 'break_height'],
  flat: ['parapet'],
}
const WORDS: Record<string, string> = {
  pitch: 'pitch',
  gable: 'gable under the hip',
  lower_pitch: 'lower pitch',
  upper_pitch: 'upper pitch',
  break_height: 'break',
  parapet: 'parapet',
}
function setRoof(kind: string) {
  emit('change', { ...Object.fromEntries(Object.keys(ROOFS).map((k) => [k, null])), own_pitches: null, [kind]: {} })
}
const treeValues = computed(() => [
  'light_in_leaf',
  ...(props.thing.values.is_evergreen ? [] : ['light_bare']),
  'growth',
])
const TREE: Record<string, string> = {
  light_in_leaf: 'light in leaf',
  light_bare: 'light when bare',
  growth: 'growth a year',
}
</script>
<template>
  <p class="thing">
    <input
      class="blank name"
      :value="thing.name"
      aria-label="Name"
      maxlength="80"
      @change="emit('change', { name: ($event.target as HTMLInputElement).value })"
      @keydown.stop
    />
    <template v-if="thing.kind === 'buildings'">
      with a
      <select
        class="blank"
        :value="roof"
        aria-label="Roof"
        @change="setRoof(($event.target as HTMLSelectElement).value)"
      >
        <option v-for="(word, kind) in ROOFS" :key="kind" :value="kind">{{ word }}</option>
      </select>
      roof<template v-for="field in thing.values[roof] ? (PITCHES[roof] ?? []) : []" :key="field"
        >, {{ WORDS[field] }}
        <BriefNumber :pointer="`${root}/${roof}/${field}`" :label="`${WORDS[field]} of ${thing.name}`" /></template
      >,
    </template>
    <template v-else-if="thing.kind === 'trees'"
      ><template v-for="field in treeValues" :key="field"
        >, {{ TREE[field] }}
        <BriefNumber :pointer="`${root}/${field}`" :label="`${TREE[field]} of ${thing.name}`" /></template
    ></template>
    <template
      v-if="
        'azimuth' in thing.values ||
        ['buildings', 'walls', 'boxes', 'carports', 'grounds', 'chimneys', 'skylights'].includes(thing.kind)
      "
    >
      facing <BriefNumber :pointer="`${root}/azimuth`" :label="`Direction of ${thing.name}`" /></template
    >, <BriefNumber :pointer="`${root}/x`" :label="`East of ${thing.name}`" />
    {{ thing.values.on ? 'along the front' : 'east' }} and
    <BriefNumber :pointer="`${root}/y`" :label="`North of ${thing.name}`" />
    {{ thing.values.on ? 'toward the back' : 'north' }}.
    <span class="acts-line">
      <button type="button" class="link" @click="emit('act', 'copy')">copy</button>
      <button type="button" class="link" @click="emit('act', 'duplicate')">repeat beside</button>
      <button v-if="thing.values.on" type="button" class="link" @click="emit('act', 'mirror')">mirror</button>
      <button type="button" class="link" @click="emit('act', 'lock')">
        {{ thing.values.is_locked ? 'unlock' : 'lock' }}
      </button>
      <button type="button" class="link" @click="emit('act', 'hide')">
        {{ thing.values.is_hidden ? 'show' : 'hide' }}
      </button>
      <button type="button" class="link bad" @click="emit('act', 'delete')">delete</button>
    </span>
  </p>
</template>
<style scoped>
.thing {
  margin: 0;
  font-family: var(--serif);
  font-size: 14px;
  line-height: 1.65;
}
.name {
  font-weight: 600;
  field-sizing: content;
  min-width: 4em;
}
.acts-line {
  font-family: var(--sans);
  font-size: 12px;
  display: inline-flex;
  gap: 10px;
  margin-left: 6px;
}
</style>
