<script setup lang="ts">
import { ref } from 'vue'
import { api } from '@/api/client'
import { useAnswer } from '@/stores/useAnswer'
import { useAskedAct } from '@/stores/useAskedAct'
import { useSchemeStore } from '@/stores/useSchemeStore'
import SharedViews from './SharedViews.vue'

/** The one place from which a scheme and its project leave: everything that they can be written as. */
const store = useSchemeStore()
const isOpen = ref(false)
useAskedAct({ 'take-away': () => (isOpen.value = true) })
const { answer, fault } = useAnswer(
  () => (isOpen.value && store.saved ? `${store.saved.id} ${store.saved.revision}` : null),
  (signal) => api.takeAway(store.saved!.id, signal),
)
</script>
<template>
  <v-dialog v-model="isOpen" role="none" :aria-modal="null" max-width="720" scroll-strategy="none">
    <div class="sheet" role="dialog" aria-label="Take away">
      <div class="head">
        <h2>Take away</h2>
        <span class="soft">scheme {{ store.saved?.letter }}, revision {{ store.saved?.revision }}</span>
        <button type="button" class="link" @click="isOpen = false">Close</button>
      </div>
      <p v-if="fault" class="bad">{{ fault }}</p>
      <section v-for="group in answer ?? []" :key="group.title" :aria-label="group.title">
        <h3 class="cap">{{ group.title }}</h3>
        <div v-for="line in group.lines" :key="line.title" class="line">
          <span class="serif" :class="{ soft: line.missing }">{{ line.title }}</span>
          <span class="soft">{{ line.missing || line.good_for }}</span>
          <span class="formats">
            <a
              v-for="one in line.formats"
              :key="one.name"
              class="link"
              :href="one.address"
              download
              :aria-label="`${line.title}: ${one.name}`"
              >{{ one.name }}</a
            >
          </span>
        </div>
      </section>
      <SharedViews v-if="store.saved" :scheme="store.saved.id" :revision="store.saved.revision" />
    </div>
  </v-dialog>
</template>
<style scoped>
.sheet {
  background: var(--sheet);
  color: var(--ink);
  border-radius: 12px;
  padding: 20px 26px 24px;
  display: grid;
  gap: 14px;
  max-height: 88vh;
  overflow-y: auto;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
.head h2 {
  margin: 0;
}
.head .link {
  margin-left: auto;
}
h3 {
  margin: 0 0 2px;
}
.line {
  display: grid;
  grid-template-columns: 150px minmax(0, 1fr) auto;
  gap: 4px 14px;
  align-items: baseline;
  padding: 4px 0;
  border-top: 1px solid var(--rule);
  font-size: 12.5px;
}
.line .serif {
  font-size: 14px;
}
.formats {
  display: flex;
  gap: 12px;
  white-space: nowrap;
}
</style>
