<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useDesign } from '@/stores/design'
import { freshId, useScheme } from '@/stores/useScheme'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefText from '@/brief/BriefText.vue'
import { RAMP_GRADIENT } from '@/theme/ramp'
import { facing, number, percent } from '@/theme/format'
import { useNotice } from '@/shell/useNotice'
import SkyDisc from './SkyDisc.vue'
import TiltSection from './TiltSection.vue'
import { useOrientation } from './useOrientation'

const design = useDesign()
const scheme = useScheme()
const route = useRoute()
const router = useRouter()
const { say } = useNotice()
const { season, map, fault, worth } = useOrientation()
const preview = ref<{ id: string; tilt: number; azimuth: number } | null>(null)
let waiting = 0

const surfaces = computed(() =>
  scheme.surfaces.value.map((s) => (preview.value?.id === s.id ? { ...s, ...preview.value } : s)),
)
const picked = computed(() => surfaces.value.find((s) => s.id === route.query.surface) ?? surfaces.value[0])
const pick = (id: string) => void router.replace({ query: { ...route.query, surface: id } })
const own = computed(() =>
  picked.value && map.value
    ? preview.value
      ? worth(picked.value.tilt, picked.value.azimuth)
      : (map.value.surfaces[picked.value.id] ?? worth(picked.value.tilt, picked.value.azimuth))
    : null,
)
const loss = computed(() => (own.value !== null && map.value ? own.value / map.value.best - 1 : 0))

