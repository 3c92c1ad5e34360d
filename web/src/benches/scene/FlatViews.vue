<script setup lang="ts">
import { computed, ref } from 'vue'
import type { SceneAnswer } from '@/api/client'

/** Plan and elevation of the same drawing, as ink on paper. */
const props = defineProps<{
  scene: SceneAnswer
  picked: string
  colourOf: (surface: string, module: string) => string | null
  colourKey: string
}>()
const emit = defineEmits<{ pick: [id: string] }>()
/** The view that is made large. */
const large = ref<'' | 'plan' | 'south'>('')
const enlarge = (view: 'plan' | 'south') => (large.value = large.value === view ? '' : view)

interface Shape {
  key: string
  solid: string
  points: string
  depth: number
  fill: string
  isRound?: boolean
  isModule?: boolean
}
const box = computed(() => {
  const all = [...props.scene.faces.flatMap((f) => f.outline), ...props.scene.bodies.flatMap((b) => b.points)]
  const of = (k: number) => [Math.min(0, ...all.map((p) => p[k]!)), Math.max(1, ...all.map((p) => p[k]!))] as const
  return { x: of(0), y: of(1), z: of(2) }
})
const FILL: Record<string, string> = {
  roof: 'var(--sheet)',
  top: 'var(--sheet)',
  ground: 'var(--paper)',
  wall: 'var(--night)',
  side: 'var(--night)',
  mesh: 'var(--sheet)',
}

function shapes(u: 0 | 1, v: 1 | 2, flip: number, depthOf: (p: number[]) => number): Shape[] {
  const at = (p: number[]) => `${p[u]!.toFixed(2)},${(flip * p[v]!).toFixed(2)}`
  const mean = (ring: number[][]) => ring.reduce((sum, p) => sum + depthOf(p), 0) / ring.length
  const found: Shape[] = props.scene.faces
    .filter((f) => v === 2 || f.kind !== 'wall')
    .map((f) => ({
      key: f.id,
      solid: f.solid,
      points: f.outline.map(at).join(' '),
      depth: mean(f.outline),
      fill: FILL[f.kind] ?? 'var(--sheet)',
      isRound: f.kind === 'side' && ['silos', 'pipes', 'poles'].includes(props.scene.places[f.solid]?.kind ?? ''),
    }))
  for (const body of props.scene.bodies)
    for (const t of body.triangles.length > 60 ? [] : body.triangles) {
      const ring = t.map((k) => body.points[k]!)
      found.push({
        key: `${body.id} ${t}`,
        solid: body.id,
        points: ring.map(at).join(' '),
        depth: mean(ring),
        fill: 'var(--sheet)',
      })
    }
  for (const layout of props.scene.layouts)
    for (const m of layout.modules)
      found.push({
        key: `${layout.surface} ${m.id}`,
        solid: layout.face.split('/')[0]!,
        points: m.corners.map(at).join(' '),
        depth: mean(m.corners) + 0.05,
        fill: props.colourOf(layout.surface, m.id) ?? '#d9c6a0',
        isModule: true,
      })
  return found.toSorted((a, b) => a.depth - b.depth)
}
const plan = computed(() => (void props.colourKey, shapes(0, 1, -1, (p) => p[2]!)))
const front = computed(() => (void props.colourKey, shapes(0, 2, -1, (p) => -p[1]!)))
const trees = computed(() =>
  props.scene.bodies
    .filter((b) => b.kind === 'trees' && b.triangles.length > 60)
    .map((b) => {
      const of = (k: number) =>
        [Math.min(...b.points.map((p) => p[k]!)), Math.max(...b.points.map((p) => p[k]!))] as const
      const [x, y, z] = [of(0), of(1), of(2)]
      return {
        id: b.id,
        x: (x[0] + x[1]) / 2,
        y: (y[0] + y[1]) / 2,
        z: (z[0] + z[1]) / 2,
        r: (x[1] - x[0]) / 2,
        h: (z[1] - z[0]) / 2,
      }
    }),
)
const view = (a: readonly [number, number], b: readonly [number, number], flip = -1) => {
  const margin = Math.max(a[1] - a[0], b[1] - b[0]) * 0.04
  const low = flip < 0 ? -b[1] : b[0]
  return `${a[0] - margin} ${low - margin} ${a[1] - a[0] + 2 * margin} ${b[1] - b[0] + 2 * margin}`
}
</script>
<template>
  <figure :class="{ large: large === 'plan', aside: large === 'south' }">
    <figcaption>
      <button type="button" :aria-expanded="large === 'plan'" title="Make it large, or small" @click="enlarge('plan')">
        Plan
      </button>
    </figcaption>
    <svg :viewBox="view(box.x, box.y)" role="img" aria-label="Plan">
      <polygon
        v-for="s in plan"
        :key="s.key"
        :points="s.points"
        :style="{ fill: s.fill }"
        :class="{ picked: s.solid === picked && !s.isModule, round: s.isRound, module: s.isModule }"
        @click="emit('pick', s.solid)"
      />
      <circle
        v-for="t in trees"
        :key="t.id"
        :cx="t.x"
        :cy="-t.y"
        :r="t.r"
        :class="{ picked: t.id === picked }"
        @click="emit('pick', t.id)"
      />
    </svg>
  </figure>
  <figure :class="{ large: large === 'south', aside: large === 'plan' }">
    <figcaption>
      <button
        type="button"
        :aria-expanded="large === 'south'"
        title="Make it large, or small"
        @click="enlarge('south')"
      >
        From the south
      </button>
    </figcaption>
    <svg :viewBox="view(box.x, box.z)" role="img" aria-label="Elevation from the south">
      <polygon
        v-for="s in front"
        :key="s.key"
        :points="s.points"
        :style="{ fill: s.fill }"
        :class="{ picked: s.solid === picked && !s.isModule, round: s.isRound, module: s.isModule }"
        @click="emit('pick', s.solid)"
      />
      <ellipse
        v-for="t in trees"
        :key="t.id"
        :cx="t.x"
        :cy="-t.z"
        :rx="t.r"
        :ry="t.h"
        :class="{ picked: t.id === picked }"
        @click="emit('pick', t.id)"
      />
      <line :x1="box.x[0] - 99" :x2="box.x[1] + 99" y1="0" y2="0" />
    </svg>
  </figure>
</template>
<style scoped>
figure {
  margin: 0;
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  width: 132px;
  height: 92px;
  padding: 3px 6px;
  border: 1px solid var(--rule);
  border-radius: 6px;
  background: color-mix(in srgb, var(--sheet) 88%, transparent);
}
figure.large {
  width: min(56vw, 620px);
  height: min(46vh, 380px);
  box-shadow: var(--shadow);
}
figure.aside {
  display: none;
}
figcaption button {
  font: inherit;
  letter-spacing: inherit;
  text-transform: inherit;
}
figcaption {
  font-size: 10px;
  font-weight: 600;
  letter-spacing: 0.06em;
  text-transform: uppercase;
  color: var(--soft);
}
svg {
  width: 100%;
  height: 100%;
  min-height: 0;
}
polygon,
circle,
ellipse,
line {
  stroke: var(--ink);
  stroke-width: 1px;
  vector-effect: non-scaling-stroke;
  stroke-linejoin: round;
}
circle,
ellipse {
  fill: var(--night);
  fill-opacity: 0.7;
}
.module {
  stroke-opacity: 0.45;
  stroke-width: 0.5px;
}
.round {
  stroke-opacity: 0.25;
  stroke-width: 0.5px !important;
}
.picked {
  stroke: var(--current);
  stroke-width: 1.8px;
}
polygon {
  cursor: pointer;
}
</style>
