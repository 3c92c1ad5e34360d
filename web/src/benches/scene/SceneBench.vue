<script setup lang="ts">
import NumberField from '@/brief/NumberField.vue'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type Acts } from '@/api/client'
import type { JsonObject } from '@/api/mergePatch'
import { freshId } from '@/stores/schemeLists'
import { useLibrary } from '@/stores/library'
import { useDropped } from '@/stores/droppedFile'
import { useAskedAct } from '@/stores/useAskedAct'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { RAMP_GRADIENT, rampHex } from '@/theme/ramp'
import { MONTHS, number } from '@/theme/format'
import AddLine from './AddLine.vue'
import { dimensionsOf, handlesOf, middleOf, type Point } from './dimensions'
import FaceLine from './FaceLine.vue'
import FloatingWords from './FloatingWords.vue'
import FlatViews from './FlatViews.vue'
import { buildingOf, pictureOnGround, type Level } from './placing'
import SceneDrawer from './SceneDrawer.vue'
import SceneFigures from './SceneFigures.vue'
import SceneReadings from './SceneReadings.vue'
import SceneSheet from './SceneSheet.vue'
import ThingLine from './ThingLine.vue'
import ThingNames from './ThingNames.vue'
import { QUANTITIES, useScene } from './useScene'
import WhatIf from './WhatIf.vue'
import { useLayout } from './useLayout'
import { phrasesOf } from '@/scene/things'
import { useReading } from './useReading'
import { useSun } from './useSun'
import { useTakers } from './useTakers'
import { useSceneKeys } from './useSceneKeys'
import { useSelection } from './useSelection'
import { useThings } from './useThings'

const store = useSchemeStore()
const route = useRoute()
const router = useRouter()
const {
  scene,
  fault,
  shade,
  shadeFault,
  isCurrent,
  everything,
  spacing,
  quantity,
  isColoured,
  period,
  during,
  hasRange,
  shareOf,
  rampShare,
  irradiation,
  brightest,
  darkest,
  thing: picked,
  pick,
} = useScene()
const kit = useThings(scene, picked, pick)
const { things, thing, at, change, add, gesture } = kit
const selection = useSelection(scene, kit, picked, pick)
const { also, several, isGrouped, pickThing, act, grid, lock } = selection

const sheet = ref<InstanceType<typeof SceneSheet>>()
/** A way to look that was asked for before the drawing was there. */
let asked: [azimuth: number, elevation: number] | null = null
function look(azimuth: number, elevation: number) {
  if (sheet.value) sheet.value.look(azimuth, elevation)
  else asked = [azimuth, elevation]
}
watch(sheet, (drawn) => {
  if (drawn && asked) drawn.look(...asked)
  asked = null
})
const addLine = ref<InstanceType<typeof AddLine>>()
const isTracing = ref(false)
const isLaying = ref(false)
const isStringing = ref(false)
const { sun, moment, month } = useSun()
const layouts = useLayout(scene, shade, picked, irradiation, gesture)
const { faceId, face, surface, layout, modules, removeModules } = layouts
const laying = computed(() =>
  isLaying.value && layout.value ? { face: layout.value.face, axes: layout.value.axes as [Point, Point] } : null,
)
/** The selected face is in the address, as what carries it is. */
faceId.value = typeof route.query.face === 'string' ? route.query.face : ''
watch(faceId, (id) => {
  isLaying.value = isStringing.value = false
  void router.replace({ query: { ...route.query, face: id || undefined } })
})
watch(isStringing, (isOn) => isOn && ((quantity.value = 'strings'), (isLaying.value = false)))
const library = useLibrary()
const { reading, readFile, choose, take: readDropped, turn, accept } = useReading()
useDropped(
  'scene',
  ({ file }) => readDropped(file),
  () => store.saved !== null,
)
useAskedAct({ 'read-scene': choose })
const hovered = ref<{ surface: string; module: string } | null>(null)
const takers = useTakers(hovered)

