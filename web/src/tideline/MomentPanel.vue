<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, type MomentAnswer } from '@/api/client'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { plain } from '@/theme/format'
import { useAnswer } from '@/stores/useAnswer'
import CopyTable from '@/tables/CopyTable.vue'

/** All values of one interval, in the order of the sunlight. */
const props = defineProps<{ interval: number; title: string }>()
const emit = defineEmits<{ close: [] }>()
const store = useSchemeStore()
const chosen = ref('')
const names = computed(() => store.subarrays.map((s) => s.id))
/** Two hundred sub-arrays are looked at one by one; a few beside one another. */
const only = computed(() => (names.value.length > 4 ? chosen.value || (names.value[0] ?? '') : ''))
const { answer, fault } = useAnswer(
  () => (store.shown ? `${store.shown.id} ${store.shown.revision} ${props.interval} ${only.value}` : null),
  (signal) => api.moment(store.shown!.id, props.interval, only.value, signal),
)
const part = (test: (v: MomentAnswer['values'][number]) => boolean) => answer.value?.values.filter(test) ?? []
const subarrays = () => [...new Set(part((v) => v.subarray !== '').map((v) => v.subarray))]
const keys = () => [...new Map(part((v) => v.subarray !== '').map((v) => [v.key, v])).values()]
const cell = (key: string, subarray: string) =>
  answer.value?.values.find((v) => v.key === key && v.subarray === subarray)?.value ?? 0
</script>
<template>
  <section class="moment" role="dialog" :aria-label="`All values, ${title}`" @keydown.esc.stop="emit('close')">
    <header>
      <h3>All values at {{ title }}</h3>
      <select v-if="names.length > 4" v-model="chosen" class="blank" aria-label="Sub-array">
        <option v-for="name in names" :key="name" :value="name">{{ name }}</option>
      </select>
      <span v-if="fault" class="bad">{{ fault }}</span>
      <CopyTable within=".moment" /><button type="button" class="link" @click="emit('close')">Close</button>
    </header>
    <div v-if="answer" class="columns">
      <table class="ledger">
        <tbody>
          <tr v-for="v in part((x) => x.scope === 'plant' && !x.key.startsWith('loss_'))" :key="v.key">
            <td>{{ v.title }}</td>
            <td class="num">{{ plain(v.value) }} {{ v.unit }}</td>
          </tr>
        </tbody>
      </table>
      <table class="ledger">
        <thead>
          <tr>
            <th>Sub-array</th>
            <th v-for="s in subarrays()" :key="s" class="num">
              {{ store.subarrays.find((one) => one.id === s)?.name }}
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="k in keys()" :key="k.key">
            <td>{{ k.title }}</td>
            <td v-for="s in subarrays()" :key="s" class="num">{{ plain(cell(k.key, s)) }} {{ k.unit }}</td>
          </tr>
        </tbody>
      </table>
      <table class="ledger">
        <thead>
          <tr>
            <th>Lost</th>
            <th class="num">W</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="v in part((x) => x.key.startsWith('loss_') && Math.abs(x.value) > 1e-9)" :key="v.key">
            <td>{{ v.title }}</td>
            <td class="num">{{ plain(v.value) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </section>
</template>
<style scoped>
.moment {
  position: absolute;
  bottom: calc(100% + 1px);
  left: 0;
  right: 0;
  max-height: min(440px, 60vh);
  overflow: auto;
  background: var(--sheet);
  border-top: 1px solid var(--rule-strong);
  box-shadow: var(--shadow);
  padding: 12px 22px 18px;
  z-index: 30;
}
header {
  display: flex;
  gap: 18px;
  align-items: baseline;
  margin-bottom: 8px;
}
header h3 {
  margin-right: auto;
}
.columns {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr) max-content;
  gap: 28px;
  align-items: start;
  overflow-x: auto;
}
td,
th {
  padding-block: 2.5px !important;
  font-size: 12px;
  white-space: nowrap;
}
</style>
