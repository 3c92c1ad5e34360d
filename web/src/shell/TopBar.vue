<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api } from '@/api/client'
import { useDesign } from '@/stores/design'
import { useTheme } from '@/theme/useTheme'
import BriefText from '@/brief/BriefText.vue'
import { useNotice } from './useNotice'
import NoontideMark from './NoontideMark.vue'
import FindAnything from './FindAnything.vue'

const design = useDesign()
const route = useRoute()
const router = useRouter()
const { dark, toggle } = useTheme()
const { say, warn } = useNotice()
const renaming = ref<number | 'project' | null>(null)
const checks = computed(() => design.evaluation?.checks ?? [])
const errors = computed(() => checks.value.filter((check) => check.severity === 'error').length)

const to = (id: number) => ({ name: 'bench', params: { ...route.params, scheme: id }, query: route.query })

async function fork() {
  if (!design.saved) return
  await design.settled()
  try {
    const made = await api.fork(design.saved.id, '')
    await design.readProject()
    await router.push(to(made.id))
    say(
      `Scheme ${made.letter} begins as ${design.project?.schemes.find((s) => s.id !== made.id)?.letter ?? 'the last'} stood. Its name can be changed with a double click.`,
    )
  } catch (error) {
    warn((error as Error).message)
  }
}
async function pin() {
  if (!design.saved) return
  design.project = await api.pin(design.saved.id)
  await design.readPinned()
  say(`Figures are now compared with scheme ${design.saved.letter}.`)
}
async function remove() {
  if (!design.saved || !design.project) return
  const { id, letter } = design.saved
  try {
    await api.deleteScheme(id)
    const next = design.project.schemes.find((s) => s.id !== id)
    await design.readProject()
    if (next) await router.push(to(next.id))
    say(`Scheme ${letter} is deleted.`, {
      label: 'Undo',
      run: async () => {
        await api.restoreScheme(id)
        await design.readProject()
        await router.push(to(id))
      },
    })
  } catch (error) {
    warn((error as Error).message)
  }
}
/** The scheme as a document: what the command line simulates, and what the first page opens again. */
function save() {
  const name = String(design.at('/name') ?? 'scheme')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
  const link = document.createElement('a')
  link.href = URL.createObjectURL(new Blob([JSON.stringify(design.document, null, 2)], { type: 'application/json' }))
  link.download = `${name}.json`
  link.click()
  URL.revokeObjectURL(link.href)
}
async function rename(name: string) {
  const which = renaming.value
  renaming.value = null
  if (!name || which === null || !design.project) return
  if (which === 'project') design.project = await api.editProject(design.project.id, { name })
  else if (name !== design.at('/name')) design.edit({ name })
}
const vFocus = {
  mounted: (el: HTMLInputElement) => {
    el.focus()
    el.select()
  },
}
</script>
<template>
  <header class="bar">
    <router-link to="/" class="home" aria-label="Noontide, all projects"><NoontideMark /></router-link>
    <template v-if="design.project">
      <BriefText
        v-if="renaming === 'project'"
        v-focus
        :value="design.project.name"
        label="Name of the project"
        @change="rename"
        @leave="renaming = null"
      />
      <button
        v-else
        type="button"
        class="soft name"
        title="Double click to rename"
        @dblclick="renaming = 'project'"
        @keydown.f2="renaming = 'project'"
      >
        {{ design.project.name }}
      </button>
      <nav class="tabs" aria-label="Schemes">
        <template v-for="scheme in design.project.schemes" :key="scheme.id">
          <BriefText
            v-if="renaming === scheme.id"
            v-focus
            class="tab on"
            :value="scheme.name"
            :label="`Name of scheme ${scheme.letter}`"
            @change="rename"
            @leave="renaming = null"
          />
          <router-link
            v-else
            :to="to(scheme.id)"
            class="tab"
            :class="{ on: scheme.id === design.saved?.id }"
            :aria-current="scheme.id === design.saved?.id ? 'page' : undefined"
            :title="scheme.name"
            @dblclick="renaming = scheme.id"
            @keydown.f2="renaming = scheme.id"
            ><b>{{ scheme.letter }}</b>
            <span class="label">{{
              scheme.id === design.saved?.id ? (design.at('/name') ?? scheme.name) : scheme.name
            }}</span><i v-if="scheme.pinned" title="Every figure is compared with this scheme">
              ⚑ pinned</i
            ></router-link
          >
        </template>
        <button
          type="button"
          class="tab"
          title="A new scheme that begins as this one stands"
          aria-label="Fork this scheme"
          @click="fork"
        >
          +
        </button>
      </nav>
      <div class="right">
        <span v-if="design.away" class="bad" role="status">Server away; edits are kept</span>
        <span v-else-if="checks.length" :class="errors ? 'bad' : 'care'" class="count">{{
          errors ? `${errors} to fix` : `${checks.length} caution${checks.length > 1 ? 's' : ''}`
        }}</span>
        <button
          type="button"
          title="Undo (Ctrl+Z)"
          aria-label="Undo"
          :disabled="!design.saved?.can_undo && !design.isStale"
          @click="design.undo()"
        >
          ↶
        </button>
        <button
          type="button"
          title="Redo (Ctrl+Shift+Z)"
          aria-label="Redo"
          :disabled="!design.saved?.can_redo"
          @click="design.redo()"
        >
          ↷
        </button>
        <v-menu location="bottom end">
          <template #activator="{ props }"
            ><button type="button" v-bind="props" title="This scheme" aria-label="This scheme: pin, rename, delete">
              ⋯
            </button></template
          >
          <div class="menu" role="menu">
            <button type="button" role="menuitem" :disabled="design.project.pinned === design.saved?.id" @click="pin">
              Pin: compare with this scheme
            </button>
            <button type="button" role="menuitem" @click="renaming = design.saved?.id ?? null">
              Rename this scheme
            </button>
            <button type="button" role="menuitem" @click="fork">Fork this scheme</button>
            <button type="button" role="menuitem" @click="save">Save as a file</button>
            <button type="button" role="menuitem" @click="remove">Delete this scheme</button>
          </div>
        </v-menu>
      </div>
    </template>
    <FindAnything :class="{ alone: !design.project }" />
    <button
      type="button"
      class="theme"
      :aria-label="dark ? 'Light theme' : 'Dark theme'"
      :title="dark ? 'Light theme' : 'Dark theme'"
      @click="toggle"
    >
      {{ dark ? '☼' : '☾' }}
    </button>
  </header>