const colourOf = (surface: string, module: string): string | null => {
  if (modules.value.has(`${surface} ${module}`))
    return getComputedStyle(document.documentElement).getPropertyValue('--current').trim()
  if (quantity.value === 'strings') {
    const one = scene.value?.layouts.find((l) => l.surface === surface)?.modules.find((m) => m.id === module)
    return one?.string ? TINTS[(one.string - 1) % TINTS.length]! : '#ffffff'
  }
  const share = shareOf(surface, module)
  return share === null ? null : rampHex(share)
}
const colourKey = computed(
  () =>
    `${quantity.value} ${during.value} ${darkest.value} ${shade.value?.revision ?? ''} ${shade.value?.is_coarse} ${[...modules.value].join()}`,
)
const pieces = computed(() =>
  !isColoured.value || !isCurrent.value
    ? []
    : (shade.value?.surfaces ?? [])
        .filter((s) => s.is_pieces)
        .flatMap((s) =>
          s.corners.map((corners, k) => ({
            solid: s.face.split('/')[0]!,
            face: s.face,
            corners: corners as [number, number, number][],
            colour: rampHex(rampShare(s, k)),
          })),
        ),
)
/** Setbacks of the picked face, each typed over where it stands: of one edge, or of all things of a kind. */
const setbacks = computed(() =>
  (layout.value?.distances ?? []).map((d) => {
    const at = d.at as Point
    const place = d.edge === null ? `setbacks/${d.kind}` : `edges/${d.edge}`
    const label = d.edge === null ? `Clearance round ${d.kind}` : `Setback from the ${d.kind}, edge ${d.edge}`
    return {
      pointer: `/layout/${place}`,
      label,
      from: at,
      to: at,
      isPoint: true,
      unit: 'm' as const,
      value: d.distance,
    }
  }),
)
const dimensions = computed(() => {
  if (face.value && layout.value) return isStringing.value ? [] : setbacks.value
  const one = thing.value
  if (!scene.value || !one) return []
  return dimensionsOf(scene.value, one.id, one.values, (field) => at(one, field)).flatMap((d) => {
    const value = at(one, d.pointer.split('/').at(-1)!)
    return value === undefined ? [] : [{ ...d, value }]
  })
})
const handles = computed(() => {
  const one = thing.value
  return scene.value && one && !face.value ? handlesOf(scene.value, one.id, (field) => at(one, field)) : []
})
const hidden = computed(() => new Set(things.value.filter((t) => t.values.is_hidden).map((t) => t.id)))
const carries = computed(() => (scene.value?.layouts ?? []).some((l) => l.face.split('/')[0] === picked.value))
/** Tints of strings beside one another; their numbers tell them apart. */
const TINTS = ['#7fa8d6', '#e3c27a', '#9cc5a4', '#d9a08c', '#b7a6d0', '#a9b7bf']
/** Modules that are drawn in all, over which their numbers and the ways to the exit would cover everything. */
const MOST_MARKED = 1200
const isMarked = computed(
  () => (scene.value?.layouts ?? []).reduce((sum, l) => sum + l.modules.length, 0) <= MOST_MARKED,
)
/** Numbers of the strings on their modules, with the ends of each. */
const marks = computed(() =>
  quantity.value !== 'strings' || !isMarked.value
    ? []
    : (scene.value?.layouts ?? []).flatMap((l) => {
        const ends = new Map(
          l.strings.flatMap((s) => [[s.modules.at(-1)!, '−'] as const, [s.modules[0]!, '+'] as const]),
        )
        return l.modules.map((m) => ({
          text: m.string ? `${m.string}${ends.get(m.id) ?? ''}` : '·',
          at: middleOf(m.corners),
        }))
      }),
)
const lines = computed(() =>
  quantity.value !== 'strings'
    ? []
    : (scene.value?.layouts ?? []).flatMap((l) =>
        l.strings.map((s) => (isMarked.value ? [l.exit, ...s.path, l.exit] : s.path) as Point[]),
      ),
)
function string(pattern: Acts['string-modules']['pattern']) {
  layouts.string(pattern)
  quantity.value = 'strings'
}
const roofs = computed(() =>
  (scene.value?.faces ?? []).filter((f) => f.solid === picked.value && (f.kind === 'roof' || f.kind === 'ground')),
)

