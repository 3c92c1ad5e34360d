import { onBeforeUnmount, onMounted, ref, shallowRef, watch, type Ref } from 'vue'
import type { SceneAnswer } from '@/api/client'
import { useTheme } from '@/theme/useTheme'
import type { Dimension, Handle, Point } from './dimensions'
import type { Level } from './placing'
import { areApart, spread } from './sheetLabels'
import { SheetView, type Inks, type Insets, type Piece, type Sun } from './sheetView'

/** What the drafting sheet shows. */
export interface SheetContent {
  scene: SceneAnswer
  picked: string
  sun: Sun | null
  /** Of the Tideline's moment, from 0: trees have their leaves of it. */
  month: number
  colourOf: (surface: string, module: string) => string | null
  colourKey: string
  dimensions: (Dimension & { value: number })[]
  handles: Handle[]
  /** What a thing that is moved or turned has snapped to. */
  lock: string
  hidden: Set<string>
  pieces: Piece[]
  /** Texts on the drawing, such as the numbers of strings. */
  marks: { text: string; at: [number, number, number] }[]
  movable: boolean
  /** The user's own picture on the ground. */
  picture: { url: string; corners: Level[] } | null
  /** Whether clicks on the ground trace an outline. */
  tracing: boolean
  /** The face on which clicks and drags lay modules, and its axes. */
  laying: { face: string; axes: [Point, Point] } | null
  /** The surface on which drags draw strings. */
  stringing: string | null
  /** The ways of strings over their modules. */
  lines: Point[][]
  /** What lies over the edges of the drawing. */
  insets: Insets
}

/** A measure where it stands on the drawing. */
interface PlacedMeasure {
  pointer: string
  label: string
  unit: 'm' | '°'
  value: number
  from: [number, number]
  to: [number, number]
  at: [number, number]
}

const inks = (): Inks => {
  const style = getComputedStyle(document.documentElement)
  const of = (name: string) => style.getPropertyValue(name).trim()
  const isDark = document.documentElement.dataset.theme === 'dark'
  return {
    sheet: of('--sheet'),
    paper: of('--paper'),
    ink: of('--ink'),
    rule: of('--rule'),
    loss: of('--loss'),
    current: of('--current'),
    wall: isDark ? '#22323e' : '#efe6d3',
    tan: isDark ? '#8a7a5c' : '#d9c6a0',
    leaf: of('--yield'),
  }
}

/** The drawing of the scene on a canvas, drawn again when what it shows changes, and what stands over it. */
export function useSheetView(
  props: SheetContent,
  host: Ref<HTMLElement | undefined>,
  canvas: Ref<HTMLCanvasElement | undefined>,
) {
  const theme = useTheme()
  const view = shallowRef<SheetView | null>(null)
  const places = ref<PlacedMeasure[]>([])
  /** Counts the drawings: what lies over them is placed anew. */
  const turned = ref(0)
  const texts = ref<{ text: string; x: number; y: number }[]>([])
  const north = ref(0)
  const fault = ref('')
  let frame = 0
  let isFirst = true
  let observer: ResizeObserver | null = null

  function draw() {
    if (frame) return
    frame = requestAnimationFrame(() => {
      frame = 0
      const v = view.value
      if (!v) return
      v.render()
      north.value = v.north()
      turned.value++
      texts.value = props.marks.map((m) => {
        const [x, y] = v.project(m.at)
        return { text: m.text, x, y }
      })
      const found = props.dimensions.map((d) => ({ ...d, from: v.project(d.from), to: v.project(d.to) }))
      places.value = spread(areApart(found.filter((d) => d.isPoint)) ? found : found.filter((d) => !d.isPoint))
    })
  }
  function show() {
    view.value?.show(
      props.scene,
      inks(),
      props.picked,
      props.colourOf,
      props.hidden,
      props.pieces,
      isFirst && props.scene.faces.length > 0,
      props.month,
    )
    if (props.scene.faces.length) isFirst = false
    view.value?.light(props.sun)
    draw()
  }
  onMounted(() => {
    try {
      view.value = new SheetView(canvas.value!)
    } catch {
      fault.value = 'This browser draws no WebGL2. The plan and the elevation below show the scene.'
      return
    }
    observer = new ResizeObserver(([entry]) => {
      view.value?.resize(entry!.contentRect.width, entry!.contentRect.height)
      draw()
    })
    observer.observe(host.value!)
    view.value.insets = props.insets
    view.value.resize(host.value!.clientWidth, host.value!.clientHeight)
    show()
    if (props.picture) void view.value.picture(props.picture.url, props.picture.corners).then(draw)
  })
  onBeforeUnmount(() => {
    observer?.disconnect()
    cancelAnimationFrame(frame)
    view.value?.close()
  })
  watch(
    () => [
      props.scene,
      props.month,
      props.picked,
      props.colourKey,
      props.pieces,
      theme.dark.value,
      [...props.hidden].join(),
    ],
    show,
  )
  watch(
    () => props.sun,
    () => {
      view.value?.light(props.sun)
      draw()
    },
  )
  watch(() => [props.dimensions, props.handles, props.marks, props.lines], draw)

  watch(
    () => props.picture?.url,
    async (url) => {
      await view.value?.picture(url ?? null, props.picture?.corners ?? [])
      draw()
    },
  )
  function turn(by: number) {
    if (!view.value) return
    view.value.azimuth = (view.value.azimuth + by + 360) % 360
    draw()
  }
  function look(azimuth: number, elevation: number) {
    if (!view.value) return
    view.value.azimuth = azimuth
    view.value.elevation = elevation
    view.value.frame()
    draw()
  }
  /** Where the eye stands [°]. */
  const eye = () => ({ azimuth: view.value?.azimuth ?? 0, elevation: view.value?.elevation ?? 0 })
  /** Square to a face, which fills the sheet. */
  function lookAt(face: SceneAnswer['faces'][number]) {
    view.value?.frameFace(face.outline as Point[], face.tilt < 1 ? 180 : face.azimuth, Math.min(89, 90 - face.tilt))
    draw()
  }
  const save = () => {
    const link = document.createElement('a')
    link.href = view.value?.asImage() ?? ''
    link.download = 'scene.png'
    link.click()
  }
  /** The whole scene, as one looks at it now. */
  function fit() {
    view.value?.frame()
    draw()
  }
  watch(
    () => props.insets,
    (insets) => {
      if (!view.value) return
      view.value.insets = insets
      if (view.value.isFitted) fit()
    },
  )

  return { view, draw, turned, places, texts, north, fault, turn, look, eye, lookAt, fit, save }
}
