<script setup lang="ts">
import type { SceneReading } from '@/api/client'

/** What a file would add to the scene, to be accepted one by one or all. */
defineProps<{ reading: SceneReading }>()
const emit = defineEmits<{ accept: [things: SceneReading['things']]; turn: [up: SceneReading['up']]; close: [] }>()
</script>
<template>
  <section class="reading" aria-label="Read from the file">
    <p>
      {{ reading.file }} gives {{ reading.things.length }} {{ reading.things.length === 1 ? 'object' : 'objects' }}.
      <button type="button" class="link" @click="emit('accept', reading.things)">Accept all</button>
      <button type="button" class="link" @click="emit('close')">Discard the rest</button>
    </p>
    <p v-if="reading.up" class="soft">
      Its {{ reading.up }} axis points up.
      <button type="button" class="link" @click="emit('turn', reading.up === 'y' ? 'z' : 'y')">
        Use the {{ reading.up === 'y' ? 'z' : 'y' }} axis
      </button>
    </p>
    <ul>
      <li v-for="one in reading.things" :key="one.id">
        {{ one.name }} <span class="soft">{{ one.words }}</span>
        <button type="button" class="link" :aria-label="`Accept ${one.name}`" @click="emit('accept', [one])">
          accept
        </button>
      </li>
    </ul>
  </section>
</template>
<style scoped>
.reading {
  position: absolute;
  z-index: 4;
  right: 20px;
  top: 84px;
  width: 320px;
  max-height: 320px;
  overflow: auto;
  background: var(--sheet);
  box-shadow: var(--shadow);
  border-radius: 8px;
  padding: 10px 14px;
  font-size: 12px;
}
p {
  margin: 0 0 4px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 2px 0;
  border-bottom: 1px solid var(--rule);
}
</style>