function onPick(hit: { solid: string; face: string; module?: string; surface?: string } | null, adds: boolean) {
  if (!hit) {
    faceId.value = ''
    pickThing('')
    return
  }
  if (hit.module && hit.surface && hit.solid === picked.value) {
    faceId.value = hit.face
    layouts.chooseSurface(hit.surface)
    const key = `${hit.surface} ${hit.module}`
    const next = new Set(adds ? modules.value : [])
    if (modules.value.has(key)) next.delete(key)
    else next.add(key)
    queueMicrotask(() => (modules.value = next))
    return
  }
  if (hit.solid === picked.value)
    faceId.value = ['roof', 'ground', 'wall', 'mesh'].includes(
      scene.value?.faces.find((f) => f.id === hit.face)?.kind ?? '',
    )
      ? hit.face
      : ''
  else pickThing(hit.solid, adds)
}

const ground = computed(() => {
  const corners = pictureOnGround(store.site)
  return corners && store.site.plan ? { url: api.picture(store.site.plan.digest), corners } : null
})
/** A traced outline becomes a hipped house; its roof and heights are typed then. */
function traced(corners: Level[] | null) {
  isTracing.value = false
  if (!corners) return
  const id = freshId(
    'house',
    things.value.map((t) => t.id),
  )
  store.edit({
    scene: {
      buildings: { [id]: { name: 'House', hip: { pitch: 35 }, ...buildingOf(corners) } as unknown as JsonObject },
    },
  })
  pick(id)
  look(212, 34)
}
function resize(pointer: string, value: number) {
  const steps = pointer.split('/').slice(1)
  if (steps[0] === 'layout') {
    layouts.setLayout({ [steps[1]!]: { [steps[2]!]: value } })
    return
  }
  const patch = steps.reduceRight<unknown>((inner, key) => ({ [key]: inner }), value) as JsonObject
  store.edit(patch, gesture.name())
}
function raise(pointer: string, value: number, isFree: boolean) {
  const field = library.field(pointer)
  const step = isFree ? 0.01 : grid.value
  const bounded = Math.min(field?.max ?? 500, Math.max(field?.min ?? 0, Math.round(value / step) * step))
  selection.soon(() => resize(pointer, Math.round(bounded * 1000) / 1000))
}

const findStrings = () =>
  void router.push({
    name: 'bench',
    params: { ...route.params, bench: 'circuits' },
    query: { ...route.query, surface: surface.value ?? undefined, act: 'find-strings' },
  })

/** What was asked for elsewhere, such as by Ctrl+K: a thing in words. */
watch(
  () => [route.query.add, !!scene.value] as const,
  ([words, isThere]) => {
    if (typeof words !== 'string' || !isThere) return
    const [phrase] = phrasesOf(words)
    const query = { ...route.query, add: undefined }
    void router.replace({ query }).then(() => phrase && add(phrase))
  },
  { immediate: true },
)

const hover = computed(() => {
  const h = hovered.value
  const one = h && shade.value?.surfaces.find((s) => s.surface === h.surface)
  const index = one ? one.ids.indexOf(h!.module) : -1
  if (!one || index < 0) return null
  const [got, free] = irradiation(one, index)
  const shown = scene.value?.layouts.find((l) => l.surface === h!.surface)?.modules.find((m) => m.id === h!.module)
  return { number: shown?.number, string: shown?.string, got, free }
})

const hasWords = computed(() => !!thing.value || !!face.value || several.value.length > 1 || !things.value.length)
const wordsHeight = ref(0)
/** What lies over the edges of the drawing. */
const insets = computed(() => ({ top: hasWords.value ? wordsHeight.value + 8 : 8, right: 26, bottom: 22, left: 148 }))

