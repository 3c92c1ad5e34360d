<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { useSchemeStore } from '@/stores/useSchemeStore'
import type { JsonObject } from '@/api/mergePatch'

const store = useSchemeStore()
const route = useRoute()
const checks = computed(() => store.evaluation?.checks ?? [])
const apply = (patch: object) => store.edit(patch as JsonObject)
</script>
<template>
  <h3 v-if="checks.length" class="sr">Open checks</h3>
  <article v-for="check in checks" :key="check.rule + check.pointer" :class="check.severity">
    <b>{{ check.severity === 'error' ? '✕' : '△' }} {{ check.title }}</b>
    <p>{{ check.detail }}</p>
    <p class="acts">
      <button
        v-for="remedy in check.remedies"
        :key="remedy.label"
        type="button"
        class="button"
        @click="apply(remedy.patch)"
      >
        {{ remedy.label }}
      </button>
      <router-link
        v-if="route.params.bench !== check.bench"
        class="link"
        :to="{ name: 'bench', params: { ...route.params, bench: check.bench }, query: route.query }"
        >Show</router-link
      >
      <span class="sr">Source: {{ check.source }}</span>
    </p>
  </article>
</template>
<style scoped>
article {
  border-top: 1px solid var(--rule);
  padding: 8px 0 9px;
  font-size: 12px;
  display: grid;
  gap: 3px;
  margin-top: 4px;
}
.error b {
  color: var(--loss-text);
}
.caution b {
  color: var(--caution-text);
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.button {
  padding: 2px 9px;
  font-size: 11.5px;
}
</style>
