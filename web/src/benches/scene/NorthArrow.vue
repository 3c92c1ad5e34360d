<script setup lang="ts">
/** Where north is; a press turns the sheet. */
defineProps<{ north: number }>()
const emit = defineEmits<{ turn: [] }>()
</script>
<template>
  <button
    type="button"
    class="north"
    aria-label="North arrow: turn the sheet by 45°"
    title="Turn the sheet"
    @pointerdown.stop
    @click="emit('turn')"
  >
    <svg width="34" height="34" viewBox="-17 -17 34 34">
      <g :transform="`rotate(${north})`">
        <path d="M0 13V-12M-4.5 -4 0 -13 4.5 -4" fill="none" stroke="currentColor" stroke-width="1.3" />
        <path d="M-5 6H5" stroke="currentColor" />
      </g>
    </svg>
    <span>N</span>
  </button>
</template>
<style scoped>
.north {
  position: absolute;
  right: 4px;
  bottom: 4px;
  color: var(--ink);
  display: grid;
  justify-items: center;
  font-size: 10px;
  line-height: 1;
  cursor: pointer;
}
</style>
