<script setup lang="ts">
import { shownUnit } from '@/theme/habits'
import { computed } from 'vue'
import type { SceneAnswer } from '@/api/client'
import NumberField from '@/brief/NumberField.vue'
import { useLibrary } from '@/stores/library'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { quantity } from '@/theme/format'
import type { useLayout } from './useLayout'

/** The rows of a level face: racks or trackers, how far apart they stand, and the roads between them. */
const props = defineProps<{
  face: SceneAnswer['faces'][number]
  layouts: ReturnType<typeof useLayout>
}>()
const { layout, kept, surface, setLayout } = props.layouts
const store = useSchemeStore()
const library = useLibrary()
/** Limits and steps of a value of the layout, as the design states them. */
const field = (path: string) => library.field(`/surfaces/${surface.value}/layout/${path}`) ?? undefined

/** What says how far rows stand apart; one of them at a time. */
const SPACINGS = {
  pitch: { words: 'pitch', unit: 'm' },
  ground_cover: { words: 'ground cover', unit: '%' },
  clear_hour: { words: 'clear of shade on the shortest day at', unit: 'h' },
} as const
type Spacing = keyof typeof SPACINGS
type Racks = Partial<Record<Spacing | 'tilt', number | null>> & { is_paired?: boolean }
const racks = computed(() => kept.value.racks as Racks | null | undefined)
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
/** Whether the rows turn after the sun. */
const turns = computed(() => !!surface.value && store.at(`/surfaces/${surface.value}/tracking`) !== undefined)
const axes = computed(() => {
  const typed = store.at(`/surfaces/${surface.value}/tracking/axis_azimuth`) as number | undefined
  return typed ?? (library.field(`/surfaces/${surface.value}/tracking/axis_azimuth`)?.default as number)
})
const round = (value: number | null) => (value === null ? null : ((value % 360) + 360) % 360)

/** Roads part a field into blocks of rows. */
const ROADS = {
  every: { words: 'along the rows, blocks', label: 'Depth of the blocks between roads along the rows' },
  across_every: {
    words: 'm deep; across them, blocks',
    label: 'Length of the blocks between roads across the rows',
  },
} as const
const roads = computed(
  () => kept.value.roads as Partial<Record<keyof typeof ROADS | 'width', number>> | null | undefined,
)
</script>
<template>
  <template v-if="racks">
    <template v-if="turns"
      >trackers about
      <NumberField
        class="blank azimuth"
        :value="axes"
        aria-label="Azimuth of the axes [°]"
        @change="layouts.turnRows(true, round($event))"
        @keydown.stop
      />°,
    </template>
    <template v-else
      >racks at
      <NumberField
        class="blank short"
        :value="racks.tilt ?? (field('racks/tilt')?.default as number)"
        :limits="field('racks/tilt')"
        aria-label="Tilt of the racks [°]"
        @change="setLayout({ racks: { tilt: $event } })"
        @keydown.stop
      />°,</template
    >
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
        :limits="field(`racks/${spacing}`)"
        :step="field(`racks/${spacing}`)?.step"
        :unit="SPACINGS[spacing].unit"
        :aria-label="`Rows: ${SPACINGS[spacing].words} [${shownUnit(SPACINGS[spacing].unit)}]`"
        @change="space(spacing, $event ?? undefined)"
        @keydown.stop
      />
      {{ shownUnit(SPACINGS[spacing].unit) }}
    </template>
    <span v-if="spacing !== 'pitch' && layout?.row_pitch">({{ quantity(layout.row_pitch, 'm', 2) }} apart)</span>
    <button v-if="turns" type="button" class="link" @click="layouts.turnRows(false)">on fixed racks</button>
    <template v-else>
      <button
        type="button"
        class="link"
        :aria-pressed="racks.is_paired === true"
        @click="racks.is_paired ? layouts.unpair() : setLayout({ racks: { is_paired: true } })"
      >
        {{ racks.is_paired ? 'back to back' : 'all one way' }}
      </button>
      azimuth of the front
      <NumberField
        class="blank azimuth"
        :value="Math.round((store.surfaces.find((s) => s.id === surface)?.azimuth ?? face.azimuth) * 10) / 10"
        aria-label="Azimuth of the racks [°]"
        @change="setLayout({ racks: { azimuth: round($event) } })"
        @keydown.stop
      />°
      <button v-if="!racks.is_paired" type="button" class="link" @click="layouts.turnRows(true)">on trackers</button>
      <button type="button" class="link" @click="setLayout({ racks: null })">remove racks</button>
    </template>
    <template v-if="roads">
      roads
      <NumberField
        class="blank short"
        :value="roads.width ?? (field('roads/width')?.default as number)"
        :limits="field('roads/width')"
        :step="field('roads/width')?.step"
        unit="m"
        :aria-label="`Width of the roads [${shownUnit('m')}]`"
        @change="setLayout({ roads: { width: $event } })"
        @keydown.stop
      />
      {{ shownUnit('m') }} wide<template v-for="(one, key) in ROADS" :key="key"
        >{{ key === 'every' ? ' ' : '' }}{{ one.words }}
        <NumberField
          class="blank short"
          :value="roads[key] ?? null"
          :limits="field(`roads/${key}`)"
          :step="field(`roads/${key}`)?.step"
          placeholder="whole"
          unit="m"
          :aria-label="`${one.label} [${shownUnit('m')}]`"
          @change="setLayout({ roads: { [key]: $event } })"
          @keydown.stop
        />
      </template>
      {{ shownUnit('m') }} long
      <button type="button" class="link" @click="setLayout({ roads: null })">no roads</button>
    </template>
    <button v-else-if="face.kind === 'ground'" type="button" class="link" @click="setLayout({ roads: {} })">
      roads
    </button>
  </template>
  <button v-else type="button" class="link" @click="setLayout({ racks: {} })">on racks</button>
</template>
<style scoped>
.azimuth {
  width: 7ch;
}
.short {
  width: 3.8em;
}
</style>
