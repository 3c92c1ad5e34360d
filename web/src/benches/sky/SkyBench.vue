<script setup lang="ts">
import { computed, reactive, ref, shallowRef, useTemplateRef } from 'vue'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { useMoment } from '@/tideline/useMoment'
import { azimuthWords, number } from '@/theme/format'
import { useNotice } from '@/notice/useNotice'
import DirectionsExplained from './DirectionsExplained.vue'
import HorizonCost from './HorizonCost.vue'
import HorizonPairs from './HorizonPairs.vue'
import ObstacleSheet from './ObstacleSheet.vue'
import PhotoPlace from './PhotoPlace.vue'
import ShadeByHand from './ShadeByHand.vue'
import SkyPicture from './SkyPicture.vue'
import { asDxf, asPng, asSvg, download } from './skyExport'
import { FIELD_MONTHS, polar, sunAt, unrolled, withDrawn, type Direction, type Field } from './skyGeometry'
import type { PlacedPhoto } from './lens'
import { useObstacles } from './useObstacles'
import { useSky } from './useSky'

const store = useSchemeStore()
const { say, warn } = useNotice()
const moment = useMoment()
const { paths, fault, obstacles: lines, effect, surface, chosen, irradiance } = useSky()

const kind = ref<'polar' | 'unrolled'>('polar')
const clock = ref<'clock' | 'solar'>('clock')
const mode = ref<'look' | 'draw' | 'fields'>('look')
const photo = shallowRef<PlacedPhoto | null>(null)
const layers = reactive({ irradiation: true, hours: true, horizon: true, plane: false })
const LAYERS = [
  { key: 'irradiation', text: 'irradiation' },
  { key: 'hours', text: 'hours' },
  { key: 'horizon', text: 'horizon' },
  { key: 'plane', text: 'behind the surface' },
] as const

const horizon = computed(() => (store.at('/site/horizon') as unknown as Direction[] | undefined) ?? [])
const highest = computed(() => Math.max(0, ...(paths.value?.elevation ?? [])))
const projection = computed(() =>
  kind.value === 'polar'
    ? polar()
    : unrolled(store.site.latitude < 0 ? 0 : 180, Math.min(90, Math.ceil((highest.value + 8) / 5) * 5)),
)
const day = computed(() => Math.floor(moment.interval.value / moment.perDay.value))
const hour = computed(() => (((moment.interval.value % moment.perDay.value) + 0.5) * moment.step.value) / 60)
const sun = computed(() => (paths.value ? sunAt(paths.value, day.value, hour.value) : null))
const clockWords = (hours: number) => {
  const minutes = Math.round(hours * 60)
  return `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`
}
const facts = computed(() => {
  const found = paths.value
  if (!found) return null
  const [noon, length] = [found.noon[day.value]!, found.day_length[day.value]!]
  return {
    noon: clockWords(noon),
    length,
    rise: length > 0 && length < 24 ? clockWords(noon - length / 2) : '',
    set: length > 0 && length < 24 ? clockWords(noon + length / 2) : '',
    top: sunAt(found, day.value, noon).elevation,
    equation: (noon - 12) * 60,
  }
})

const { obstacles, picked, add, remove, move, moved } = useObstacles(() => sun.value?.azimuth ?? 180)
const names = computed(() => Object.fromEntries(obstacles.value.map((o) => [o.id, o.name])))

const isExplained = ref(false)
/** The picture of azimuth and elevation shows what is picked, the highest of the horizon, or the sun where it is up. */
const explained = computed(() => {
  const chosen = obstacles.value.find((o) => o.id === picked.value)
  if (chosen?.azimuth != null && chosen.height != null && chosen.distance) {
    const elevation = (Math.atan2(chosen.height, chosen.distance) * 180) / Math.PI
    return { subject: chosen.name, direction: { azimuth: chosen.azimuth, elevation } }
  }
  if (sun.value && sun.value.elevation > 1) return { subject: 'the sun at this moment', direction: sun.value }
  const top = horizon.value.toSorted((a, b) => b.elevation - a.elevation)[0]
  return top
    ? { subject: 'the highest of the horizon', direction: top }
    : { subject: 'a thing in the south-west', direction: { azimuth: 225, elevation: 20 } }
})

const scrub = (to: number) =>
  moment.pick(
    day.value * moment.perDay.value + Math.min(moment.perDay.value - 1, Math.floor((to * 60) / moment.step.value)),
  )
