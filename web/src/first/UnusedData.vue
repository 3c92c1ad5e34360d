<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, type Unused } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import { number } from '@/theme/format'

/** Weather years and pictures that no design uses, with what deleting them would free; looked for when asked. */
const { say, warn } = useNotice()
const unused = ref<Unused | null>(null)
const items = computed(() => [
  ...(unused.value?.weather ?? []).map((item) => ({ ...item, kind: 'weather' as const })),
  ...(unused.value?.pictures ?? []).map((item) => ({ ...item, kind: 'pictures' as const })),
  ...(unused.value?.use ?? []).map((item) => ({ ...item, kind: 'use' as const })),
])
const size = (bytes: number) => `${number(bytes / 1024 ** 2, bytes < 1024 ** 2 ? 2 : 1)} MB`
const words = computed(() => {
  const [years, pictures] = [unused.value?.weather.length ?? 0, unused.value?.pictures.length ?? 0]
  const meters = unused.value?.use.length ?? 0
  const parts = [
    years ? `${years} weather year${years > 1 ? 's' : ''}` : '',
    pictures ? `${pictures} picture${pictures > 1 ? 's' : ''}` : '',
    meters ? `${meters} file${meters > 1 ? 's' : ''} of interval data` : '',
  ]
  return parts.filter(Boolean).join(' and ')
})
async function read() {
  try {
    unused.value = await api.unused()
  } catch (error) {
    warn((error as Error).message)
  }
}
async function remove(some: (typeof items)['value']) {
  try {
    let freed = 0
    for (const item of some) freed += (await api.deleteUnused(item.kind, item.digest)).bytes
    say(`Deleted; ${size(freed)} are free.`)
  } catch (error) {
    warn((error as Error).message)
  }
  await read()
}
</script>
<template>
  <section class="unused soft" aria-label="Unused data">
    <button v-if="!unused" type="button" class="link" @click="read">Weather and pictures that no design uses…</button>
    <p v-else-if="!items.length" role="status">Every weather year and picture is used by a design.</p>
    <template v-else>
      <p role="status">
        {{ words }} {{ items.length > 1 ? 'are' : 'is' }} used by no design: {{ size(unused.bytes) }}.
        <button type="button" class="link" @click="remove(items)">Delete all of them</button>: it cannot be undone.
      </p>
      <ul>
        <li v-for="item in items" :key="item.digest">
          {{ item.title }}, {{ size(item.bytes) }}
          <button type="button" class="link" :aria-label="`Delete ${item.title}`" @click="remove([item])">
            delete
          </button>
        </li>
      </ul>
    </template>
  </section>
</template>
<style scoped>
.unused {
  margin-top: 22px;
  font-size: 12px;
}
ul {
  margin: 4px 0;
  padding: 0;
  list-style: none;
}
</style>
