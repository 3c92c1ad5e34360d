<script setup lang="ts">
import { shownUnit, toShown } from '@/theme/habits'
import { computed } from 'vue'
import type { Acts } from '@/api/client'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { useActs } from '@/stores/useActs'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { number } from '@/theme/format'
import type { useLayout } from './useLayout'

/** The strings of the modules on a face: their pattern, their cables, and what is missing. */
const props = defineProps<{ layouts: ReturnType<typeof useLayout> }>()
const stringing = defineModel<boolean>('stringing', { required: true })
const emit = defineEmits<{ wire: []; string: [pattern: Acts['string-modules']['pattern']] }>()
const { layout, kept, surface, isBroken } = props.layouts
const store = useSchemeStore()
const library = useLibrary()
const { choices } = useActs()
const count = computed(() => layout.value?.modules.length ?? 0)
/** A plane of no building that has strings, such as the one a project began with: they may belong on this face. */
const loose = computed(() => store.surfaces.find((s) => s.face === null && s.modules > 0) ?? null)
function takePattern(event: Event) {
  const select = event.target as HTMLSelectElement
  emit('string', select.value as Acts['string-modules']['pattern'])
  select.value = ''
}
/** Where the cables leave the face. */
const EXIT = { exit_u: 'Cables leave, along the face', exit_v: 'Cables leave, up the slope' } as const
const leave = (field: keyof typeof EXIT, value: number | null) =>
  store.edit({ surfaces: { [surface.value!]: { layout: { [field]: value } } } })
/** Of string cables, from the plan, in words. */
const lengths = computed(() => {
  const some = (layout.value?.strings ?? []).map((s) => s.length)
  if (!some.length) return ''
  const [low, high] = [Math.min(...some), Math.max(...some)].map((m) => number(toShown(m, 'm'), 1))
  return low === high ? low : `${low} to ${high}`
})
</script>
<template>
  <template v-if="count && layout?.wired">
    strung
    <select class="blank" value="" aria-label="Pattern of the strings" @change="takePattern">
      <option value="" disabled>by pattern…</option>
      <option v-for="pattern in choices('string-modules', 'pattern')" :key="pattern" :value="pattern">
        {{ pattern }}
      </option>
    </select>
    or <button type="button" class="link" :aria-pressed="stringing" @click="stringing = !stringing">drawn</button>
    <template v-if="isBroken">
      (<span class="bad">modules are missing from strings</span>,
      <button type="button" class="link" @click="layouts.repair()">repair</button>)</template
    ><template v-if="lengths">
      , cables of {{ lengths }} {{ shownUnit('m') }} each way
      <button type="button" class="link" @click="layouts.wireByPlan()">use in the wiring</button>, leaving the face at
      <NumberField
        v-for="(words, field) in EXIT"
        :key="field"
        class="blank short"
        :limits="library.field(`/surfaces/${surface}/layout/${field}`) ?? undefined"
        :value="(kept[field] as number | undefined) ?? null"
        placeholder="corner"
        unit="m"
        :aria-label="`${words} [${shownUnit('m')}]`"
        @change="leave(field, $event)"
        @keydown.stop
      />
      {{ shownUnit('m') }}</template
    >.
  </template>
  <template v-if="layout && layout.wired !== count">
    <span class="bad">The strings have {{ number(layout.wired) }}.</span>
    <template v-if="loose && !layout.wired">
      <button type="button" class="link" @click="layouts.takeStrings()">Take those of {{ loose.name }}</button> or
    </template>
    <button type="button" class="link" @click="emit('wire')">
      {{ loose && !layout.wired ? 'find new ones' : 'Find strings' }}
    </button>
  </template>
</template>
<style scoped>
.short {
  width: 3.8em;
}
</style>
