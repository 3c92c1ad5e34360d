<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Acts, SceneAnswer } from '@/api/client'
import BriefNumber from '@/brief/BriefNumber.vue'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { freshId } from '@/stores/schemeLists'
import { useNotice } from '@/notice/useNotice'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { azimuthWords, number } from '@/theme/format'
import PartChoice from '@/parts/PartChoice.vue'
import SetbackRules from './SetbackRules.vue'
import { useActs } from '@/stores/useActs'
import { useDemand } from '@/stores/useDemand'
import type { useLayout } from './useLayout'

/** A picked face in a sentence: how it lies, the modules on it, and how they are laid. */
const props = defineProps<{
  face: SceneAnswer['faces'][number]
  layouts: ReturnType<typeof useLayout>
}>()
/** Whether clicks on the face lay modules, or draw strings. */
const laying = defineModel<boolean>('laying', { required: true })
const stringing = defineModel<boolean>('stringing', { required: true })
const emit = defineEmits<{ wire: []; string: [pattern: Acts['string-modules']['pattern']] }>()
const { layout, kept, room, surface, setLayout, isBroken } = props.layouts
const picked = computed(() => props.layouts.modules.value.size)
const racks = computed(
  () =>
    kept.value.racks as (Partial<Record<Spacing | 'tilt', number | null>> & { is_paired?: boolean }) | null | undefined,
)
/** What says how far rows stand apart; one of them at a time. */
const SPACINGS = {
  pitch: { words: 'pitch', unit: 'm' },
  ground_cover: { words: 'ground cover', unit: '%' },
  clear_hour: { words: 'clear of shade on the shortest day at', unit: 'h' },
} as const
type Spacing = keyof typeof SPACINGS
/** What a way to space rows begins with: how they stand now, and of an hour the middle of the morning. */
const begin = (by: Spacing) =>
  by === 'pitch' ? layout.value?.row_pitch : by === 'ground_cover' ? layout.value?.ground_cover : 10
const spacing = computed(
  () => (Object.keys(SPACINGS) as Spacing[]).find((key) => typeof racks.value?.[key] === 'number') ?? 'free',
)
function space(by: string, value?: number) {
  const none = { pitch: null, ground_cover: null, clear_hour: null }
  const set = by === 'free' ? {} : { [by]: value ?? begin(by as Spacing) }
  setLayout({ racks: { ...none, ...set } })
}
const { choices } = useActs()
/** Tenths of a square metre say something of a roof, and nothing of a field. */
const squareMetres = (area: number) => `${number(area, area < 1000 ? 1 : 0)} m²`
const store = useSchemeStore()
const library = useLibrary()
/** Limits and steps of a value of the layout, as the design states them. */
const layoutField = (path: string) => library.field(`/surfaces/${surface.value}/layout/${path}`)
const limitsOf = (path: string) => layoutField(path) ?? undefined
const { say } = useNotice()
const used = useDemand()
/** What the number of modules is limited by. */
const LIMITS = { modules: 'modules', power: 'kW', area: 'm²', energy: 'kWh a year', demand: '% of the use' } as const
const limitedBy = ref<keyof typeof LIMITS>('modules')
/** What was asked for in another unit than modules; the design keeps the modules that came of it. */
const askedFor = ref<number | null>(null)
watch([limitedBy, surface], () => (askedFor.value = null))
function limit(value: number | null) {
  if (limitedBy.value === 'modules' || value === null) {
    limitedBy.value = 'modules'
    setLayout({ most: value })
    return
  }
  askedFor.value = value
  if (limitedBy.value === 'demand')
    void props.layouts.fillFace({}, { of: 'energy', value: (value / 100) * (used.value ?? 0) })
  else if (value >= 0) void props.layouts.fillFace({}, { of: limitedBy.value, value })
}
/** A plane of no building that has strings, such as the one a project began with: they may belong on this face. */
const loose = computed(() => store.surfaces.find((s) => s.face === null && s.modules > 0) ?? null)
function takeStrings() {
  const from = loose.value
  if (!from || !surface.value) return
  const strings = store.subarrays.filter((s) => s.surface === from.id).map((s) => s.id)
  store.edit({
    subarrays: Object.fromEntries(strings.map((id) => [id, { surface: surface.value! }])),
    surfaces: { [from.id]: null },
  })
  say(`The strings of ${from.name} are on ${props.face.name} now.`, { label: 'Undo', run: () => void store.undo() })
}
const isLevel = computed(() => props.face.is_level)
/** Whether the rows turn after the sun. */
const turns = computed(() => !!surface.value && store.at(`/surfaces/${surface.value}/tracking`) !== undefined)
const axes = computed(() => {
  const typed = store.at(`/surfaces/${surface.value}/tracking/axis_azimuth`) as number | undefined
  return typed ?? (library.field(`/surfaces/${surface.value}/tracking/axis_azimuth`)?.default as number)
})
const turnAxes = (value: number | null) =>
  props.layouts.turnRows(true, value === null ? null : ((value % 360) + 360) % 360)
