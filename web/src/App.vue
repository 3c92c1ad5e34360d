<script setup lang="ts">
import { useRoute } from 'vue-router'
import FileDrop from './shell/FileDrop.vue'
import HabitsSheet from './shell/HabitsSheet.vue'
import AppNotice from './notice/AppNotice.vue'

/** Whoever reads a shared view brings nothing in. */
const route = useRoute()
</script>
<template>
  <v-app>
    <router-view />
    <FileDrop v-if="route.name && route.name !== 'shared'" />
    <HabitsSheet />
    <AppNotice />
  </v-app>
</template>
