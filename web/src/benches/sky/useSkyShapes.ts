import { computed } from 'vue'
import type { ObstaclesAnswer, SunPathsAnswer } from '@/api/client'
import { rampCss } from '@/theme/ramp'
import { azimuthWords, MONTHS, number } from '@/theme/format'
import type { PlacedPhoto } from './lens'
import {
  DAYS_21,
  fieldsOf,
  groundUnder,
  pathOf,
  planeEdge,
  shapeOf,
  sunAt,
  turn,
  wholeLine,
  worthCells,
  type Direction,
  type Field,
  type Point,
  type Projection,
} from './skyGeometry'

/** What the picture of the sky shows. */
export interface SkyContent {
  projection: Projection
  paths: SunPathsAnswer
  horizon: Direction[]
  obstacles: ObstaclesAnswer['obstacles']
  names: Record<string, string>
  picked: string
  /** Plane-of-array irradiance of every interval, or none. */
  irradiance: ArrayLike<number> | null
  surface: { tilt: number; azimuth: number; motion: string | null } | null
  layers: Record<'hours' | 'irradiation' | 'horizon' | 'plane', boolean>
  clock: 'clock' | 'solar'
  day: number
  hour: number
  mode: 'look' | 'draw' | 'fields'
  /** Fields counted as shaded, by band and hour. */
  isShaded: (field: Field) => boolean
  photo: PlacedPhoto | null
}

const directionsOf = (line: { azimuths: number[]; elevations: number[] }): Direction[] =>
  line.azimuths.map((azimuth, i) => ({ azimuth: turn(azimuth), elevation: line.elevations[i]! }))
/** Long edges bend in the polar picture. */
function dense(line: Direction[]): Direction[] {
  return line.flatMap((p, i) => {
    const next = line[i + 1]
    if (!next) return [p]
    const span = ((next.azimuth - p.azimuth + 540) % 360) - 180
    const steps = Math.max(1, Math.ceil(Math.abs(span) / 3))
    return Array.from({ length: steps }, (_, k) => ({
      azimuth: turn(p.azimuth + (span * k) / steps),
      elevation: p.elevation + ((next.elevation - p.elevation) * k) / steps,
    }))
  })
}

