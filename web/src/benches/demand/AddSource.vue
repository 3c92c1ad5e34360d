<script setup lang="ts">
import type { DemandKinds } from '@/api/client'

/** What can be added: templates that stand for what people know of their use. */
defineProps<{ kinds: DemandKinds; isEmpty: boolean }>()
const emit = defineEmits<{ add: [source: DemandKinds['templates'][number]['source']]; file: [] }>()
</script>
<template>
  <div class="add" :class="{ isEmpty }">
    <p v-if="isEmpty" class="lead serif">Who uses the energy, and when? Begin with what is known; sources add up.</p>
    <ul>
      <li v-for="one in kinds.templates" :key="one.key">
        <button type="button" class="entry" @click="emit('add', one.source)">
          <b>{{ one.title }}</b> <span class="soft">{{ one.note }}</span>
        </button>
      </li>
      <li>
        <button type="button" class="entry" @click="emit('file')">
          <b>Interval data of a meter</b>
          <span class="soft">A file of measured use: CSV, XLSX, Parquet, JSON, XML of a meter, any step.</span>
        </button>
      </li>
    </ul>
  </div>
</template>
<style scoped>
.lead {
  font-size: 17px;
  margin-bottom: 10px;
}
.add.isEmpty {
  padding-top: 26px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(290px, 1fr));
  gap: 0 22px;
}
.entry {
  display: grid;
  width: 100%;
  padding: 7px 2px;
  border-bottom: 1px solid var(--rule);
  font-size: 12px;
}
.entry b {
  font: 600 14px var(--serif);
}
.entry:hover {
  background: var(--wash);
}
</style>
