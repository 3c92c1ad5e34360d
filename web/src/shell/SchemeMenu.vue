<script setup lang="ts">
import { useSchemeActions } from './useSchemeActions'

/** What can be done with the open scheme, by name. */
const emit = defineEmits<{ rename: [] }>()
const { acts } = useSchemeActions()
</script>
<template>
  <v-menu location="bottom end">
    <template #activator="{ props }"
      ><button
        type="button"
        class="more"
        v-bind="props"
        title="This scheme"
        aria-label="This scheme: pin, rename, delete"
      >
        ⋯
      </button></template
    >
    <div class="menu" role="menu">
      <button
        v-for="one in acts(() => emit('rename'))"
        :key="one.title"
        type="button"
        role="menuitem"
        :disabled="one.isOff"
        @click="one.run"
      >
        {{ one.title }}
      </button>
    </div>
  </v-menu>
</template>
<style scoped>
.more {
  font-size: 16px;
  color: var(--soft);
  min-width: 24px;
  min-height: 24px;
  text-align: center;
}
.more:hover {
  color: var(--ink);
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
</style>
