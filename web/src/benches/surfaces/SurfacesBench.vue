<script setup lang="ts">
import { computed } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useLibrary } from '@/stores/library'
import { RAMP_GRADIENT } from '@/theme/ramp'
import { azimuthWords, MONTHS, number } from '@/theme/format'
import SkyDisc from './SkyDisc.vue'
import SurfaceNames from './SurfaceNames.vue'
import SurfaceSheet from './SurfaceSheet.vue'
import type { Season } from '@/api/client'
import { MONTH_KEYS, SEASONS, useOrientation } from './useOrientation'
import { usePlanes } from './usePlanes'
import { useSurfaceEdits } from './useSurfaceEdits'

const store = useSchemeStore()
const library = useLibrary()
const { season, hours, map, fault, irradiation } = useOrientation()
const edits = useSurfaceEdits(map)
const { surfaces, picked } = edits
const { planes, paths, now, standing } = usePlanes(surfaces)
const shown = computed(() => surfaces.value.map(standing))

const during = computed(() => {
  const [from, to] = hours.value
  const month = MONTHS[MONTH_KEYS.indexOf(season.value)]
  const when = season.value === 'year' ? 'a year' : month ? `in ${month}` : `in the ${season.value} half`
  return from === 0 && to === 24 ? when : `${when}, ${from} to ${to} h`
})
const price = computed(() => map.value?.prices.find((p) => p.degrees === 10))
const spanOf = (a: number, b: number) => {
  const [low, high] = [Math.min(a, b), Math.max(a, b)].map((v) => number(v * 100, 1))
  return low === high ? `${low} %` : `${low} to ${high} %`
}
/** The server knows the orientation as it is saved; while a handle is dragged the map gives it. */
const ownIrradiation = computed(() => {
  const surface = picked.value
  if (!surface || !map.value) return null
  const saved = edits.isTurning.value ? undefined : map.value.surfaces[surface.id]
  return saved ?? irradiation(surface.tilt, surface.azimuth)
})
const rowShade = computed(() => store.evaluation?.cascade?.lines.find((line) => line.key === 'rows')?.share ?? null)
const siteAlbedo = computed(() => (store.at('/site/albedo') ?? library.field('/site/albedo')?.default ?? 0) as number)
</script>
<template>
  <div class="bench">
    <header>
      <h2>Surfaces</h2>
      <div class="tools soft">
        Irradiation by orientation:
        <button
          v-for="s in SEASONS"
          :key="s"
          type="button"
          class="link"
          :aria-pressed="season === s"
          @click="season = s"
        >
          {{ s }}
        </button>
        <select
          class="blank"
          :value="MONTH_KEYS.includes(season) ? season : ''"
          aria-label="One month"
          @change="season = (($event.target as HTMLSelectElement).value || 'year') as Season"
        >
          <option value="">month…</option>
          <option v-for="(month, i) in MONTHS" :key="month" :value="MONTH_KEYS[i]">{{ month }}</option>
        </select>
        <label>
          hours
          <select v-model.number="hours[0]" class="blank" aria-label="First hour that counts">
            <option v-for="h in 24" :key="h" :value="h - 1">{{ h - 1 }}</option>
          </select>
          to
          <select v-model.number="hours[1]" class="blank" aria-label="Hour before which they end">
            <option v-for="h in 24" :key="h" :value="h">{{ h }}</option>
          </select>
        </label>
      </div>
    </header>
    <p v-if="!store.evaluation?.weather" class="soft empty">
      Choose a weather year first; the disc then shows the irradiation for every orientation.
    </p>
    <div v-else class="two">
      <div>
        <SkyDisc
          :map="map"
          :surfaces="shown"
          :paths="paths"
          :picked="picked?.id ?? ''"
          :horizon="store.site.horizon ?? []"
          @pick="edits.pick"
          @grab="edits.beginTurn"
          @turn="edits.turn"
          @done="edits.endTurn"
        />
        <div class="legend">
          <i :style="{ background: RAMP_GRADIENT }" /><span>30 % of the best orientation</span
          ><span>{{ map ? number(map.best) : '' }} kWh/m² {{ during }}</span>
        </div>
        <p class="soft caption">
          Distance from the centre is tilt (rim = vertical); the cross marks the best orientation. Drag a handle or use
          the arrow keys.
        </p>
        <p v-if="map && price" class="soft caption">
          Best: {{ number(map.best_tilt) }}°, {{ azimuthWords(map.best_azimuth) }}. Ten degrees off in tilt cost
          {{ spanOf(price.steeper, price.flatter) }}, in azimuth {{ spanOf(price.clockwise, price.counter_clockwise) }}.
        </p>
        <p v-if="fault" class="bad">{{ fault }}</p>
      </div>
      <div v-if="picked" class="side">
        <SurfaceNames :surfaces="surfaces" :picked="picked.id" @pick="edits.pick" @add="edits.add()" />
        <SurfaceSheet
          :surface="picked"
          :map="map"
          :irradiation="ownIrradiation"
          :during="during"
          :row-shade="rowShade"
          :site-albedo="siteAlbedo"
          :day="planes?.surfaces[picked.id] ?? null"
          :elevation="planes?.elevation ?? []"
          :now="now"
          @rename="edits.rename(picked, $event)"
          @use-best="edits.useBestOrientation(picked)"
          @limit-area="edits.limitArea(picked)"
          @arrange-in-rows="edits.arrangeInRows(picked)"
          @remove-rows="edits.removeRows(picked)"
          @copy="edits.copy(picked)"
          @remove="edits.remove(picked)"
        />
      </div>
      <div v-else class="side">
        <p class="soft">No surfaces yet.</p>
        <button type="button" class="button strong" @click="edits.add()">
          Add a surface with the best orientation
        </button>
      </div>
    </div>
  </div>
</template>
<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 524px) minmax(190px, 230px);
  gap: 14px;
  justify-content: space-between;
}
.legend {
  display: grid;
  grid-template-columns: auto auto;
  justify-content: space-between;
  width: 74.8%;
  margin: 2px 0 6px 12.6%;
  font-size: 11.5px;
  color: var(--soft);
}
.legend i {
  grid-column: 1 / -1;
  height: 7px;
  border-radius: 4px;
}
.caption {
  max-width: 480px;
  margin: 0 auto;
  text-align: center;
}
.side {
  display: grid;
  gap: 8px;
  align-content: start;
  padding-top: 10px;
  font-size: 13px;
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: minmax(0, 1fr) 176px;
  }
}
</style>
