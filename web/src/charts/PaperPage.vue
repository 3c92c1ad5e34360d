<script setup lang="ts">
/** A page as it prints: its marks are the sheet's own, at any width. */
defineProps<{ sheet: { svg: string; width: number; height: number } }>()
</script>
<template>
  <figure :style="{ aspectRatio: `${sheet.width} / ${sheet.height}` }" v-html="sheet.svg" />
</template>
<style scoped>
figure {
  width: 100%;
  margin: 0;
  background: #fff;
  box-shadow: var(--shadow);
  /* A long report has thousands of marks: those far from the view are found, and not drawn. */
  content-visibility: auto;
}
/* The widths of a sheet's texts were counted with plain numerals. */
figure :deep(svg text) {
  font-variant-numeric: normal;
  letter-spacing: 0;
}
figure :deep(svg) {
  display: block;
  width: 100%;
  height: auto;
}
</style>