const set = (field: string, event: Event) => {
  const value = (event.target as HTMLInputElement).value
  setLayout({ [field]: value === '' ? null : Number.isNaN(Number(value)) ? value : Number(value) })
}
const turn = (value: number | null) =>
  setLayout({ racks: { azimuth: value === null ? null : ((value % 360) + 360) % 360 } })
const at = computed(() => `/surfaces/${surface.value}/layout/keep_outs`)
const keepOuts = computed(() => (kept.value.keep_outs ?? {}) as Record<string, unknown>)
/** A walkway up the middle of the face, to be sized and moved by its numbers. */
function keepFree() {
  const id = freshId('free', Object.keys(keepOuts.value))
  const [first, second] = [props.face.outline[0]!, props.face.outline[1]!]
  const across = Math.hypot(second[0] - first[0], second[1] - first[1])
  setLayout({ keep_outs: { [id]: { u: Math.round(across * 5) / 10, v: 0, length: 0.6, width: 3 } } })
}
function takePattern(event: Event) {
  const select = event.target as HTMLSelectElement
  emit('string', select.value as Acts['string-modules']['pattern'])
  select.value = ''
}
/** Where the cables leave the face. */
const EXIT = { exit_u: 'Cables leave, along the face [m]', exit_v: 'Cables leave, up the slope [m]' } as const
const leave = (field: keyof typeof EXIT, value: number | null) =>
  store.edit({ surfaces: { [surface.value!]: { layout: { [field]: value } } } })
