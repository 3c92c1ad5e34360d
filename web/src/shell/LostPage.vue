<template>
  <main class="lost">
    <h1>Nothing found at this address.</h1>
    <p class="soft">The project may have been deleted, or the link may be incomplete.</p>
    <router-link class="button" to="/">All projects</router-link>
  </main>
</template>
<style scoped>
.lost {
  padding: 18vh 40px;
  display: grid;
  gap: 14px;
  justify-items: center;
}
</style>
