<script setup lang="ts">
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefParagraph from './BriefParagraph.vue'

/** The Brief: the paragraphs come as data. */
const store = useSchemeStore()
</script>
<template>
  <div class="brief">
    <h2 class="sr">The Brief</h2>
    <BriefParagraph
      v-for="paragraph in store.evaluation?.brief ?? []"
      :key="paragraph.bench"
      :bench="paragraph.bench"
      :runs="paragraph.runs"
    />
  </div>
</template>
<style scoped>
.brief {
  padding: 12px 10px 24px 22px;
  overflow-y: auto;
  /* Words for a screen reader lie inside of it, and make the page no longer than the window. */
  position: relative;
  height: 100%;
}
</style>
