<script setup lang="ts">
/** What stands in place of a page while it is being opened, and where it cannot be. */
defineProps<{ fault: string; title: string; waiting: string }>()
const emit = defineEmits<{ retry: [] }>()
</script>
<template>
  <template v-if="fault"
    ><h1>{{ title }}</h1>
    <p class="soft">{{ fault }}</p>
    <p>
      <button class="button" type="button" @click="emit('retry')">Try again</button>
      <router-link class="button quiet" to="/">All projects</router-link>
    </p></template
  >
  <p v-else class="soft">{{ waiting }}</p>
</template>