const step = (days: number, hours: number) =>
  moment.pick(moment.interval.value + days * moment.perDay.value + (hours * 60) / moment.step.value)

function takeDrawn(line: Direction[]) {
  const next = withDrawn(horizon.value, line)
  if (next === horizon.value) return
  store.edit({ site: { horizon: next.slice(0, 720) as unknown as never } })
}

/** Shaded fields are a table of solar access of zeros and ones. */
const access = computed(() => (store.at('/site/shade_table/access') as unknown as number[][] | undefined) ?? null)
const isShaded = ({ band, hour: h }: Field) => access.value?.[FIELD_MONTHS[band]![0]!]?.[h] === 0
function count(on: boolean) {
  mode.value = on ? 'fields' : 'look'
  if (on && !access.value)
    store.edit({
      site: {
        shade_factor: null,
        shade_table: {
          access: Array.from({ length: 12 }, () => Array.from({ length: 24 }, () => 1)),
          source: 'fields counted on the sun-path chart',
        } as unknown as never,
      },
    })
}
function toggleField(field: Field) {
  const table = (access.value ?? []).map((row) => [...row])
  if (table.length !== 12) return
  const to = isShaded(field) ? 1 : 0
  for (const month of FIELD_MONTHS[field.band]!) table[month]![field.hour] = to
  store.edit({ site: { shade_table: { access: table as unknown as never } } })
}
const factor = computed(() => {
  const e = effect.value
  if (!e?.is_by_hand) return null
  const sum = (table: number[][]) => table.flat().reduce((a, b) => a + b, 0)
  const free = sum(e.free)
  return free ? 1 - (sum(e.direct_lost) + sum(e.diffuse_lost)) / free : null
})

