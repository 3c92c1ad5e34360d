<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { readNumber } from '@/brief/useDraft'
import { useTyping } from '@/brief/useTyping'
import { useDrawnWidth } from '@/charts/useDrawnWidth'

/** The horizon, drawn from north over south to north, and as pairs to type or to paste. */
const store = useSchemeStore()
const points = computed(
  () => (store.at('/site/horizon') as unknown as { azimuth: number; elevation: number }[] | undefined) ?? [],
)
const { text, edit, take } = useTyping(() => points.value.map((p) => `${p.azimuth}\t${p.elevation}`).join('\n'))
const fault = ref('')
const H = 110
const width = useDrawnWidth(useTemplateRef('chart'), 504, 240)
const top = computed(() => Math.max(20, ...points.value.map((p) => p.elevation + 3)))
const x = (azimuth: number) => (azimuth / 360) * width.value
const y = (elevation: number) => H - (elevation / top.value) * (H - 8)
const line = computed(() => {
  if (!points.value.length) return ''
  const sorted = [...points.value].sort((a, b) => a.azimuth - b.azimuth)
  const first = sorted[0]!,
    last = sorted.at(-1)!
  const gap = first.azimuth + 360 - last.azimuth
  const north = gap
    ? last.elevation + ((first.elevation - last.elevation) * (360 - last.azimuth)) / gap
    : first.elevation
  return `M0 ${H}L0 ${y(north)}${sorted.map((p) => `L${x(p.azimuth).toFixed(1)} ${y(p.elevation).toFixed(1)}`).join('')}L${width.value} ${y(north)}L${width.value} ${H}Z`
})
function commit() {
  fault.value = ''
  const rows = text.value
    .split('\n')
    .map((row) => row.trim())
    .filter(Boolean)
  const found: { azimuth: number; elevation: number }[] = []
  for (const [i, row] of rows.entries()) {
    const [azimuth, elevation] = row.split(/[\t; ]+|,\s+/).map(readNumber)
    if (
      azimuth === undefined ||
      elevation === undefined ||
      Number.isNaN(azimuth) ||
      Number.isNaN(elevation) ||
      azimuth < 0 ||
      azimuth > 360 ||
      elevation < 0 ||
      elevation > 89
    ) {
      fault.value = `Line ${i + 1}: an azimuth of 0 to 360° and an elevation of 0 to 89° were expected, such as "92 14".`
      return
    }
    found.push({ azimuth, elevation })
  }
  found.sort((a, b) => a.azimuth - b.azimuth)
  const twice = found.find((p, i) => p.azimuth === found[i - 1]?.azimuth)
  if (twice) {
    fault.value = `${twice.azimuth}° is listed twice; remove one.`
    return
  }
  take()
  if (JSON.stringify(found) !== JSON.stringify(points.value))
    store.edit({ site: { horizon: found.length ? (found as unknown as never) : null } })
}
</script>
<template>
  <section>
    <h3>Horizon</h3>
    <div class="two">
      <svg
        ref="chart"
        :viewBox="`0 -2 ${width} ${H + 20}`"
        width="100%"
        role="img"
        aria-label="Horizon elevation by azimuth"
      >
        <line
          v-for="e in [10, 20, 30, 40].filter((v) => v < top)"
          :key="e"
          x1="0"
          :x2="width"
          :y1="y(e)"
          :y2="y(e)"
          stroke="var(--rule)"
        />
        <text
          v-for="e in [10, 20, 30, 40].filter((v) => v < top)"
          :key="`t${e}`"
          :x="2"
          :y="y(e) - 3"
          font-size="11"
          style="fill: var(--soft)"
        >
          {{ e }}°
        </text>
        <path :d="line" fill="var(--haze)" opacity=".55" />
        <line x1="0" :x2="width" :y1="H" :y2="H" stroke="var(--ink)" />
        <text
          v-for="(name, i) in ['N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW', 'N']"
          :key="i"
          :x="Math.min(width - 5, Math.max(5, x(i * 45)))"
          :y="H + 14"
          font-size="11"
          text-anchor="middle"
        >
          {{ name }}
        </text>
      </svg>
      <div>
        <textarea
          :value="text"
          class="field"
          rows="5"
          aria-label="Horizon as pairs of azimuth and elevation"
          placeholder="azimuth  elevation&#10;60  6&#10;92  14"
          spellcheck="false"
          @input="edit(($event.target as HTMLTextAreaElement).value)"
          @blur="commit"
        />
        <p v-if="fault" class="bad" role="alert">{{ fault }}</p>
        <p v-else class="soft">
          Azimuth and elevation in degrees, one pair a line; or paste two columns of a spreadsheet.
        </p>
      </div>
    </div>
  </section>
</template>
<style scoped>
section {
  margin-top: 12px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 176px;
  gap: 18px;
  align-items: start;
  margin-top: 4px;
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: 1fr;
  }
}
textarea {
  width: 100%;
  resize: vertical;
}
p {
  font-size: 11.5px;
}
</style>
