<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, type Acts } from '@/api/client'
import { useDropped } from '@/stores/droppedFile'
import { useAskedAct } from '@/stores/useAskedAct'
import { useSchemeStore } from '@/stores/useSchemeStore'
import { MONTHS, number } from '@/theme/format'
import AddLine from './AddLine.vue'
import type { Point } from './dimensions'
import FaceLine from './FaceLine.vue'
import FloatingWords from './FloatingWords.vue'
import FlatViews from './FlatViews.vue'
import { pictureOnGround, type Level } from './placing'
import SceneDrawer from './SceneDrawer.vue'
import SceneFoot from './SceneFoot.vue'
import KeptViews from './KeptViews.vue'
import DesignTo from '@/target/DesignTo.vue'
import SceneFigures from './SceneFigures.vue'
import SceneReadings from './SceneReadings.vue'
import SceneSheet from './SceneSheet.vue'
import ThingLine from './ThingLine.vue'
import SeveralLine from './SeveralLine.vue'
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
import { useMeasures } from './useMeasures'
import { usePainting } from './usePainting'
import { useThings, type Traced } from './useThings'

const store = useSchemeStore()
const route = useRoute()
const router = useRouter()
const view = useScene()
const { scene, fault, shade, shadeFault, isCurrent, everything, spacing, quantity } = view
const { isColoured, period, during, hasRange, irradiation, thing: picked, pick } = view
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
const isDesigning = ref(false)
const everyRoof = computed(() => (scene.value?.faces ?? []).filter((one) => one.kind === 'roof'))
const isLaying = ref(false)
const isStringing = ref(false)
const { sun, month } = useSun()
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
const { reading, readFile, choose, take: readDropped, turn, accept } = useReading()
useDropped(
  'scene',
  ({ file }) => readDropped(file),
  () => store.saved !== null,
)
useAskedAct({ 'read-scene': choose })
const painting = usePainting(view, modules)
const { colourOf, colourKey, pieces, marks, lines, hovered, hover } = painting
const takers = useTakers(hovered)
const { dimensions, handles, resize, raise } = useMeasures(scene, kit, selection, layouts, isStringing)
const hidden = computed(() => new Set(things.value.filter((t) => t.values.is_hidden).map((t) => t.id)))
const carries = computed(() => (scene.value?.layouts ?? []).some((l) => l.face.split('/')[0] === picked.value))
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
  return corners && store.site.map_picture ? { url: api.picture(store.site.map_picture.digest), corners } : null
})
/** What is being traced on the ground. */
const tracing = ref<Traced | null>(null)
async function traced(corners: Level[] | null) {
  const kind = tracing.value
  tracing.value = null
  if (!corners || !kind) return
  await kit.trace(kind, corners)
  look(212, 34)
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

/** What lies over the edges of the drawing: room for two lines of words, whether anything is selected or not, so that nothing jumps under the pointer. */
const insets = { top: 60, right: 26, bottom: 22, left: 148 }

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
    <DesignTo v-if="isDesigning" class="designing" :faces="everyRoof" @close="isDesigning = false" />
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
        :tracing="tracing !== null"
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
          v-model:tracing="tracing"
          :things="things"
          :picked="picked"
          :also="also"
          :takes-modules="everyRoof.length > 0"
          @pick="pickThing"
          @read="readFile"
          @design="isDesigning = !isDesigning"
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
      <FloatingWords :key="`${picked} ${faceId}`">
        <SeveralLine v-if="several.length > 1" :several="several" :is-grouped="isGrouped" @act="act" />
        <ThingLine
          v-if="thing && !face"
          :thing="thing"
          :azimuth="scene?.places[thing.id]?.azimuth ?? 180"
          @change="change(thing, $event)"
          @act="act"
        />
        <p v-if="!things.length" class="thing-none">
          Nothing stands here yet. Type <b>house 10 x 8</b> behind <i>Add</i>,
          <button type="button" class="link" @click="addLine?.begin('h')">begin with a house</button>, or drop a file.
        </p>
        <p v-else-if="!thing && !face" class="soft nothing">
          Click an object or its name to read and change it; Shift-click takes another with it.
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
    <SceneFoot
      v-model:grid="grid"
      :view="view"
      :has-things="things.length > 0"
      :has-face="face !== null"
      @fit="sheet?.fit()"
      @square="face && sheet?.lookAt(face)"
      @look="look"
    />
    <KeptViews v-if="things.length" :view="view" :eye="sheet?.eye" @look="look" />
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
  grid-template-rows: auto auto minmax(0, 1fr) auto auto auto;
  padding-bottom: 0;
  outline: 0;
}
.scene > header {
  grid-row: 1;
}
.scene .tools {
  column-gap: 10px;
}
.designing {
  grid-row: 2;
  margin-bottom: 6px;
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
.nothing {
  font-size: 12px;
  margin: 5px 0;
}
.thing-none {
  font-family: var(--serif);
  font-size: 15px;
  margin: 4px 0;
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
</style>