/** Of string cables, from the plan, in words. */
const lengths = computed(() => {
  const some = (layout.value?.strings ?? []).map((s) => s.length)
  if (!some.length) return ''
  const [low, high] = [Math.min(...some), Math.max(...some)].map((m) => number(m, 1))
  return low === high ? low : `${low} to ${high}`
})
const count = computed(() => layout.value?.modules.length ?? 0)
</script>
<template>
  <p class="face">
    <b>{{ face.name }}</b>: {{ number(face.tilt, 1) }}°<template v-if="!isLevel"
      >, {{ azimuthWords(face.azimuth) }}</template
    >, {{ squareMetres(face.area) }}.
    <template v-if="!surface">
      <button type="button" class="link" @click="layouts.useFace()">Put modules here</button>
    </template>
    <template v-else-if="!layout?.module">
      Choose a module on the Circuits bench, or
      <button type="button" class="link" @click="layouts.fillFace()">fill it with the library's first</button>.
    </template>
    <template v-else>
      <template v-if="face.surfaces.length > 1">
        <button
          v-for="one in face.surfaces"
          :key="one"
          type="button"
          class="link side"
          :aria-pressed="one === surface"
          @click="layouts.chooseSurface(one)"
        >
          azimuth {{ azimuthWords(store.surfaces.find((s) => s.id === one)?.azimuth ?? face.azimuth) }}
        </button>
      </template>
      <b>{{ number(count) }}</b>
      <PartChoice kind="module" :value="layout.module" label="Module on the face" @choose="layouts.swap" /> on
      {{ squareMetres(layout.usable_area) }} between setbacks<template v-if="layout.mass"
        >, {{ number(layout.mass) }} kg</template
      >. <button type="button" class="link strong" @click="layouts.fillFace()">Fill</button
      ><template v-if="room">
        ({{ number(room.portrait) }} in portrait, {{ number(room.landscape) }} in landscape)</template
      >, <button type="button" class="link" :aria-pressed="laying" @click="laying = !laying">lay by hand</button>; laid
      in
      <select
        class="blank"
        :value="kept.orientation ?? 'best'"
        aria-label="Orientation of the modules"
        @change="set('orientation', $event)"
      >
        <option value="best">the better way</option>
        <option value="portrait">portrait</option>
        <option value="landscape">landscape</option></select
      >, setbacks
      <SetbackRules :surface="surface" :layout="layout" :kept="kept" @set="setLayout" />
      gap
      <NumberField
        class="blank short"
        :value="(kept.gap as number | undefined) ?? (layoutField('gap')?.default as number)"
        :limits="limitsOf('gap')"
        :step="layoutField('gap')?.step"
        aria-label="Gap between modules [m]"
        @change="setLayout({ gap: $event })"
        @keydown.stop
      />
      m,
      <button
        type="button"
        class="link"
        :aria-pressed="kept.is_staggered === true"
        @click="setLayout({ is_staggered: kept.is_staggered ? null : true })"
      >
        {{ kept.is_staggered ? 'rows staggered' : 'rows in line' }}</button>, at most
      <NumberField
        class="blank most"
        :value="limitedBy === 'modules' ? ((kept.most as number | undefined) ?? null) : askedFor"
        :limits="limitedBy === 'modules' ? limitsOf('most') : undefined"
        placeholder="all"
        :aria-label="`At most so many ${LIMITS[limitedBy]}`"
        @change="limit"
        @keydown.stop
      />
      <select v-model="limitedBy" class="blank" aria-label="What is limited">
        <option v-for="(words, key) in LIMITS" :key="key" :value="key" :disabled="key === 'demand' && !used">
          {{ words }}
        </option>
      </select>
      <template v-if="isLevel">
        <template v-if="racks">
          <template v-if="turns"
            >trackers about
            <NumberField
              class="blank azimuth"
              :value="axes"
              aria-label="Azimuth of the axes [°]"
              @change="turnAxes"
              @keydown.stop
            />°,
          </template>
          <template v-else>racks at </template>
          <NumberField
            v-if="!turns"
            class="blank short"
            :value="racks.tilt ?? (layoutField('racks/tilt')?.default as number)"
            :limits="limitsOf('racks/tilt')"
            aria-label="Tilt of the racks [°]"
            @change="setLayout({ racks: { tilt: $event } })"
            @keydown.stop
          /><template v-if="!turns">°,</template>
          <select
            class="blank"
            :value="spacing"
            aria-label="What spaces the rows"
            @change="space(($event.target as HTMLSelectElement).value)"
          >
            <option value="free">
              {{ turns ? 'as far apart as trackers usually are' : 'clear of shade from a sun 15° up' }}
            </option>
            <option v-for="(one, key) in SPACINGS" :key="key" :value="key">{{ one.words }}</option>
          </select>
          <template v-if="spacing !== 'free'">
            <NumberField
              class="blank short"
              :value="racks[spacing] ?? null"
              :limits="limitsOf(`racks/${spacing}`)"
              :step="layoutField(`racks/${spacing}`)?.step"
              :aria-label="`Rows: ${SPACINGS[spacing].words} [${SPACINGS[spacing].unit}]`"
              @change="space(spacing, $event ?? undefined)"
              @keydown.stop
            />
            {{ SPACINGS[spacing].unit }}
          </template>
          <span v-if="spacing !== 'pitch' && layout.row_pitch">({{ number(layout.row_pitch, 2) }} m apart)</span>
          <button
            v-if="!turns"
            type="button"
            class="link"
            :aria-pressed="racks.is_paired === true"
            @click="racks.is_paired ? layouts.unpair() : setLayout({ racks: { is_paired: true } })"
          >
            {{ racks.is_paired ? 'back to back' : 'all one way' }}
          </button>
          <template v-if="turns">
            <button type="button" class="link" @click="layouts.turnRows(false)">on fixed racks</button>
          </template>
          <template v-else>
            azimuth of the front
            <NumberField
              class="blank azimuth"
              :value="Math.round((store.surfaces.find((s) => s.id === surface)?.azimuth ?? face.azimuth) * 10) / 10"
              aria-label="Azimuth of the racks [°]"
              @change="turn"
              @keydown.stop
            />°
            <button v-if="!racks.is_paired" type="button" class="link" @click="layouts.turnRows(true)">
              on trackers
            </button>
            <button type="button" class="link" @click="setLayout({ racks: null })">remove racks</button>
          </template>
        </template>
        <button v-else type="button" class="link" @click="setLayout({ racks: {} })">on racks</button>
      </template>
      <button v-if="picked" type="button" class="link bad" @click="layouts.removePicked()">
        delete {{ picked }} picked
      </button>
      <button v-else-if="count" type="button" class="link" @click="layouts.clear()">clear</button>
      <template v-for="id in Object.keys(keepOuts)" :key="id">
        , kept free <BriefNumber :pointer="`${at}/${id}/length`" :label="`Length of ${id}`" /> x
        <BriefNumber :pointer="`${at}/${id}/width`" :label="`Width of ${id}`" /> at
        <BriefNumber :pointer="`${at}/${id}/u`" :label="`Along the face, of ${id}`" />
        <BriefNumber :pointer="`${at}/${id}/v`" :label="`Up the slope, of ${id}`" />
        <button
          type="button"
          class="link"
          :aria-label="`Delete ${id}`"
          @click="setLayout({ keep_outs: { [id]: null } })"
        >
          ×
        </button>
      </template>
      <button type="button" class="link" @click="keepFree">keep a part free</button>
      <template v-if="count && layout.wired && !laying">
        strung
        <select class="blank" value="" aria-label="Pattern of the strings" @change="takePattern">
          <option value="" disabled>by pattern…</option>
          <option v-for="pattern in choices('string-modules', 'pattern')" :key="pattern" :value="pattern">
            {{ pattern }}
          </option>
        </select>
        or <button type="button" class="link" :aria-pressed="stringing" @click="stringing = !stringing">drawn</button>
        <template v-if="isBroken">
          (<span class="bad">modules are missing from strings</span>,
          <button type="button" class="link" @click="layouts.repair()">repair</button>)</template
        ><template v-if="lengths">
          , cables of {{ lengths }} m each way
          <button type="button" class="link" @click="layouts.wireByPlan()">use in the wiring</button>, leaving the face
          at
          <NumberField
            v-for="(words, field) in EXIT"
            :key="field"
            class="blank short"
            :limits="limitsOf(field)"
            :value="(kept[field] as number | undefined) ?? null"
            placeholder="corner"
            :aria-label="words"
            @change="leave(field, $event)"
            @keydown.stop
          />
          m</template
        >.
      </template>
      <template v-if="layout.wired !== count && !laying">
        <span class="bad">The strings have {{ layout.wired }}.</span>
        <template v-if="loose && !layout.wired">
          <button type="button" class="link" @click="takeStrings">Take those of {{ loose.name }}</button> or
        </template>
        <button type="button" class="link" @click="emit('wire')">
          {{ loose && !layout.wired ? 'find new ones' : 'Find strings' }}
        </button>
      </template>
    </template>
  </p>
</template>
<style scoped>
.face {
  margin: 0;
  font-size: 12.5px;
  line-height: 1.8;
}
.most {
  width: 9ch;
}
.azimuth {
  width: 7ch;
}
.short {
  width: 3.8em;
}
.side {
  margin-right: 8px;
}
.strong {
  font-weight: 600;
}
</style>