/** While a handle is dragged the disc follows at once; the design is edited at most every 80 ms. */
function turn(id: string, tilt: number, azimuth: number) {
  preview.value = { id, tilt, azimuth }
  if (!waiting) waiting = window.setTimeout(flush, 80)
}
function flush() {
  window.clearTimeout(waiting)
  waiting = 0
  const p = preview.value
  if (p) design.edit({ surfaces: { [p.id]: { tilt: p.tilt, azimuth: p.azimuth } } })
}
function done() {
  flush()
  preview.value = null
}
function add(like?: string) {
  const id = freshId(
    'surface',
    scheme.surfaces.value.map((s) => s.id),
  )
  const from = (like ? design.at(`/surfaces/${like}`) : undefined) as Record<string, never> | undefined
  const best = map.value
  design.edit({
    surfaces: {
      [id]: from
        ? { ...from, name: `${picked.value?.name ?? 'Surface'}, copy` }
        : {
            name: 'New surface',
            tilt: best?.best_tilt ?? 30,
            azimuth: best?.best_azimuth ?? (scheme.site.value.latitude < 0 ? 0 : 180),
          },
    },
  })
  pick(id)
}
function remove() {
  const surface = picked.value
  if (!surface) return
  const gone = Object.fromEntries(
    scheme.subarrays.value.filter((s) => s.surface === surface.id).map((s) => [s.id, null]),
  )
  design.edit({ surfaces: { [surface.id]: null }, ...(Object.keys(gone).length ? { subarrays: gone } : {}) })
  say(`${surface.name} is taken out${Object.keys(gone).length ? ', with its strings' : ''}.`, {
    label: 'Undo',
    run: () => void design.undo(),
  })
}
function rename(name: string) {
  if (picked.value && name && name !== picked.value.name) design.edit({ surfaces: { [picked.value.id]: { name } } })
}
const setBest = () => {
  if (picked.value && map.value)
    design.edit({ surfaces: { [picked.value.id]: { tilt: map.value.best_tilt, azimuth: map.value.best_azimuth } } })
}
function rows(isOn: boolean) {
  const surface = picked.value
  if (!surface) return
  const width = 2
  const pitch =
    Math.ceil(
      (width * Math.cos((surface.tilt * Math.PI) / 180) +
        (width * Math.sin((surface.tilt * Math.PI) / 180)) / Math.tan((18 * Math.PI) / 180)) *
        10,
    ) / 10
  design.edit({ surfaces: { [surface.id]: { rows: isOn ? { pitch: Math.max(pitch, width + 0.2) } : null } } })
}
const rowLoss = computed(() => design.evaluation?.cascade?.lines.find((line) => line.key === 'rows'))
watch(
  () => picked.value?.id,
  () => {
    preview.value = null
  },
)
</script>
<template>
  <div class="bench">
    <header>
      <h2>Surfaces</h2>
      <div class="seasons soft">
        the sun's worth by facing:
        <button
          v-for="s in ['year', 'summer', 'winter']"
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
          @pick="pick"
          @turn="turn"
          @done="done"
        />
        <div class="legend">
          <i :style="{ background: RAMP_GRADIENT }" /><span>30 % of the best</span
          ><span
            >{{ map ? number(map.best) : '' }} kWh/m² {{ season === 'year' ? 'a year' : `in the ${season} half` }}</span
          >
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
            @click="pick(s.id)"
          >
            {{ s.name }}</button><button type="button" class="link" @click="add()">+ add</button>
        </nav>
        <BriefText :key="picked.id" class="title" :value="picked.name" label="Name of the surface" @change="rename" />
        <TiltSection :tilt="picked.tilt" :rows="picked.rows" />
        <p>
          Tilt <BriefNumber :pointer="`/surfaces/${picked.id}/tilt`" label="Tilt" />, facing
          <BriefNumber :pointer="`/surfaces/${picked.id}/azimuth`" label="Facing" />, {{ facing(picked.azimuth) }}
        </p>
        <p class="worth">
          <b class="serif">{{ own === null ? '–' : number(own) }}</b>
          <span class="soft">kWh/m² {{ season === 'year' ? 'a year' : `in the ${season} half` }}</span>
        </p>
        <p v-if="map">
          <b :class="loss < -0.05 ? 'bad' : loss < -0.02 ? 'care' : 'good'">{{ percent(loss) }}</b> to the best,
          {{ number(map.best_tilt) }}° {{ facing(map.best_azimuth) }}.
          <button type="button" class="link" @click="setBest">Take it</button>
        </p>
        <dl>
          <div>
            <dt>Mounting</dt>
            <dd><BriefChoice :pointer="`/surfaces/${picked.id}/mounting`" label="Mounting" /></dd>
          </div>
          <div>
            <dt>Area</dt>
            <dd>
              <BriefNumber v-if="picked.area !== null" :pointer="`/surfaces/${picked.id}/area`" label="Area" /><button
                v-else
                type="button"
                class="link"
                @click="design.edit({ surfaces: { [picked.id]: { area: 50 } } })"
              >
                not limited; set…
              </button>
            </dd>
          </div>
          <div>
            <dt>Carries</dt>
            <dd>{{ number(picked.modules) }} modules</dd>
          </div>
          <div>
            <dt>Rows</dt>
            <dd>
              <button type="button" class="link" @click="rows(!picked.rows)">
                {{ picked.rows ? 'lay flat again' : 'rack in rows…' }}
              </button>
            </dd>
          </div>
          <template v-if="picked.rows">
            <div>
              <dt>Pitch</dt>
              <dd><BriefNumber :pointer="`/surfaces/${picked.id}/rows/pitch`" label="Row pitch" /></dd>
            </div>
            <div>
              <dt>Row width</dt>
              <dd><BriefNumber :pointer="`/surfaces/${picked.id}/rows/width`" label="Width of a row" /></dd>
            </div>
            <div>
              <dt>Number of rows</dt>
              <dd><BriefNumber :pointer="`/surfaces/${picked.id}/rows/count`" label="Number of rows" /></dd>
            </div>
            <div>
              <dt>Cell groups up</dt>
              <dd><BriefNumber :pointer="`/surfaces/${picked.id}/rows/steps`" label="Groups of cells up the row" /></dd>
            </div>
            <div v-if="rowLoss">
              <dt>Shade of rows, all</dt>
              <dd class="bad">{{ percent(rowLoss.share) }}</dd>
            </div>
          </template>
        </dl>
        <p class="acts">
          <button type="button" class="link" @click="add(picked.id)">Copy this surface</button>
          <button type="button" class="link" @click="remove">Take it out</button>
        </p>
      </div>
      <div v-else class="side">
        <p class="soft">There is no surface yet.</p>
        <button type="button" class="button strong" @click="add()">Add one at the best facing</button>
      </div>
    </div>
  </div>
</template>
<style scoped>
.bench {
  padding: 14px 20px 20px;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin-bottom: 4px;
}
.seasons {
  display: flex;
  gap: 10px;
  font-size: 12px;
}
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
  font-size: 12px;
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
.title {
  font: 600 17px/1.3 var(--serif);
  max-width: 100%;
  justify-self: start;
}
.worth b {
  font-size: 27px;
  font-weight: 600;
  line-height: 1;
}
dl {
  margin: 4px 0;
  display: grid;
}
dl div {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  border-bottom: 1px solid var(--rule);
  padding: 4px 0;
}
dt {
  color: var(--soft);
}
dd {
  margin: 0;
  text-align: right;
}
.acts {
  display: flex;
  gap: 16px;
  font-size: 12px;
}
.empty {
  padding: 60px 0;
  text-align: center;
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: minmax(0, 1fr) 176px;
  }
}
</style>
