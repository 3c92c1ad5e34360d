<script setup lang="ts">
import { computed } from 'vue'
import { rampCss } from '@/theme/ramp'

/** A small drawing made from the design itself: its planes as they lie, seen from the sun's side at an angle. */
const props = defineProps<{
  planes: (readonly [number, number, number])[] | [number, number, number][]
  south: boolean
  label: string
}>()
const VIEW = 32
/** Half of what a plane may cover of the picture. */
const ROOM = [62, 44] as const
const shapes = computed(() => {
  const used = props.planes.filter((p) => p[2] > 0)
  return used.map(([tilt, azimuth, count], i) => {
    const turn = ((azimuth + (props.south ? 180 : 0)) * Math.PI) / 180
    const beta = (tilt * Math.PI) / 180
    const columns = Math.max(2, Math.round(Math.sqrt(count * 1.9)))
    const rows = Math.max(1, Math.ceil(count / columns))
    const ax = [Math.cos(turn), -Math.sin(turn)]
    const up = [-Math.sin(turn) * Math.cos(beta), -Math.cos(turn) * Math.cos(beta), Math.sin(beta)]
    const view = (v: readonly number[]) => {
      const [x, y, z] = [v[0] ?? 0, v[1] ?? 0, v[2] ?? 0]
      const a = (VIEW * Math.PI) / 180
      const [px, py] = [x * Math.cos(a) + y * Math.sin(a), -x * Math.sin(a) + y * Math.cos(a)]
      return [-px, -py * 0.5 - z * 0.86] as const
    }
    const [e, n] = [view(ax), view(up)]
    const [w, h] = [columns / 2 + 0.7, rows / 2 + 0.5]
    // As large as keeps every corner of the plane inside the picture.
    const reach = (k: 0 | 1) => w * Math.abs(e[k]) + h * 1.5 * Math.abs(n[k])
    const size = Math.min(15, ROOM[0] / reach(0), ROOM[1] / reach(1)) / (used.length > 1 ? 1.5 : 1)
    const cells: { d: string; fill: string }[] = []
    for (let r = 0; r < rows; r++)
      for (let c = 0; c < columns; c++) {
        if (r * columns + c >= count) continue
        const at = (u: number, v: number) =>
          `${(u * size * e[0] + v * size * 1.5 * n[0]).toFixed(1)} ${(u * size * e[1] + v * size * 1.5 * n[1]).toFixed(1)}`
        const [u, v] = [c - columns / 2, r - rows / 2]
        cells.push({
          d: `M${at(u, v)}L${at(u + 0.92, v)}L${at(u + 0.92, v + 0.94)}L${at(u, v + 0.94)}Z`,
          fill: rampCss(
            0.35 + 0.6 * Math.max(0, Math.cos(turn - Math.PI) * Math.sin(beta) * 0.7 + Math.cos(beta) * 0.5),
          ),
        })
      }
    const corner = (u: number, v: number) =>
      `${(u * size * e[0] + v * size * 1.5 * n[0]).toFixed(1)} ${(u * size * e[1] + v * size * 1.5 * n[1]).toFixed(1)}`
    const base = `M${corner(-w, -h)}L${corner(w, -h)}L${corner(w, h)}L${corner(-w, h)}Z`
    return { base, cells, x: 65 + (i - (used.length - 1) / 2) * 46, y: 54 + (i % 2) * 12 }
  })
})
</script>
<template>
  <svg viewBox="0 0 130 100" width="130" height="100" role="img" :aria-label="label">
    <title>{{ label }}</title>
    <g v-for="(shape, i) in shapes" :key="i" :transform="`translate(${shape.x} ${shape.y})`">
      <path :d="shape.base" fill="var(--night)" stroke="var(--ink)" stroke-width=".7" />
      <path
        v-for="(cell, j) in shape.cells"
        :key="j"
        :d="cell.d"
        :fill="cell.fill"
        stroke="var(--ink)"
        stroke-width=".45"
      />
    </g>
  </svg>
</template>
