<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import DimensionLabel from './DimensionLabel.vue'
import { middleOf, type Point } from './dimensions'
import NorthArrow from './NorthArrow.vue'
import type { Level } from './placing'
import SheetGrips from './SheetGrips.vue'
import { useLaying } from './useLaying'
import { useSheetPointer, type SheetTool } from './useSheetPointer'
import { useSheetView, type SheetContent } from './useSheetView'
import { useStringDrawing } from './useStringDrawing'
import { useTracing } from './useTracing'

/** The drafting sheet: the scene in axonometry, its shadows, and the dimensions of what is picked. */
const props = defineProps<SheetContent>()
const emit = defineEmits<{
  pick: [hit: { solid: string; face: string; module?: string; surface?: string } | null, adds: boolean]
  grab: []
  drag: [dx: number, dy: number, isFree: boolean, reach: number]
  turn: [azimuth: number, isFree: boolean]
  raise: [pointer: string, value: number, isFree: boolean]
  drop: []
  hover: [hit: { surface: string; module: string } | null]
  resize: [pointer: string, value: number]
  trace: [corners: Level[] | null]
  lay: [area: [Point, Point]]
  string: [modules: string[]]
}>()
const host = ref<HTMLDivElement>()
const canvas = ref<HTMLCanvasElement>()
const sheet = useSheetView(props, host, canvas)
const { view, turned, places, texts, north, fault, turn, look, eye, lookAt, fit, save } = sheet
defineExpose({ turn, look, eye, lookAt, fit, save })

const traced = useTracing(
  view,
  () => props.tracing,
  turned,
  (corners) => emit('trace', corners),
)
const { line, hint } = traced
watch(
  () => props.tracing,
  (isOn) => isOn && look(180, 89),
)
const laid = useLaying(view, () => props.laying, turned)
const drawn = useStringDrawing(view, () => props.stringing)
/** A drag with a tool goes on where the pointer leaves the sheet. */
function holding(isBegun: boolean, event: PointerEvent) {
  if (isBegun) host.value!.setPointerCapture(event.pointerId)
  return isBegun
}
const tools: SheetTool[] = [
  {
    begin: (x, y) => {
      if (props.tracing) traced.click(x, y)
      return props.tracing
    },
    go: (x, y, isHeld) => {
      if (props.tracing && !isHeld) traced.over(x, y)
      return props.tracing && !isHeld
    },
    end: () => {},
  },
  {
    begin: (x, y, event) => holding(drawn.begin(x, y), event),
    go: drawn.go,
    end: () => {
      const modules = drawn.end()
      if (modules.length) emit('string', modules)
    },
  },
  {
    begin: (x, y, event) => holding(laid.begin(x, y), event),
    go: laid.go,
    end: () => {
      const area = laid.end()
      if (area) emit('lay', area)
    },
  },
]
const { down, moved, up, rest, wheel, take, grips } = useSheetPointer(props, host, sheet, tools, {
  pick: (hit, adds) => emit('pick', hit, adds),
  grab: () => emit('grab'),
  drag: (...step) => emit('drag', ...step),
  turn: (...to) => emit('turn', ...to),
  raise: (...to) => emit('raise', ...to),
  drop: () => emit('drop'),
  hover: (hit) => emit('hover', hit),
})

const middleOfModule = (id: string) => {
  const layout = props.scene.layouts.find((l) => l.surface === props.stringing)
  return middleOf(layout?.modules.find((m) => m.id === id)?.corners ?? [])
}
const ways = computed(() => {
  if (!view.value || turned.value < 0) return []
  const some = drawn.path.value.length ? [...props.lines, drawn.path.value.map(middleOfModule)] : props.lines
  return some.map((points) => points.map((p) => view.value!.project(p).join()).join(' '))
})
</script>
<template>
  <div
    ref="host"
    class="sheet"
    @pointerdown="down"
    @pointermove="moved"
    @pointerup="up"
    @pointercancel="(rest(), laid.end(), drawn.end())"
    @wheel="wheel"
    @contextmenu.prevent
  >
    <canvas ref="canvas" role="img" :aria-label="`Axonometric drawing of the scene, ${scene.faces.length} faces`" />
    <p v-if="fault" class="soft fault">{{ fault }}</p>
    <svg class="over">
      <polyline v-if="tracing" :points="line" />
      <polygon :points="laid.corners.value" />
      <polyline v-for="(way, i) in ways" :key="i" :points="way" class="way" />
      <text v-for="(t, i) in texts" :key="i" :x="t.x" :y="t.y + 3">{{ t.text }}</text>
      <g v-for="d in places" :key="d.pointer">
        <path :d="`M${d.from}L${d.to}`" />
        <circle :cx="d.from[0]" :cy="d.from[1]" r="2.2" />
        <circle :cx="d.to[0]" :cy="d.to[1]" r="2.2" />
      </g>
      <SheetGrips :grips="grips" @take="take" />
    </svg>
    <DimensionLabel
      v-for="d in places"
      :key="d.pointer"
      :label="d.label"
      :pointer="d.pointer"
      :value="d.value"
      :unit="d.unit"
      :x="d.at[0]"
      :y="d.at[1]"
      @change="emit('resize', d.pointer, $event)"
    />
    <p v-if="tracing" class="hint" role="status">
      {{ hint.words }} <b>{{ hint.measured }}</b>
    </p>
    <p v-else-if="lock" class="hint" role="status">{{ lock }}</p>
    <p v-else-if="stringing" class="hint" role="status">
      Draw from module to module{{ drawn.path.value.length ? ` (${drawn.path.value.length})` : '' }}: the first has the
      positive end. Esc leaves.
    </p>
    <p v-else-if="props.laying" class="hint" role="status">
      Click the face for one module, drag along it for a row, drag over an area to fill it. Esc leaves.
    </p>
    <NorthArrow :north="north" @turn="turn(45)" />
  </div>
</template>
<style scoped>
.sheet {
  position: relative;
  touch-action: none;
  overflow: hidden;
  cursor: grab;
}
.sheet:active {
  cursor: grabbing;
}
canvas {
  width: 100%;
  height: 100%;
  display: block;
}
.over {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.over path {
  stroke: var(--current);
  fill: none;
}
.over text {
  font-size: 9.5px;
  font-weight: 600;
  text-anchor: middle;
  fill: #1b2a3a;
}
.over polyline,
.over polygon {
  fill: none;
  stroke: var(--current);
  stroke-width: 1.6px;
}
.hint {
  position: absolute;
  left: 50%;
  transform: translateX(-50%);
  bottom: 6px;
  white-space: nowrap;
  border-radius: 5px;
  box-shadow: var(--shadow);
  margin: 0;
  background: var(--sheet);
  padding: 2px 6px;
  font-size: 12px;
}
.over .way {
  stroke: #1b2a3a;
  stroke-width: 1px;
  opacity: 0.6;
}
.over circle {
  fill: var(--current);
}
.fault {
  position: absolute;
  inset: 40% 10% auto;
  text-align: center;
}
</style>