</template>
<style scoped>
.bar {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 16px;
  padding: 0 18px;
  border-bottom: 1px solid var(--rule);
  min-width: 0;
}
.home {
  text-decoration: none;
}
.name {
  white-space: nowrap;
}
.tabs {
  display: flex;
  gap: 2px;
  align-self: end;
  min-width: 0;
  flex: 1 1 auto;
  overflow: hidden;
}
.tab {
  padding: 7px 11px 6px;
  border-radius: 7px 7px 0 0;
  color: var(--soft);
  text-decoration: none;
  white-space: nowrap;
  min-width: 0;
  display: flex;
  gap: 6px;
  flex: 0 1 auto;
}
.tab .label {
  overflow: hidden;
  text-overflow: ellipsis;
}
.tab i {
  font-style: normal;
  color: var(--haze-text);
  flex: none;
}
.tab.on {
  background: var(--sheet);
  color: var(--ink);
  box-shadow: inset 0 2px 0 var(--ink);
  flex-shrink: 0.3;
}
.tab:hover {
  color: var(--ink);
}
.right {
  display: flex;
  gap: 12px;
  align-items: center;
  white-space: nowrap;
}
.right button,
.theme {
  font-size: 16px;
  color: var(--soft);
  min-width: 24px;
  min-height: 24px;
  text-align: center;
}
.right button:hover,
.theme:hover {
  color: var(--ink);
}
.right button:disabled {
  opacity: 0.35;
}
.count {
  font-size: 12px;
  font-weight: 600;
}
.menu {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 9px;
  padding: 6px;
  box-shadow: var(--shadow);
  display: grid;
}
.menu button {
  padding: 6px 12px;
  border-radius: 5px;
}
.menu button:hover,
.menu button:focus-visible {
  background: var(--pick);
}
.menu button:disabled {
  opacity: 0.45;
}
.alone {
  margin-left: auto;
}
</style>
