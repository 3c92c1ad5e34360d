<script setup lang="ts">
import { computed, ref } from 'vue'
import type { ColumnReading } from '@/api/client'
import { ROLES, roleOf } from './roles'
import { SURE } from './sureness'

/** The columns of a file: what each holds and in which unit; those that are not used fold into their number. */
const props = defineProps<{ columns: ColumnReading[] }>()
const emit = defineEmits<{ change: [place: number, values: Partial<ColumnReading>] }>()
const used = computed(() => props.columns.filter((c) => c.role))
const left = computed(() => props.columns.filter((c) => !c.role))
const isOpen = ref(false)
const chosen = (event: Event) => (event.target as HTMLSelectElement).value
function changeRole(place: number, event: Event) {
  const key = chosen(event)
  emit('change', place, { role: key as never, unit: roleOf(key)?.units[0] ?? '' })
}
</script>
<template>
  <li v-for="c in used" :key="c.place">
    <span class="dot" :class="roleOf(c.role)?.colour" aria-hidden="true" />
    <span class="heading" :title="c.heading">{{ c.heading || `column ${c.place + 1}` }}</span>
    <select
      :aria-label="`What ${c.heading || `column ${c.place + 1}`} holds`"
      :value="c.role"
      @change="changeRole(c.place, $event)"
    >
      <option value="">not used</option>
      <option v-for="r in ROLES" :key="r.key" :value="r.key">{{ r.name }}</option>
    </select>
    <select
      v-if="roleOf(c.role)?.units.length"
      class="unit"
      :aria-label="`Unit of ${c.heading || `column ${c.place + 1}`}`"
      :value="c.unit"
      @change="emit('change', c.place, { unit: chosen($event) })"
    >
      <option v-for="unit in roleOf(c.role)!.units" :key="unit">{{ unit }}</option>
    </select>
    <span v-else class="unit" />
    <span :class="c.sureness" :title="c.reason">{{ SURE[c.sureness] }}</span>
  </li>
  <li v-if="left.length">
    <span />
    <button type="button" class="link wide" :aria-expanded="isOpen" @click="isOpen = !isOpen">
      {{ left.length }} column{{ left.length > 1 ? 's' : '' }} not used
    </button>
  </li>
  <template v-if="isOpen">
    <li v-for="c in left" :key="c.place">
      <span />
      <span class="heading" :title="c.heading">{{ c.heading || `column ${c.place + 1}` }}</span>
      <select
        :aria-label="`What ${c.heading || `column ${c.place + 1}`} holds`"
        value=""
        @change="changeRole(c.place, $event)"
      >
        <option value="">not used</option>
        <option v-for="r in ROLES" :key="r.key" :value="r.key">{{ r.name }}</option>
      </select>
      <span class="unit" />
      <span class="soft" :title="c.reason" />
    </li>
  </template>
</template>
