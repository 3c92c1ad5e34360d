<script setup lang="ts">
import FileDrop from './shell/FileDrop.vue'
import HabitsSheet from './shell/HabitsSheet.vue'
import AppNotice from './notice/AppNotice.vue'
</script>
<template>
  <v-app>
    <router-view />
    <FileDrop />
    <HabitsSheet />
    <AppNotice />
  </v-app>
</template>
