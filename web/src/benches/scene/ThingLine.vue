<script setup lang="ts">
import { computed, ref } from 'vue'
import type { JsonObject } from '@/api/mergePatch'
import BriefNumber from '@/brief/BriefNumber.vue'
import NumberField from '@/brief/NumberField.vue'
import { freshId } from '@/stores/schemeLists'
import type { Verb } from './useSelection'
import type { Thing } from './useThings'

/** The picked thing in a sentence: its name, its kind of roof, its direction, and what can be done with it. */
const props = defineProps<{ thing: Thing; azimuth: number }>()
const emit = defineEmits<{
  change: [patch: JsonObject]
  act: [verb: Verb, copies?: number]
}>()
const copies = ref(1)
const dormers = computed(() => Object.keys((props.thing.values.dormers ?? {}) as JsonObject))
const DORMER = { width: 'm wide,', height: 'm high,', pitch: '° steep,', x: 'm along,', y: 'm toward the back' }
function addDormer() {
  const id = freshId('dormer', dormers.value)
  emit('change', { dormers: { [id]: { x: 0, y: -2 } } })
}
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
/** What is rarely done with an object stands behind one word. */
const showsActs = ref(false)
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
    /><template v-if="thing.kind === 'buildings'">
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
        <BriefNumber :pointer="`${root}/${field}`" :label="`${TREE[field]} of ${thing.name}`" /></template></template
    ><template
      v-if="
        'azimuth' in thing.values ||
        ['buildings', 'walls', 'boxes', 'carports', 'grounds', 'chimneys', 'skylights'].includes(thing.kind)
      "
    >
      azimuth <BriefNumber :pointer="`${root}/azimuth`" :label="`Azimuth of the front of ${thing.name}`" /></template
    >, <BriefNumber :pointer="`${root}/x`" :label="`East of ${thing.name}`" />
    {{ thing.values.on ? 'along the front' : 'east' }} and
    <BriefNumber :pointer="`${root}/y`" :label="`North of ${thing.name}`" />
    {{ thing.values.on ? 'toward the back' : 'north' }}.
    <button type="button" class="link acts-word" :aria-expanded="showsActs" @click="showsActs = !showsActs">
      {{ showsActs ? 'less' : 'copy, lock, delete…' }}
    </button>
    <span v-if="showsActs" class="acts-line">
      <button type="button" class="link" @click="emit('act', 'copy')">copy</button>
      <button type="button" class="link" @click="emit('act', 'duplicate', copies)">repeat beside</button>
      <NumberField
        class="blank copies"
        :value="copies"
        :limits="{ min: 1, max: 100 }"
        aria-label="How many copies"
        @change="copies = Math.round($event ?? 1)"
        @keydown.stop
      />
      <span class="soft">{{ copies === 1 ? 'time' : 'times' }}</span>
      <button v-if="thing.kind === 'buildings'" type="button" class="link" @click="addDormer">add a dormer</button>
      <button v-if="thing.values.on" type="button" class="link" @click="emit('act', 'mirror')">mirror</button>
      <button v-if="thing.kind === 'grounds'" type="button" class="link" @click="emit('act', 'follow')">
        follow the land
      </button>
      <button type="button" class="link" @click="emit('act', 'lock')">
        {{ thing.values.is_locked ? 'unlock' : 'lock' }}
      </button>
      <button type="button" class="link" @click="emit('act', 'hide')">
        {{ thing.values.is_hidden ? 'show' : 'hide' }}
      </button>
      <button type="button" class="link bad" @click="emit('act', 'delete')">delete</button>
    </span>
    <span v-for="id in dormers" :key="id" class="dormer">
      Dormer
      <template v-for="(words, field) in DORMER" :key="field">
        <BriefNumber :pointer="`${root}/dormers/${id}/${field}`" :label="`${field} of ${id}`" /> {{ words }}
      </template>
      <button
        type="button"
        class="link"
        :aria-label="`Delete ${id}`"
        @click="emit('change', { dormers: { [id]: null } })"
      >
        ×
      </button>
    </span>
  </p>
</template>
<style scoped>
.copies {
  width: 2.8em;
}
.dormer {
  display: block;
  font-size: 13px;
}
.thing {
  margin: 0;
  font-family: var(--serif);
  font-size: 14px;
  line-height: 1.65;
}
.name {
  font-weight: 600;
  field-sizing: content;
  min-width: 2em;
}
.acts-line {
  font-family: var(--sans);
  font-size: 12px;
  display: inline-flex;
  gap: 10px;
  margin-left: 6px;
}
</style>