const keys = useSceneKeys({
  kit,
  selection,
  layouts,
  leave: () => {
    if (isLaying.value || isStringing.value) isLaying.value = isStringing.value = false
    else if (modules.value.size) modules.value = new Set()
    else if (faceId.value) faceId.value = ''
    else pickThing('')
  },
  fit: () => sheet.value?.fit(),
  type: (letter) => addLine.value?.begin(letter),
})
</script>
<template>
  <div class="bench scene" tabindex="-1" @keydown="keys">
    <header>
      <h2>Scene</h2>
      <div class="tools soft">
        <button
          v-for="q in QUANTITIES"
          :key="q"
          type="button"
          class="link"
          :aria-pressed="quantity === q"
          @click="quantity = q"
        >
          {{ q }}
        </button>
        <select v-if="isColoured && quantity !== 'orientation'" v-model="period" class="blank" aria-label="Period">
          <option value="year">year</option>
          <option v-for="month in MONTHS" :key="month" :value="month">{{ month }}</option>
          <option value="moment">the Tideline's moment</option>
          <option value="range" :disabled="!hasRange">the Tideline's range</option>
        </select>
        <AddLine ref="addLine" @add="add" />
      </div>
    </header>
    <p v-if="fault" class="bad fault">{{ fault }}</p>
    <div class="stage">
      <SceneSheet
        v-if="scene"
        ref="sheet"
        class="drawing"
        :scene="scene"
        :picked="picked"
        :sun="sun"
        :month="month"
        :colour-of="colourOf"
        :colour-key="colourKey"
        :dimensions="dimensions"
        :marks="marks"
        :picture="ground"
        :tracing="isTracing"
        @trace="traced"
        :laying="laying"
        @lay="layouts.layBy"
        :stringing="isStringing ? surface : null"
        :lines="lines"
        @string="layouts.drawString"
        :hidden="hidden"
        :pieces="pieces"
        :insets="insets"
        :movable="!!thing && !thing.values.is_locked"
        @pick="onPick"
        :handles="handles"
        :lock="lock"
        @grab="selection.grab"
        @drag="selection.drag"
        @turn="selection.turn"
        @raise="raise"
        @drop="selection.drop"
        @hover="hovered = $event"
        @resize="resize"
      />
      <aside class="list" :style="{ top: `${insets.top}px` }">
        <ThingNames
          v-model:everything="everything"
          v-model:spacing="spacing"
          v-model:tracing="isTracing"
          :things="things"
          :picked="picked"
          :also="also"
          @pick="pickThing"
          @read="readFile"
        >
          <nav v-if="roofs.length" class="faces" aria-label="Roof faces">
            <button
              v-for="f in roofs"
              :key="f.id"
              type="button"
              class="link"
              :aria-pressed="f.id === faceId"
              @click="faceId = f.id === faceId ? '' : f.id"
            >
              {{ f.name.split(', ').slice(1).join(', ') || f.name }}<template v-if="f.surfaces.length"> ●</template>
            </button>
          </nav>
        </ThingNames>
      </aside>
      <FloatingWords v-if="hasWords" :key="`${picked} ${faceId}`" @height="wordsHeight = $event">
        <ThingLine
          v-if="thing && !face"
          :thing="thing"
          :azimuth="scene?.places[thing.id]?.azimuth ?? 180"
          @change="change(thing, $event)"
          @act="act"
        />
        <p v-if="several.length > 1" class="soft several" role="status">
          {{ several.length }} objects are selected: they move, lock, hide and are deleted together.
          <button type="button" class="link" @click="act(isGrouped ? 'ungroup' : 'group')">
            {{ isGrouped ? 'ungroup' : 'keep as a group' }}
          </button>
        </p>
        <p v-if="!things.length" class="thing-none">
          Nothing stands here yet. Type <b>house 10 x 8</b> behind <i>Add</i>,
          <button type="button" class="link" @click="addLine?.begin('h')">begin with a house</button>, or drop a file.
        </p>
        <FaceLine
          v-if="face"
          v-model:laying="isLaying"
          v-model:stringing="isStringing"
          :face="face"
          :layouts="layouts"
          @wire="findStrings"
          @string="string"
        />
      </FloatingWords>
      <div v-if="scene && things.length" class="insets">
        <FlatViews :scene="scene" :picked="picked" :colour-of="colourOf" :colour-key="colourKey" @pick="pick" />
      </div>
      <SceneReadings v-if="reading" :reading="reading" @accept="accept" @turn="turn" @close="reading = null" />
      <p v-if="hover" class="hover" role="status">
        Module {{ hover.number }}<template v-if="hover.string">, string {{ hover.string }}</template
        >: {{ number(hover.got, hover.free < 10 ? 3 : 0) }} kWh/m² {{ during }},
        {{ number((hover.got / Math.max(hover.free, 1e-9)) * 100, 1) }} % of
        {{ number(hover.free, hover.free < 10 ? 3 : 0) }} without shade.
        {{ takers }}
      </p>
    </div>
    <div class="under soft">
      <span v-if="sun && sun.elevation > 0"
        >Shadows of {{ moment }}: sun elevation {{ number(sun.elevation) }}°, azimuth {{ number(sun.azimuth) }}°.</span
      >
      <span v-else-if="sun">{{ moment }}: the sun is below the horizon.</span>
      <span v-if="isColoured && shade" class="legend" :class="{ stale: !isCurrent }">
        <template v-if="quantity !== 'irradiation'"
          >{{ number(darkest * 100) }} %<i :style="{ background: RAMP_GRADIENT }" />100 %</template
        >
        <template v-else
          >0<i :style="{ background: RAMP_GRADIENT }" />{{ number(brightest, brightest < 10 ? 3 : 0) }} kWh/m²</template
        >
        <b v-if="!isCurrent" role="status">previous result, recalculating…</b>
        <b v-else-if="shade.is_coarse" role="status">preview, exact result follows…</b>
      </span>
      <span class="views">
        <span v-if="things.length"
          >grid
          <NumberField
            class="blank step"
            :value="grid"
            :limits="{ min: 0.01, max: 10 }"
            :step="0.05"
            aria-label="Grid on which objects are moved [m]"
            @change="grid = $event ?? grid"
            @keydown.stop
          />
          m</span
        >
        <button type="button" class="link" title="The whole scene (F)" @click="sheet?.fit()">fit</button>
        <button v-if="face" type="button" class="link" @click="sheet?.lookAt(face)">square to the face</button>
        <button type="button" class="link" @click="look(212, 34)">axonometry</button>
        <button type="button" class="link" @click="look(180, 89)">plan</button>
        <button type="button" class="link" @click="look(180, 8)">from the south</button>
      </span>
    </div>
    <SceneDrawer v-if="things.length" :shade="shade" :fault="shadeFault">
      <WhatIf v-if="thing && !face" :thing="thing" :height="at(thing, 'height')" :carries="carries" />
      <SceneFigures
        :shade="shade"
        :fault="shadeFault"
        :is-current="isCurrent"
        @remove="removeModules"
        @pick="pick"
        @save="sheet?.save()"
      />
    </SceneDrawer>
  </div>
