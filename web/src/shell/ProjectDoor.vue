<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'

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
    <template v-if="fault"
      ><h1>This project cannot be opened.</h1>
      <p class="soft">{{ fault }}</p>
      <p>
        <button class="button" type="button" @click="enter">Try again</button>
        <router-link class="button quiet" to="/">All projects</router-link>
      </p></template
    >
    <p v-else class="soft">Opening the project…</p>
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