/** Everything in the picture as shapes of its projection: paths, hours, cells of light, horizon, obstacles, and their words. */
export function useSkyShapes(props: SkyContent) {
  const days = computed(() => props.paths.noon.length)
  const start = computed(() =>
    props.projection.kind === 'unrolled' ? props.projection.under([26.01, 100])!.azimuth : 0,
  )

  const cells = computed(() => {
    if (!props.layers.irradiation || !props.irradiance) return []
    const found = worthCells(props.paths, props.irradiance)
    const most = Math.max(1, ...found.map((c) => c.value))
    return found
      .map((c) => ({ d: shapeOf(c.corners, props.projection), fill: rampCss(c.value / most), value: c.value }))
      .filter((c) => c.d)
  })
  const most = computed(() => Math.max(0, ...cells.value.map((c) => c.value)))
  /** The sun crosses the same sky twice: seven paths stand for the year. Those at the solstices keep their words where room is short. */
  const months = computed(() => {
    const taken: Point[] = []
    const isPolar = props.projection.kind === 'polar'
    return [5, 11, 2, 3, 1, 4, 0].map((m) => {
      const day = DAYS_21[m]!
      const directions = Array.from({ length: 145 }, (_, i) => sunAt(props.paths, day, i / 6))
      const words = m === 11 || m === 5 ? `21 ${MONTHS[m]}` : `21 ${MONTHS[m]}, ${MONTHS[(22 - m) % 12]}`
      const up = directions.filter((d) => d.elevation > 0)
      // Polar words stand where the sun sets, clear of the west itself; unrolled ones under the top of the path.
      const at = isPolar ? up.at(-1) : up[Math.floor(up.length / 2)]
      let label: Point | null = null
      if (at) {
        const [x, y] = props.projection.place(isPolar ? { ...at, elevation: 0 } : at)
        const isWest = isPolar && Math.abs(at.azimuth - 270) < 4
        const free: Point = isPolar ? [x - 6, y + (isWest ? 18 : 3)] : [x, y + 12]
        if (taken.every(([tx, ty]) => Math.abs(ty - free[1]) > 11 || Math.abs(tx - free[0]) > 90)) {
          label = free
          taken.push(free)
        }
      }
      return { path: pathOf(directions, props.projection), words, label }
    })
  })
  const hours = computed(() => {
    if (!props.layers.hours) return []
    const shift = (day: number) => (props.clock === 'solar' ? props.paths.noon[day]! - 12 : 0)
    return Array.from({ length: 24 }, (_, h) => {
      const directions: Direction[] = []
      for (let d = 0; d <= days.value; d += 4) {
        const day = d % days.value
        directions.push(sunAt(props.paths, day, Math.max(0, Math.min(23.99, h + shift(day)))))
      }
      const summit = directions.reduce((a, b) => (b.elevation > a.elevation ? b : a))
      return {
        h,
        path: pathOf(directions, props.projection),
        label:
          summit.elevation > 2
            ? props.projection.place({ ...summit, elevation: Math.min(summit.elevation + 3, 89) })
            : null,
      }
    }).filter((line) => line.path)
  })
  const dayPath = computed(() =>
    pathOf(
      Array.from({ length: 145 }, (_, i) => sunAt(props.paths, props.day, i / 6)),
      props.projection,
    ),
  )
  const sun = computed(() => sunAt(props.paths, props.day, props.hour))
  const sunPoint = computed(() => props.projection.place({ ...sun.value, elevation: Math.max(0, sun.value.elevation) }))
  const ground = computed(() => groundUnder(wholeLine(props.horizon, start.value), props.projection))
  const edge = computed(() =>
    props.layers.plane && props.surface && !props.surface.motion
      ? pathOf(planeEdge(props.surface.tilt, props.surface.azimuth), props.projection)
      : '',
  )
  const things = computed(() =>
    Object.entries(props.obstacles).map(([id, lines]) => {
      const high = dense(directionsOf(lines.highest))
      const summit = high.reduce((a, b) => (b.elevation > a.elevation ? b : a), { azimuth: 0, elevation: 0 })
      return {
        id,
        shape: groundUnder(high, props.projection),
        low: lines.is_near ? groundUnder(dense(directionsOf(lines.lowest)), props.projection) : '',
        isNear: lines.is_near,
        label: props.projection.place({ azimuth: summit.azimuth, elevation: Math.min(86, summit.elevation + 3) }),
        words: `${props.names[id] ?? id}: up to ${number(summit.elevation, 1)}° at ${azimuthWords(Math.round(summit.azimuth))}`,
      }
    }),
  )
  const fields = computed(() =>
    props.mode === 'fields'
      ? fieldsOf(props.paths)
          .map((field) => ({ field, d: shapeOf(field.corners, props.projection) }))
          .filter((f) => f.d)
      : [],
  )
  const rings = computed(() => {
    const circle = (elevation: number) =>
      Array.from({ length: 121 }, (_, i) => ({ azimuth: turn(start.value + Math.min(359.99, i * 3)), elevation }))
    return [15, 30, 45, 60, 75]
      .filter((e) => e < props.projection.top)
      .map((elevation) => ({ elevation, path: pathOf(circle(elevation), props.projection) }))
  })
  const level = computed(() =>
    pathOf(
      Array.from({ length: 181 }, (_, i) => ({ azimuth: turn(start.value + Math.min(359.99, i * 2)), elevation: 0 })),
      props.projection,
    ),
  )
  const compass = computed(() =>
    ['N', 'NE', 'E', 'SE', 'S', 'SW', 'W', 'NW'].map((name, i) => {
      const [x, y] = props.projection.place({ azimuth: i * 45, elevation: props.projection.kind === 'polar' ? -8 : 0 })
      return { name, x: Math.max(x, 6), y: props.projection.kind === 'polar' ? y + 4 : y + 16, isMain: i % 2 === 0 }
    }),
  )

  const sunWords = computed(
    () =>
      `${number(sun.value.elevation)}° ${sun.value.elevation < 0 ? 'below the horizon' : 'up'}, ${azimuthWords(Math.round(sun.value.azimuth))}`,
  )

  return {
    start,
    cells,
    most,
    months,
    hours,
    dayPath,
    sun,
    sunPoint,
    sunWords,
    ground,
    edge,
    things,
    fields,
    rings,
    level,
    compass,
  }
}
