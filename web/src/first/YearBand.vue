<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'
import { paintYear } from '@/tideline/paintYear'
import { useTheme } from '@/theme/useTheme'

/** The year as a band: a column a day, a row an hour. */
const props = defineProps<{ year: number[] }>()
const canvas = ref<HTMLCanvasElement>()
const { dark } = useTheme()
function draw() {
  const days = props.year.length / 24
  if (!canvas.value) return
  canvas.value.width = days
  canvas.value.height = 24
  canvas.value.getContext('2d')!.putImageData(
    paintYear(props.year, { days, perDay: 24, low: -20, high: 255 }, (i) => props.year[i] === 0),
    0,
    0,
  )
}
watch([() => props.year, dark], draw)
onMounted(draw)
</script>
<template>
  <canvas ref="canvas" role="img" aria-label="The power of every hour of the year: days across, hours up" />
</template>
<style scoped>
canvas {
  grid-column: 1 / -1;
  width: calc(100% + 72px);
  margin: 0 -36px;
  height: 64px;
  image-rendering: pixelated;
  display: block;
  border-radius: 0 0 13px 13px;
  background: var(--night);
}
</style>
