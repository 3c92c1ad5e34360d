<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useTheme } from '@/theme/useTheme'
import BriefText from '@/brief/BriefText.vue'
import FindAnything from '@/find/FindAnything.vue'
import NoontideMark from '@/theme/NoontideMark.vue'
import SchemeMenu from './SchemeMenu.vue'
import SchemeTabs from './SchemeTabs.vue'
import { useSchemeActions } from './useSchemeActions'
import { vFocus } from '@/keyboard/vFocus'

const store = useSchemeStore()
const { dark, toggle } = useTheme()
const { renameProject, acts: schemeActs } = useSchemeActions()
const isRenamingProject = ref(false)
const renamingScheme = ref<number | null>(null)
const renameScheme = () => (renamingScheme.value = store.saved?.id ?? null)
/** What can be done with the scheme, for Find anything. */
const acts = computed(() =>
  store.project
    ? [
        ...schemeActs(renameScheme).filter((act) => !act.isOff && !act.isGeneral),
        { title: 'Rename the project', also: 'name of the project', run: () => (isRenamingProject.value = true) },
      ].map((act) => ({ kind: 'action', more: 'scheme', ...act }))
    : [],
)
const checks = computed(() => (store.evaluation?.checks ?? []).filter((check) => !check.accepted))
const errors = computed(() => checks.value.filter((check) => check.severity === 'error').length)
const verdict = computed(() =>
  errors.value ? `${errors.value} to fix` : `${checks.value.length} caution${checks.value.length > 1 ? 's' : ''}`,
)
</script>
<template>
  <header class="bar">
    <router-link to="/" class="home" aria-label="Noontide, all projects"><NoontideMark /></router-link>
    <template v-if="store.project">
      <BriefText
        v-if="isRenamingProject"
        v-focus
        :value="store.project.name"
        label="Name of the project"
        @change="renameProject"
        @leave="isRenamingProject = false"
        @keydown.enter="isRenamingProject = false"
      />
      <button
        v-else
        type="button"
        class="soft name"
        title="Double click to rename"
        @dblclick="isRenamingProject = true"
        @keydown.f2="isRenamingProject = true"
      >
        {{ store.project.name }}
      </button>
      <SchemeTabs v-model:renaming="renamingScheme" />
      <div class="right">
        <span v-if="store.isOffline" class="bad" role="status">Offline: edits are saved on this computer</span>
        <span v-else-if="checks.length" :class="errors ? 'bad' : 'care'" class="count">{{ verdict }}</span>
        <button
          type="button"
          title="Undo (Ctrl+Z)"
          aria-label="Undo"
          :disabled="!store.saved?.can_undo && !store.isStale"
          @click="store.undo()"
        >
          ↶
        </button>
        <button
          type="button"
          title="Redo (Ctrl+Shift+Z)"
          aria-label="Redo"
          :disabled="!store.saved?.can_redo"
          @click="store.redo()"
        >
          ↷
        </button>
        <SchemeMenu @rename="renameScheme" />
      </div>
    </template>
    <FindAnything :class="{ alone: !store.project }" :acts="acts" />
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
@media (max-width: 999px) {
  .bar {
    flex-wrap: wrap;
    min-height: 48px;
    padding: 4px 12px;
  }
}
.home {
  text-decoration: none;
}
.name {
  white-space: nowrap;
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
.alone {
  margin-left: auto;
}
</style>
