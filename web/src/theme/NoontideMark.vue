<template>
  <span class="mark"
    ><svg width="30" height="22" viewBox="0 0 30 22" aria-hidden="true">
      <path d="M5 13a10 10 0 0 1 20 0" fill="var(--sun)" />
      <path d="M0 15c5-4 8 3 15 0s10-3 15 0" fill="none" stroke="var(--ink)" stroke-width="2" />
      <path d="M3 20c4-3 8 2 12 0s8-2 12 0" fill="none" stroke="var(--current)" stroke-width="2" /></svg
    >Noontide</span
  >
</template>
<style scoped>
.mark {
  font: 600 19px/1 var(--serif);
  display: flex;
  gap: 9px;
  align-items: center;
  color: var(--ink);
}
</style>
