<script setup lang="ts">
import FileDrop from './shell/FileDrop.vue'
import AppNotice from './notice/AppNotice.vue'
</script>
<template>
  <v-app>
    <router-view />
    <FileDrop />
    <AppNotice />
  </v-app>
</template>
