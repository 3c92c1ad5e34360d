<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'

/** What stands over a bench on paper: whose it is, which revision, and the day it was printed. */
const store = useSchemeStore()
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })
const day = ref(DAY.format())
const mark = () => (day.value = DAY.format())
onMounted(() => window.addEventListener('beforeprint', mark))
onBeforeUnmount(() => window.removeEventListener('beforeprint', mark))
</script>
<template>
  <p class="printed">
    <b>{{ store.project?.name }}</b>, scheme {{ store.saved?.letter }} {{ store.at('/name') }}, revision
    {{ store.saved?.revision }}, {{ day }}
  </p>
</template>
<style scoped>
.printed {
  display: none;
}
</style>
