<script setup lang="ts">
import temml from 'temml'
import { computed } from 'vue'

/** TeX as MathML, which the browser sets by itself. */
const props = defineProps<{ tex: string; block?: boolean }>()
const html = computed(() => temml.renderToString(props.tex, { displayMode: props.block ?? false, throwOnError: false }))
</script>
<template><span v-html="html" /></template>
<style>
math {
  font-size: 1.08em;
}
.working math[display='block'] {
  margin: 0;
  text-align: left;
}
</style>
