<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'
import OpeningNotice from './OpeningNotice.vue'

/** The address of a project alone leads to its pinned scheme. */
const route = useRoute()
const router = useRouter()
const fault = ref('')
async function enter() {
  fault.value = ''
  try {
    const project = await api.project(Number(route.params.project))
    const scheme = project.pinned ?? project.schemes[0]?.id
    if (scheme) await router.replace(`/projects/${project.id}/${scheme}/surfaces`)
    else fault.value = 'This project has no scheme.'
  } catch (error) {
    fault.value = (error as Error).message
  }
}
onMounted(enter)
</script>
<template>
  <main class="door" :aria-busy="!fault">
    <OpeningNotice
      :fault="fault"
      title="This project cannot be opened."
      waiting="Opening the project…"
      @retry="enter"
    />
  </main>
</template>
<style scoped>
.door {
  height: 100vh;
  display: grid;
  align-content: center;
  justify-items: center;
  gap: 12px;
}
</style>