</template>
<style scoped>
.scene {
  height: 100%;
  min-height: 420px;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto auto minmax(0, 1fr) auto auto;
  padding-bottom: 0;
  outline: 0;
}
.scene > header {
  grid-row: 1;
}
.scene .tools {
  column-gap: 10px;
}
.fault {
  grid-row: 2;
  margin: 0;
}
.stage {
  grid-row: 3;
  position: relative;
  min-height: 0;
}
.stage > .drawing {
  position: absolute;
  inset: 0;
}
.list {
  position: absolute;
  left: 0;
  width: 144px;
  max-height: calc(100% - 176px);
  overflow: auto;
  padding: 2px 6px 4px 0;
  background: color-mix(in srgb, var(--sheet) 82%, transparent);
}
.insets {
  position: absolute;
  left: 0;
  bottom: 4px;
  display: flex;
  align-items: end;
  gap: 6px;
}
.faces {
  display: grid;
  justify-items: start;
  padding-left: 10px;
  font-size: 12px;
}
.faces [aria-pressed='true'] {
  font-weight: 600;
}
.several {
  font-size: 12px;
  margin: 0;
}
.thing-none {
  font-family: var(--serif);
  font-size: 15px;
  margin: 4px 0;
}
.under {
  grid-row: 4;
  display: flex;
  justify-content: space-between;
  gap: 0 14px;
  font-size: 11.5px;
  padding: 2px 0;
  border-top: 1px solid var(--rule);
  min-height: 22px;
}
.hover {
  position: absolute;
  right: 0;
  bottom: 0;
  max-width: calc(100% - 290px);
  margin: 0;
  padding: 3px 44px 3px 8px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 12px;
  pointer-events: none;
}
.under > span:first-of-type {
  flex: 1 1 0;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.legend {
  display: inline-flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
.legend i {
  width: 90px;
  height: 9px;
}
.views {
  display: inline-flex;
  gap: 10px;
  white-space: nowrap;
}
.step {
  width: 3.4em;
}
.stale {
  opacity: 0.55;
}
@media (max-width: 1150px) {
  .under > span:first-of-type,
  .views > span {
    display: none;
  }
}
</style>
