<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { useRoute } from 'vue-router'
import { api, type ProjectCard } from '@/api/client'
import { useLibrary } from '@/stores/library'
import { bringIn } from '@/stores/bringing'
import { isChoosingHabits } from '@/stores/choosing'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useNotice } from '@/notice/useNotice'
import { useTheme } from '@/theme/useTheme'
import NoontideMark from '@/theme/NoontideMark.vue'
import FindAnything from '@/find/FindAnything.vue'
import { chooseWeatherFile } from '@/weather/weatherFile'
import ProjectSheet from './ProjectSheet.vue'
import UnusedData from './UnusedData.vue'
import QuickEstimate from './QuickEstimate.vue'

const library = useLibrary()
const store = useSchemeStore()
const route = useRoute()
const { say } = useNotice()
const { dark, toggle } = useTheme()
const projects = shallowRef<ProjectCard[]>([])
const ready = ref(false)
const fault = ref('')
const filter = ref('')
const ASK_AGAIN_MS = 800
let again = 0
onBeforeUnmount(() => window.clearTimeout(again))
const shown = computed(() =>
  projects.value.filter((p) =>
    `${p.name} ${p.customer} ${p.place} ${p.note}`.toLowerCase().includes(filter.value.toLowerCase()),
  ),
)

async function read() {
  fault.value = ''
  try {
    projects.value = await api.projects()
    window.clearTimeout(again)
    if (projects.value.some((p) => p.state === 'pending')) again = window.setTimeout(read, ASK_AGAIN_MS)
  } catch (error) {
    fault.value = (error as Error).message
  }
}
onMounted(async () => {
  document.title = 'Noontide'
  store.close()
  try {
    await library.read()
    ready.value = true
  } catch (error) {
    fault.value = (error as Error).message
  }
  await read()
})
async function remove(project: ProjectCard) {
  await api.deleteProject(project.id)
  await read()
  say(`${project.name} deleted.`, {
    label: 'Undo',
    run: async () => {
      await api.restoreProject(project.id)
      await read()
    },
  })
}
</script>
<template>
  <div class="first">
    <header class="bar">
      <NoontideMark /><button type="button" class="soft link first-link" @click="isChoosingHabits = true">Units…</button
      ><button type="button" class="soft link" @click="chooseWeatherFile()">Add weather…</button><FindAnything /><button
        type="button"
        class="theme soft"
        :aria-label="dark ? 'Light theme' : 'Dark theme'"
        @click="toggle"
      >
        {{ dark ? '☼' : '☾' }}
      </button>
    </header>
    <main>
      <h1 class="sr">Noontide: projects and quick estimate</h1>
      <QuickEstimate v-if="ready" :place="typeof route.query.place === 'string' ? route.query.place : ''" />
      <p v-if="fault" class="bad fault">
        {{ fault }} <button type="button" class="link" @click="read">Try again</button>
      </p>
      <section class="projects" aria-label="Projects">
        <header>
          <h2>Projects</h2>
          <span class="soft">{{ projects.length }}, last changed first</span
          ><input
            v-if="projects.length > 3"
            v-model="filter"
            class="field"
            type="search"
            placeholder="Filter"
            aria-label="Filter the projects"
          /><button type="button" class="button" @click="bringIn">Bring in…</button>
        </header>
        <div class="sheets">
          <ProjectSheet v-for="project in shown" :key="project.id" :project="project" @remove="remove(project)" />
        </div>
        <p v-if="ready && !projects.length && !fault" class="soft empty">
          No project yet. The estimate above becomes one with “Go on from here”.
        </p>
      </section>
      <UnusedData />
    </main>
  </div>
</template>
<style scoped>
.first {
  max-width: 1280px;
  margin: 0 auto;
  padding: 0 40px 40px;
}
@media (max-width: 999px) {
  .first {
    padding: 0 16px 24px;
  }
}
.bar {
  display: flex;
  align-items: center;
  gap: 18px;
  height: 62px;
}
.bar .first-link {
  margin-left: auto;
}
.theme {
  font-size: 16px;
  min-width: 24px;
}
.projects {
  margin-top: 24px;
}
.projects header {
  display: flex;
  align-items: baseline;
  gap: 14px;
  margin-bottom: 14px;
}
.projects .button {
  margin-left: auto;
}
.sheets {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 20px;
}
@media (max-width: 999px) {
  .sheets {
    grid-template-columns: minmax(0, 1fr);
  }
}
.empty {
  padding: 20px 0;
}
.fault {
  padding: 12px 0;
}
</style>
