<script setup lang="ts">
import WeatherDrop from './shell/WeatherDrop.vue'
import AppNotice from './notice/AppNotice.vue'
</script>
<template>
  <v-app>
    <router-view />
    <WeatherDrop />
    <AppNotice />
  </v-app>
</template>
