<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import { number } from '@/theme/format'

/** A long file that is being read: how large it is, for how long already, and how to stop. */
const props = defineProps<{ name: string; bytes: number; since: number }>()
const emit = defineEmits<{ stop: [] }>()
const LARGE = 2e6
const now = ref(Date.now())
let timer = 0
onMounted(() => (timer = window.setInterval(() => (now.value = Date.now()), 250)))
onBeforeUnmount(() => window.clearInterval(timer))
const seconds = computed(() => Math.max(0, Math.floor((now.value - props.since) / 1000)))
</script>
<template>
  <div class="progress" role="status">
    <p class="serif">Reading {{ name }}…</p>
    <p v-if="bytes > LARGE" class="soft">{{ number(bytes / 1e6, 1) }} MB, {{ seconds }} s</p>
    <template v-if="bytes > LARGE || seconds > 1">
      <progress />
      <button type="button" class="button" @click="emit('stop')">Cancel</button>
    </template>
  </div>
</template>
<style scoped>
.progress {
  display: grid;
  gap: 8px;
  justify-items: center;
  pointer-events: auto;
}
.serif {
  font-size: 26px;
  font-weight: 600;
}
</style>
