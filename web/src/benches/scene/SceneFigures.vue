<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, type SceneObstacles, type ShadeAnswer } from '@/api/client'
import { useNotice } from '@/notice/useNotice'
import { useJob } from '@/stores/useJob'
import { useShadeByHand } from '@/stores/useShadeByHand'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { energyText } from '@/theme/format'
import AccessTable from './AccessTable.vue'
import DemandLine from './DemandLine.vue'

/** What the scene comes to: solar access by month, what each obstacle costs, and the plan as files. */
defineProps<{ shade: ShadeAnswer | null; fault: string; isCurrent: boolean }>()
const emit = defineEmits<{ remove: [modules: Record<string, string[]>]; pick: [id: string]; save: [] }>()
const store = useSchemeStore()
const { warn } = useNotice()
const costs = ref<SceneObstacles | null>(null)
const { job, run, cancel } = useJob()
async function rank() {
  try {
    await store.flush()
    costs.value = await run(store.saved!.id, 'obstacle-costs')
  } catch (error) {
    warn((error as Error).message)
  }
}
const route = useRoute()
const measured = useShadeByHand()
const ranking = computed(() => (costs.value && costs.value.revision === store.saved?.revision ? costs.value : null))
const kindWords = (name: string) => name.charAt(0).toLowerCase() + name.slice(1)

const files = [
  ['svg', 'SVG'],
  ['pdf', 'PDF'],
  ['dxf', 'DXF'],
  ['glb', 'glTF'],
  ['geojson', 'GeoJSON'],
  ['csv', 'CSV'],
] as const
</script>
<template>
  <div>
    <AccessTable
      v-if="shade?.surfaces.length"
      :shade="shade"
      :class="{ stale: !isCurrent }"
      @remove="emit('remove', $event)"
    />
    <p v-else-if="fault" class="soft">{{ fault }}</p>
    <p v-else class="soft">
      Pick a building, then one of its roof faces, and put modules there; their solar access by month stands here then.
    </p>
    <p v-if="measured" class="soft costs" role="status">
      The year counts {{ measured }} in place of this scene; the table checks it.
      <RouterLink class="link" :to="{ name: 'bench', params: { ...route.params, bench: 'sky' }, query: route.query }"
        >Sky</RouterLink
      >
    </p>
    <p v-if="!measured && shade?.surfaces.some((s) => s.surface)" class="soft costs">
      <template v-if="ranking">
        <template v-for="(o, i) in ranking.obstacles.slice(0, 4)" :key="o.id"
          >{{ i ? '; ' : 'Without '
          }}<button type="button" class="link" @click="emit('pick', o.id)">the {{ kindWords(o.name) }}</button>
          {{ o.energy >= 0 ? '+' : '' }}{{ energyText(o.energy) }}</template
        >
        a year.
      </template>
      <span v-else-if="job" role="status">
        <progress :value="job.progress" max="1" /> The year without each obstacle: {{ job.message || 'waiting' }}.
        <button type="button" class="link" @click="cancel">Cancel</button>
      </span>
      <button v-else type="button" class="link" @click="rank">What does each obstacle cost?</button>
    </p>
    <DemandLine />
    <p class="soft files">
      Plan:
      <a
        v-for="[kind, word] in files"
        :key="kind"
        class="link"
        :href="api.planFile(store.saved?.id ?? 0, kind)"
        download
        >{{ word }}</a
      >
      <button type="button" class="link" @click="emit('save')">PNG</button>
      <template v-if="shade?.surfaces.some((s) => s.surface)">
        <span>Table:</span>
        <a class="link" :href="api.shadeTable(store.saved?.id ?? 0, false)" download>by surface</a>
        <a class="link" :href="api.shadeTable(store.saved?.id ?? 0, true)" download>by module</a>
      </template>
    </p>
  </div>
</template>
<style scoped>
.stale {
  opacity: 0.55;
}
.costs,
.files {
  font-size: 12px;
  margin: 3px 0 0;
}
.read {
  cursor: pointer;
}
.files {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 9px;
}
</style>
