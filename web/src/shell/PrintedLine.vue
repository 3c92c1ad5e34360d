<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { day } from '@/theme/format'

/** What stands over a bench on paper: whose it is, which revision, and the day it was printed. */
const store = useSchemeStore()
const today = ref(day(new Date()))
const mark = () => (today.value = day(new Date()))
onMounted(() => window.addEventListener('beforeprint', mark))
onBeforeUnmount(() => window.removeEventListener('beforeprint', mark))
</script>
<template>
  <p class="printed">
    <b>{{ store.project?.name }}</b>, scheme {{ store.saved?.letter }} {{ store.at('/name') }}, revision
    {{ store.saved?.revision }}, {{ today }}
  </p>
</template>
<style scoped>
.printed {
  display: none;
}
</style>
