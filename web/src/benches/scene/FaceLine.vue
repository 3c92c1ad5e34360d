<script setup lang="ts">
import { shownUnit } from '@/theme/habits'
import { computed, ref, watch } from 'vue'
import type { Acts, SceneAnswer } from '@/api/client'
import BriefNumber from '@/brief/BriefNumber.vue'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { freshId } from '@/stores/schemeLists'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { azimuthWords, number, quantity } from '@/theme/format'
import PartChoice from '@/parts/PartChoice.vue'
import FaceStrings from './FaceStrings.vue'
import RackLine from './RackLine.vue'
import SetbackRules from './SetbackRules.vue'
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
const { layout, kept, room, surface, setLayout } = props.layouts
const picked = computed(() => props.layouts.modules.value.size)
/** Tenths of a square metre say something of a roof, and nothing of a field. */
const squareMetres = (area: number) => `${quantity(area, 'm²', area < 1000 ? 1 : 0)}`
const store = useSchemeStore()
const library = useLibrary()
/** Limits and steps of a value of the layout, as the design states them. */
const layoutField = (path: string) => library.field(`/surfaces/${surface.value}/layout/${path}`)
const limitsOf = (path: string) => layoutField(path) ?? undefined
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
const isLevel = computed(() => props.face.is_level)
const set = (field: string, event: Event) => {
  const value = (event.target as HTMLInputElement).value
  setLayout({ [field]: value === '' ? null : Number.isNaN(Number(value)) ? value : Number(value) })
}
const at = computed(() => `/surfaces/${surface.value}/layout/keep_outs`)
const keepOuts = computed(() => (kept.value.keep_outs ?? {}) as Record<string, unknown>)
/** A walkway up the middle of the face, to be sized and moved by its numbers. */
function keepFree() {
  const id = freshId('free', Object.keys(keepOuts.value))
  const [first, second] = [props.face.outline[0]!, props.face.outline[1]!]
  const across = Math.hypot(second[0] - first[0], second[1] - first[1])
  setLayout({ keep_outs: { [id]: { u: Math.round(across * 5) / 10, v: 0, length: 0.6, width: 3 } } })
}
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
        unit="m"
        :aria-label="`Gap between modules [${shownUnit('m')}]`"
        @change="setLayout({ gap: $event })"
        @keydown.stop
      />
      {{ shownUnit('m') }},
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
        <RackLine :face="face" :layouts="layouts" />
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
      <FaceStrings
        v-if="!laying"
        v-model:stringing="stringing"
        :layouts="layouts"
        @wire="emit('wire')"
        @string="emit('string', $event)"
      />
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