const picture = useTemplateRef<InstanceType<typeof SkyPicture>>('picture')
const stem = computed(() => `${(store.project?.name ?? 'sky').toLowerCase().replaceAll(/[^a-z0-9]+/g, '-')}-sky`)
async function save(format: 'svg' | 'png' | 'dxf') {
  const svg = picture.value?.svg
  if (!svg) return
  try {
    if (format === 'svg') download(asSvg(svg), `${stem.value}.svg`, 'image/svg+xml')
    else if (format === 'dxf') download(asDxf(svg), `${stem.value}.dxf`, 'image/vnd.dxf')
    else download(await asPng(svg), `${stem.value}.png`)
    say(`Saved ${stem.value}.${format}.`)
  } catch (error) {
    warn((error as Error).message)
  }
}
</script>
<template>
  <div class="bench">
    <header>
      <h2>Sky</h2>
      <div class="tools soft">
        <button
          v-for="k in ['polar', 'unrolled'] as const"
          :key="k"
          type="button"
          class="link"
          :aria-pressed="kind === k"
          @click="kind = k"
        >
          {{ k }}
        </button>
        <span>Hours in</span>
        <button type="button" class="link" :aria-pressed="clock === 'clock'" @click="clock = 'clock'">
          clock time
        </button>
        <button type="button" class="link" :aria-pressed="clock === 'solar'" @click="clock = 'solar'">
          solar time
        </button>
      </div>
    </header>
    <p v-if="fault" class="bad">{{ fault }}</p>
    <div v-else-if="paths" class="two">
      <div>
        <div class="tools soft layers">
          <span>Show</span>
          <button
            v-for="layer in LAYERS"
            :key="layer.key"
            type="button"
            class="link"
            :aria-pressed="layers[layer.key]"
            @click="layers[layer.key] = !layers[layer.key]"
          >
            {{ layer.text }}
          </button>
          <span class="gap" />
          <button
            type="button"
            class="link"
            :aria-pressed="mode === 'draw'"
            @click="mode = mode === 'draw' ? 'look' : 'draw'"
          >
            draw the horizon
          </button>
        </div>
        <SkyPicture
          ref="picture"
          :projection="projection"
          :paths="paths"
          :horizon="horizon"
          :obstacles="lines?.obstacles ?? {}"
          :names="names"
          :picked="picked"
          :irradiance="irradiance"
          :surface="surface"
          :layers="layers"
          :clock="clock"
          :day="day"
          :hour="hour"
          :mode="mode"
          :is-shaded="isShaded"
          :photo="photo"
          @scrub="scrub"
          @step="step"
          @draw="takeDrawn"
          @pick="picked = $event"
          @move="move"
          @moved="moved"
          @field="toggleField"
        />
        <v-dialog role="none" :aria-modal="null" v-model="isExplained" max-width="680">
          <DirectionsExplained
            v-if="isExplained"
            :direction="explained.direction"
            :subject="explained.subject"
            @close="isExplained = false"
          />
        </v-dialog>
        <p class="soft caption">
          <template v-if="mode === 'draw'">
            Drag along what stands before the sky: it takes the place of the horizon between the two ends.
          </template>
          <template v-else-if="mode === 'fields'">
            Click the fields that are in shade: each stands for an hour in its months, both times the sun passes there.
          </template>
          <template v-else>
            Azimuth is the direction, clockwise from north; elevation the angle over the level. Drag the sun, or an
            obstacle.
          </template>
          <button type="button" class="link" @click="isExplained = true">What they mean, how they are measured</button>
        </p>
        <p class="tools soft">
          Save as
          <button type="button" class="link" @click="save('svg')">SVG</button>
          <button type="button" class="link" @click="save('png')">PNG</button>
          <button type="button" class="link" @click="save('dxf')">DXF</button>
        </p>
        <HorizonCost v-if="effect && surface" :effect="effect" :surface="surface.name" />
      </div>
      <div class="side">
        <p v-if="sun && facts" class="sun-words">
          <b class="serif">{{ moment.words(moment.interval.value) }}</b>
          <span v-if="sun.elevation > 0">
            Sun {{ number(sun.elevation, 1) }}° up, {{ azimuthWords(Math.round(sun.azimuth)) }} ({{
              number(sun.azimuth)
            }}°).
          </span>
          <span v-else>Sun {{ number(-sun.elevation, 1) }}° below the horizon.</span>
        </p>
        <dl v-if="facts" class="ruled">
          <div v-if="facts.rise">
            <dt>Sunrise, sunset</dt>
            <dd>{{ facts.rise }}, {{ facts.set }}</dd>
          </div>
          <div>
            <dt>Solar noon</dt>
            <dd>{{ facts.noon }}, {{ number(facts.top, 1) }}° up</dd>
          </div>
          <div>
            <dt>Day length</dt>
            <dd>
              {{
                facts.length >= 24 ? 'midnight sun' : facts.length <= 0 ? 'polar night' : `${number(facts.length, 1)} h`
              }}
            </dd>
          </div>
        </dl>
        <p class="soft small">
          Clock of the weather data, UTC{{ paths.utc_offset >= 0 ? '+' : '−'
          }}{{ number(Math.abs(paths.utc_offset), paths.utc_offset % 1 ? 1 : 0) }}, no daylight saving time.
        </p>
        <label v-if="store.surfaces.length > 1" class="soft small">
          Surface
          <select
            class="blank"
            :value="surface?.id"
            aria-label="Surface whose irradiation is shown"
            @change="chosen = ($event.target as HTMLSelectElement).value"
          >
            <option v-for="s in store.surfaces" :key="s.id" :value="s.id">{{ s.name }}</option>
          </select>
        </label>
        <ObstacleSheet
          :obstacles="obstacles"
          :picked="picked"
          :effect="effect"
          :lines="lines ?? null"
          @pick="picked = $event"
          @add="add"
          @remove="remove"
        />
        <section>
          <h3>Horizon</h3>
          <HorizonPairs />
          <PhotoPlace :projection="projection" @placed="photo = $event" @unroll="kind = 'unrolled'" />
        </section>
        <ShadeByHand :is-counting="mode === 'fields'" :factor="factor" @count="count" />
      </div>
    </div>
    <p v-else class="soft empty">Reading the sun's paths…</p>
  </div>
</template>
<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 208px;
  gap: 18px;
}
.layers {
  margin-bottom: 2px;
}
.gap {
  flex: 1;
}
.side {
  display: grid;
  gap: 12px;
  align-content: start;
  font-size: 13px;
}
.sun-words {
  display: grid;
}
.sun-words b {
  font-size: 17px;
}
.small {
  font-size: 11.5px;
}
h3 {
  margin-bottom: 4px;
}
@media (max-width: 1150px) {
  .two {
    grid-template-columns: minmax(0, 1fr) 186px;
    gap: 12px;
  }
}
</style>
