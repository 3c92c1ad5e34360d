<script setup lang="ts">
import { computed } from 'vue'
import type { Sorting } from './useSorting'

/** The head of a column by which its table can be sorted. */
const props = defineProps<{ column: string; sorting: Sorting }>()
const isChosen = computed(() => props.sorting.by.value === props.column)
const isRising = computed(() => props.sorting.rising.value)
</script>
<template>
  <th scope="col" :aria-sort="isChosen ? (isRising ? 'ascending' : 'descending') : 'none'">
    <button type="button" @click="sorting.sort(column)"><slot />{{ isChosen ? (isRising ? ' ↑' : ' ↓') : '' }}</button>
  </th>
</template>
<style scoped>
button {
  font-weight: 600;
}
</style>
