<script setup lang="ts">
/** Under a number that is being typed: how it was read, or what is wrong with it. */
defineProps<{ words: string; isWrong?: boolean }>()
</script>
<template>
  <em v-if="words" role="status" :class="{ bad: isWrong }">{{ words }}</em>
</template>
<style scoped>
em {
  position: absolute;
  z-index: 40;
  left: 0;
  top: calc(100% + 3px);
  padding: 3px 8px;
  border-radius: 5px;
  border: 1px solid var(--rule-strong);
  background: var(--sheet);
  box-shadow: var(--shadow);
  font: normal 12px/1.4 var(--sans);
  white-space: nowrap;
}
</style>
