<script setup lang="ts">
import { computed } from 'vue'
import { useDesign } from '@/stores/design'
import { useLibrary } from '@/stores/library'
import { useScheme } from '@/stores/useScheme'
import { RAMP_GRADIENT } from '@/theme/ramp'
import { number } from '@/theme/format'
import SkyDisc from './SkyDisc.vue'
import SurfaceSheet from './SurfaceSheet.vue'
import { SEASONS, useOrientation } from './useOrientation'
import { useSurfaceEdits } from './useSurfaceEdits'

const design = useDesign()
const scheme = useScheme()
const library = useLibrary()
const { season, map, fault, worth } = useOrientation()
const edits = useSurfaceEdits(map)
const { surfaces, picked } = edits

const during = computed(() => (season.value === 'year' ? 'a year' : `in the ${season.value} half`))
/** The server knows the facing as it is saved; while a handle is dragged the map tells. */
const ownWorth = computed(() => {
  const surface = picked.value
  if (!surface || !map.value) return null
  const saved = edits.isTurning.value ? undefined : map.value.surfaces[surface.id]
  return saved ?? worth(surface.tilt, surface.azimuth)
})
const rowShade = computed(() => design.evaluation?.cascade?.lines.find((line) => line.key === 'rows')?.share ?? null)
const siteAlbedo = computed(() => (design.at('/site/albedo') ?? library.field('/site/albedo')?.default ?? 0) as number)
</script>
<template>
  <div class="bench">
    <header>
      <h2>Surfaces</h2>
      <div class="tools soft">
        the sun's worth by facing:
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
      </div>
    </header>
    <p v-if="!design.evaluation?.weather" class="soft empty">
      Choose a weather year first; then the disc shows what every facing is worth.
    </p>
    <div v-else class="two">
      <div>
        <SkyDisc
          :map="map"
          :worth="worth"
          :surfaces="surfaces"
          :picked="picked?.id ?? ''"
          :horizon="scheme.site.value.horizon ?? []"
          @pick="edits.pick"
          @turn="edits.turn"
          @done="edits.endTurn"
        />
        <div class="legend">
          <i :style="{ background: RAMP_GRADIENT }" /><span>30 % of the best</span
          ><span>{{ map ? number(map.best) : '' }} kWh/m² {{ during }}</span>
        </div>
        <p class="soft caption">
          Where is the light? Outward is steeper, the rim is a wall; the cross is the best facing. Drag a handle, or
          give it the arrow keys.
        </p>
        <p v-if="fault" class="bad">{{ fault }}</p>
      </div>
      <div v-if="picked" class="side">
        <nav aria-label="Surfaces" class="names">
          <button
            v-for="s in surfaces"
            :key="s.id"
            type="button"
            class="link"
            :aria-current="s.id === picked.id"
            @click="edits.pick(s.id)"
          >
            {{ s.name }}</button><button type="button" class="link" @click="edits.add()">+ add</button>
        </nav>
        <SurfaceSheet
          :surface="picked"
          :map="map"
          :worth="ownWorth"
          :during="during"
          :row-shade="rowShade"
          :site-albedo="siteAlbedo"
          @rename="edits.rename(picked, $event)"
          @face-best="edits.faceBest(picked)"
          @limit-area="edits.limitArea(picked)"
          @rack-in-rows="edits.rackInRows(picked)"
          @lay-flat="edits.layFlat(picked)"
          @copy="edits.copy(picked)"
          @remove="edits.remove(picked)"
        />
      </div>
      <div v-else class="side">
        <p class="soft">There is no surface yet.</p>
        <button type="button" class="button strong" @click="edits.add()">Add one at the best facing</button>
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
.names {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  font-size: 12px;
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: minmax(0, 1fr) 176px;
  }
}
</style>
