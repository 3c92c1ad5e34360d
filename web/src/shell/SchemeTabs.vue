<script setup lang="ts">
import { useSchemeStore } from '@/stores/useSchemeStore'
import BriefText from '@/brief/BriefText.vue'
import { useSchemeActions } from './useSchemeActions'
import { vFocus } from '@/keyboard/vFocus'

/** The schemes of the project as tabs; a double click or F2 renames one, + forks the open one. */
const renaming = defineModel<number | null>('renaming', { required: true })
const store = useSchemeStore()
const { inScheme, fork, renameScheme } = useSchemeActions()
const isOpen = (id: number) => id === store.saved?.id
</script>
<template>
  <nav v-if="store.project" class="tabs" aria-label="Schemes">
    <template v-for="scheme in store.project.schemes" :key="scheme.id">
      <BriefText
        v-if="renaming === scheme.id"
        v-focus
        class="tab on"
        :value="scheme.name"
        :label="`Name of scheme ${scheme.letter}`"
        @change="renameScheme"
        @leave="renaming = null"
        @keydown.enter="renaming = null"
      />
      <router-link
        v-else
        :to="inScheme(scheme.id)"
        class="tab"
        :class="{ on: isOpen(scheme.id) }"
        :aria-current="isOpen(scheme.id) ? 'page' : undefined"
        :title="scheme.name"
        @dblclick="renaming = scheme.id"
        @keydown.f2="renaming = scheme.id"
        ><b>{{ scheme.letter }}</b>
        <span class="label">{{ isOpen(scheme.id) ? (store.at('/name') ?? scheme.name) : scheme.name }}</span><i
          v-if="scheme.pinned"
          title="Every figure is compared with this scheme"
        >
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
</template>
<style scoped>
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
.label {
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
</style>
