<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { type StringView } from '@/stores/schemeLists'
import BriefNumber from '@/brief/BriefNumber.vue'
import PartChoice from '@/parts/PartChoice.vue'
import { useNotice } from '@/notice/useNotice'

/** Identical strings on one tracker: how many of how many modules, of which kind, on which surface. */
const props = defineProps<{ string: StringView; trackers: number; isPicked: boolean }>()
const emit = defineEmits<{ pick: [] }>()
const store = useSchemeStore()
const { say } = useNotice()

const TONES = ['#F1C58F', '#D98A78', '#9A6A80', '#4D5F78', '#12404A']
/** Each surface has its tone of the ramp, by its place in the Brief. */
const tone = computed(() => {
  const place = store.surfaces.findIndex((s) => s.id === props.string.surface)
  return TONES[Math.max(0, place) % TONES.length]
})
const width = computed(() => props.string.modules_per_string * 7 + 10)
const at = (field: string) => `/subarrays/${props.string.id}/${field}`
const change = (field: 'surface' | 'tracker', value: string | number) =>
  store.edit({ subarrays: { [props.string.id]: { [field]: value } } })
function remove() {
  store.edit({ subarrays: { [props.string.id]: null } })
  say(`Strings on tracker ${props.string.tracker} deleted.`, {
    label: 'Undo',
    run: () => void store.undo(),
  })
}
</script>
<template>
  <div class="string" :class="{ on: isPicked }" @click="emit('pick')">
    <button
      type="button"
      class="comb"
      :aria-pressed="isPicked"
      :aria-label="`Show the voltages of ${string.name}`"
      @click.stop="emit('pick')"
    >
      <svg
        :viewBox="`0 0 ${width} 12`"
        :width="Math.min(190, width)"
        height="12"
        preserveAspectRatio="none"
        aria-hidden="true"
      >
        <path d="M0 6H10" stroke="var(--ink)" />
        <rect
          v-for="i in string.modules_per_string"
          :key="i"
          :x="3 + i * 7"
          y="1"
          width="6"
          height="10"
          rx="0.8"
          :fill="tone"
          stroke="var(--ink)"
          stroke-width=".4"
        />
      </svg>
    </button>
    <span
      ><BriefNumber :pointer="at('strings')" :label="`Strings of ${string.name}`" unit="" /> ×
      <BriefNumber :pointer="at('modules_per_string')" :label="`Modules in a string of ${string.name}`" unit=""
    /></span>
    <PartChoice kind="module" :pointers="[at('module')]" :value="string.module" :label="`Module of ${string.name}`" />
    <select
      class="blank"
      :value="string.surface"
      :aria-label="`Surface of ${string.name}`"
      @change="change('surface', ($event.target as HTMLSelectElement).value)"
    >
      <option v-for="s in store.surfaces" :key="s.id" :value="s.id">{{ s.name }}</option>
    </select>
    <select
      class="blank small"
      :value="string.tracker"
      :aria-label="`Tracker of ${string.name}`"
      @change="change('tracker', Number(($event.target as HTMLSelectElement).value))"
    >
      <option v-for="n in trackers" :key="n" :value="n">on {{ n }}</option>
    </select>
    <button type="button" class="x soft" :aria-label="`Delete ${string.name}`" title="Delete" @click.stop="remove">
      ✕
    </button>
  </div>
</template>
<style scoped>
.string {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 3px 6px;
  border-radius: 5px;
  font-size: 12.5px;
  flex-wrap: wrap;
}
.string:hover {
  background: var(--wash);
}
.string.on {
  background: var(--pick);
}
.comb svg {
  display: block;
}
.small {
  font-size: 12px;
  font-weight: 400;
}
.x {
  margin-left: auto;
  padding: 2px 6px;
}
@media (max-width: 1150px) {
  .string {
    gap: 8px;
    flex-wrap: nowrap;
  }
  .comb svg {
    max-width: 84px;
  }
  select {
    max-width: 92px;
  }
}
</style>
