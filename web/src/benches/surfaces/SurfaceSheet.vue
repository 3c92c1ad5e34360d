<script setup lang="ts">
import { computed } from 'vue'
import type { OrientationAnswer } from '@/api/client'
import type { SurfaceView } from '@/stores/schemeLists'
import BriefChoice from '@/brief/BriefChoice.vue'
import BriefNumber from '@/brief/BriefNumber.vue'
import BriefText from '@/brief/BriefText.vue'
import { azimuthWords, number, percent, quantity } from '@/theme/format'
import MotionSection from './MotionSection.vue'
import SurfaceMotion from './SurfaceMotion.vue'
import TiltSection from './TiltSection.vue'
import type { DayOfPlane } from './usePlanes'

/** All about one surface: its name, slope, irradiation, modules and rows. */
const props = defineProps<{
  surface: SurfaceView
  map: OrientationAnswer | null
  /** Irradiation of its orientation over the season [kWh/m2]. */
  irradiation: number | null
  during: string
  rowShade: number | null
  /** What the ground reflects where the surface says nothing of its own. */
  siteAlbedo: number
  /** Of a surface that moves, how it stands over the day; the sun's elevation and the moment with it. */
  day: DayOfPlane | null
  elevation: number[]
  now: number
}>()
const emit = defineEmits<{
  rename: [name: string]
  useBest: []
  limitArea: []
  arrangeInRows: []
  removeRows: []
  copy: []
  remove: []
}>()
const loss = computed(() => (props.irradiation !== null && props.map ? props.irradiation / props.map.best - 1 : 0))
const at = (field: string) => `/surfaces/${props.surface.id}/${field}`
</script>
<template>
  <BriefText
    :key="surface.id"
    class="title"
    :value="surface.name"
    label="Name of the surface"
    @change="emit('rename', $event)"
  />
  <MotionSection v-if="surface.motion" :surface="surface" :day="day" :elevation="elevation" :now="now" />
  <TiltSection v-else :tilt="surface.tilt" :rows="surface.rows" />
  <p v-if="surface.face">
    Tilt {{ number(surface.tilt, 1) }}°, azimuth {{ number(surface.azimuth, 1) }}°, {{ azimuthWords(surface.azimuth) }},
    as its face of the
    <router-link class="link" :to="{ params: { bench: 'scene' }, query: { thing: surface.face.split('/')[0] } }"
      >scene</router-link
    >.
  </p>
  <p v-else-if="surface.motion === 'seasonal_tilt'">
    Azimuth <BriefNumber :pointer="at('azimuth')" label="Azimuth" />, {{ azimuthWords(surface.azimuth) }}
  </p>
  <p v-else-if="!surface.motion">
    Tilt <BriefNumber :pointer="at('tilt')" label="Tilt" />, azimuth
    <BriefNumber :pointer="at('azimuth')" label="Azimuth" />, {{ azimuthWords(surface.azimuth) }}
  </p>
  <p class="worth">
    <b class="serif">{{ irradiation === null ? '–' : number(irradiation) }}</b>
    <span class="soft">kWh/m² {{ during }}</span>
  </p>
  <p v-if="map">
    <b :class="loss < -0.05 ? 'bad' : loss < -0.02 ? 'care' : 'good'">{{ percent(loss) }}</b>
    {{ loss < -0.0005 ? 'below the best' : surface.motion ? 'above the best fixed' : 'of the best' }} ({{
      number(map.best_tilt)
    }}°, {{ azimuthWords(map.best_azimuth) }}).
    <button v-if="!surface.motion && !surface.face" type="button" class="link" @click="emit('useBest')">
      Use this orientation
    </button>
  </p>
  <SurfaceMotion v-if="!surface.face" :surface="surface" />
  <dl class="ruled">
    <div>
      <dt>Mounting</dt>
      <dd><BriefChoice :pointer="at('mounting')" label="Mounting" /></dd>
    </div>
    <div>
      <dt>Area</dt>
      <dd>
        <template v-if="surface.face && surface.area !== null">{{ quantity(surface.area, 'm²', 1) }}</template>
        <BriefNumber v-else-if="surface.area !== null" :pointer="at('area')" label="Area" />
        <button v-else type="button" class="link" @click="emit('limitArea')">not limited; set…</button>
      </dd>
    </div>
    <div>
      <dt>Carries</dt>
      <dd>{{ number(surface.modules) }} modules</dd>
    </div>
    <div>
      <dt>Albedo in front</dt>
      <dd><BriefNumber :pointer="at('albedo')" label="Albedo in front of the surface" :fallback="siteAlbedo" /></dd>
    </div>
    <div v-if="!surface.face">
      <dt>Rows</dt>
      <dd>
        <button v-if="surface.rows" type="button" class="link" @click="emit('removeRows')">Remove rows</button>
        <span v-else-if="surface.motion === 'two_axis_tracking'" class="soft">each stands alone</span>
        <button v-else type="button" class="link" @click="emit('arrangeInRows')">Arrange in rows…</button>
      </dd>
    </div>
    <template v-if="surface.rows">
      <div>
        <dt>Pitch</dt>
        <dd><BriefNumber :pointer="at('rows/pitch')" label="Row pitch" /></dd>
      </div>
      <div>
        <dt>Row width</dt>
        <dd><BriefNumber :pointer="at('rows/width')" label="Width of a row" /></dd>
      </div>
      <div>
        <dt>Number of rows</dt>
        <dd><BriefNumber :pointer="at('rows/count')" label="Number of rows" /></dd>
      </div>
      <div>
        <dt>Cell groups along the slope</dt>
        <dd><BriefNumber :pointer="at('rows/cell_groups')" label="Cell groups along the slope" /></dd>
      </div>
      <div v-if="rowShade !== null">
        <dt>Shade of rows (all surfaces)</dt>
        <dd class="bad">{{ percent(rowShade) }}</dd>
      </div>
    </template>
  </dl>
  <p class="acts">
    <button type="button" class="link" @click="emit('copy')">Copy this surface</button>
    <button type="button" class="link" @click="emit('remove')">Delete surface</button>
  </p>
</template>
<style scoped>
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
.acts {
  gap: 16px;
  font-size: 12px;
}
</style>
