import * as three from 'three'
import type { SceneAnswer } from '@/api/client'
import type { Point } from './dimensions'
import { Patches, Strokes, type Mark } from './sheetGeometry'

/** Inks and papers of the drawing, taken from the page's own colours. */
export interface Inks {
  sheet: string
  paper: string
  ink: string
  rule: string
  loss: string
  current: string
  wall: string
  tan: string
  leaf: string
}
/** Pixels at the edges of a picture. */
export interface Insets {
  top: number
  right: number
  bottom: number
  left: number
}
/** A piece of a face on which no module lies, in the colour of what it receives. */
export interface Piece {
  solid: string
  face: string
  corners: Point[]
  colour: string
}
export interface Sun {
  azimuth: number
  elevation: number
}
const TURN = Math.PI / 180
/** Unit vector toward an azimuth and an elevation [°]: of the sun, or of the eye. */
function directionOf({ azimuth, elevation }: Sun): three.Vector3 {
  const [a, e] = [azimuth * TURN, elevation * TURN]
  return new three.Vector3(Math.cos(e) * Math.sin(a), Math.cos(e) * Math.cos(a), Math.sin(e))
}
/** Light without the sun, so that paper in shade keeps three quarters of its tone. */
const SKY = 0.78 * Math.PI
const SUN = 0.34 * Math.PI

/** Of the pixels of a view in motion, where there is no graphics hardware. */
const SOFTWARE_RATIO = 0.5

/** Whether the browser has no graphics hardware to draw with. */
function isDrawnInSoftware(): boolean {
  const probe = document.createElement('canvas').getContext('webgl2')
  const info = probe?.getExtension('WEBGL_debug_renderer_info')
  const drawnBy = info ? String(probe!.getParameter(info.UNMASKED_RENDERER_WEBGL)) : ''
  probe?.getExtension('WEBGL_lose_context')?.loseContext()
  return /software|swiftshader|llvmpipe|basic render/i.test(drawnBy)
}

/** Papers and inks, made once: a material that is made anew has its shaders compiled anew. */
function makeMaterials() {
  const paper = {
    vertexColors: true,
    side: three.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
  }
  const dash = { dashSize: 0.25, gapSize: 0.18, transparent: true, opacity: 0.75 }
  return {
    paper: new three.MeshLambertMaterial(paper),
    colour: new three.MeshBasicMaterial(paper),
    crown: new three.MeshLambertMaterial({ ...paper, transparent: true, opacity: 0.82 }),
    unseen: new three.MeshBasicMaterial({ ...paper, colorWrite: false, depthWrite: false }),
    line: new three.LineBasicMaterial(),
    thin: new three.LineBasicMaterial({ transparent: true, opacity: 0.32 }),
    strong: new three.LineBasicMaterial(),
    dashed: new three.LineDashedMaterial(dash),
    hatch: new three.LineBasicMaterial({ transparent: true, opacity: 0.4 }),
    grid: new three.LineBasicMaterial(),
    floor: new three.ShadowMaterial({ opacity: 0.2 }),
  }
}

/** The drawing of a scene on paper: filled faces hide the ink lines behind them; the sun of a moment throws real shadows. */
export class SheetView {
  azimuth = 212
  elevation = 34
  private readonly renderer: three.WebGLRenderer
  private readonly scene = new three.Scene()
  private readonly camera = new three.OrthographicCamera()
  private readonly world = new three.Group()
  private readonly materials = makeMaterials()
  private readonly sun = new three.DirectionalLight(0xffffff, SUN)
  private readonly sky = new three.AmbientLight(0xffffff, SKY)
  /** Of all that stands there. */
  private bounds = new three.Box3()
  private isNearlyBare = true
  private pickable: three.Mesh[] = []
  private laid: three.Mesh | null = null
  private centre = new three.Vector3()
  private radius = 20
  /** Of the whole scene: what the light covers, however closely one looks. */
  private whole = { centre: new three.Vector3(), radius: 20 }
  zoom = 1
  /** Of the drawing's pixels to the page's, at rest and while the view moves. */
  private readonly ratios: { rest: number; motion: number }
  private isMoving = false
  private readonly isSlow: boolean
  /** Fine lines that are left out of a view in motion where there is no graphics hardware. */
  private fine: three.LineSegments[] = []
  private shift = new three.Vector2()
  private width = 1
  private height = 1
  /** Whether the whole scene is in the picture because nobody has looked closer: then it stays so. */
  isFitted = false
  private count = 0
  /** Of the page's pixels at the edges of the picture, over which other things lie. */
  insets: Insets = { top: 0, right: 0, bottom: 0, left: 0 }

  constructor(canvas: HTMLCanvasElement) {
    const isSlow = (this.isSlow = isDrawnInSoftware())
    this.ratios = isSlow ? { rest: 2, motion: SOFTWARE_RATIO } : { rest: 1, motion: 1 }
    this.renderer = new three.WebGLRenderer({ canvas, antialias: !isSlow, alpha: true, preserveDrawingBuffer: true })
    // To ask whether a shader was compiled is to wait for it.
    this.renderer.debug.checkShaderErrors = false
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = isSlow ? three.BasicShadowMap : three.PCFSoftShadowMap
    this.renderer.shadowMap.autoUpdate = false
    this.sun.castShadow = true
    this.sun.shadow.mapSize.set(2048, 2048)
    this.sun.shadow.bias = -0.0006
    this.sun.shadow.normalBias = 0.03
    this.scene.add(this.sky, this.sun, this.sun.target, this.world)
    this.camera.up.set(0, 0, 1)
  }

  resize(width: number, height: number) {
    this.width = Math.max(width, 1)
    this.height = Math.max(height, 1)
    this.fit()
    if (this.isFitted) this.frame()
  }

  /** Whether the view is being turned or moved: without graphics hardware it is drawn coarser then. */
  set inMotion(isMoving: boolean) {
    if (isMoving === this.isMoving) return
    this.isMoving = isMoving
    for (const lines of this.fine) lines.visible = !isMoving
    if (this.ratios.rest !== this.ratios.motion) this.fit()
  }

  private fit() {
    const ratio = this.isMoving ? this.ratios.motion : this.ratios.rest
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio * ratio, 2))
    this.renderer.setSize(this.width, this.height, false)
  }

  /** Draw another state of the scene; where one looks at it stays. */
  show(
    answer: SceneAnswer,
    inks: Inks,
    picked: string,
    colourOf: (surface: string, module: string) => string | null,
    hidden: Set<string>,
    pieces: Piece[],
    isFirst: boolean,
    month: number,
  ) {
    this.clear()
    this.bounds = new three.Box3()
    this.isNearlyBare = Object.keys(answer.places).length < 2
    const papers = new Patches()
    const colours = new Patches()
    const crowns = new Patches()
    const unseen = new Patches()
    const pens = {
      line: new Strokes(),
      thin: new Strokes(),
      strong: new Strokes(),
      dashed: new Strokes(),
      hatch: new Strokes(),
    }
    /** A crown in leaf is green, a bare one is paper: by the light that it lets through in the month. */
    const foliage = (light: number) =>
      `#${new three.Color(inks.leaf).lerp(new three.Color(inks.paper), Math.min(1, 0.35 + light * 0.9)).getHexString()}`
    const reach = (points: number[][]) =>
      points.forEach(([x, y, z]) => this.bounds.expandByPoint(new three.Vector3(x, y, z)))
    for (const face of answer.faces) {
      const outline = face.outline as Point[]
      reach(outline)
      const mark = { solid: face.solid, face: face.id }
      if (hidden.has(face.solid)) {
        unseen.polygon(outline, inks.wall, mark)
        continue
      }
      const isRound = face.kind === 'side' && face.outline.length === 4 && this.isRound(answer, face.solid)
      const tone =
        face.kind === 'roof' || face.kind === 'top' ? inks.sheet : face.kind === 'ground' ? inks.paper : inks.wall
      papers.polygon(outline, tone, mark)
      const pen = face.solid === picked ? pens.strong : isRound ? pens.thin : pens.line
      if (isRound) pen.segment(outline[1]!, outline[2]!)
      else pen.ring(outline)
      for (const hole of face.holes)
        if (hole.kind === 'skylights' && !hidden.has(hole.solid))
          (hole.solid === picked ? pens.strong : pens.line).ring(hole.outline as Point[])
    }
    for (const body of answer.bodies) {
      const points = body.points as Point[]
      reach(points)
      const isTree = body.kind === 'trees'
      const isHidden = hidden.has(body.id)
      const home = isHidden ? unseen : isTree ? crowns : papers
      home.body(points, body.triangles, isTree ? foliage(body.light[month] ?? 0) : inks.sheet, {
        solid: body.id,
        face: '',
      })
      if (isHidden) continue
      const pen = body.id === picked ? pens.strong : isTree ? pens.thin : pens.line
      for (const [a, b] of body.edges) pen.segment(points[a]!, points[b]!)
    }
    for (const layout of answer.layouts) {
      const solid = layout.face.split('/')[0]!
      if (hidden.has(solid)) continue
      for (const polygon of layout.usable) for (const ring of polygon) pens.dashed.ring(ring as Point[], 0.02)
      for (const [from, to] of layout.hatching) pens.hatch.segment(from, to)
      for (const one of layout.modules) {
        const colour = colourOf(layout.surface, one.id)
        const mark = { solid, face: layout.face, module: one.id, surface: layout.surface }
        ;(colour ? colours : papers).polygon(one.corners as Point[], colour ?? inks.tan, mark)
        pens.thin.ring(one.corners as Point[])
      }
    }
    for (const piece of pieces)
      if (!hidden.has(piece.solid))
        colours.polygon(piece.corners, piece.colour, { solid: piece.solid, face: piece.face })

    const made = this.inked(inks)
    this.pickable = [papers.mesh(made.paper), colours.mesh(made.colour), crowns.mesh(made.crown)]
    // What is hidden in the drawing throws its shadow all the same.
    const shadow = unseen.mesh(made.unseen)
    const fine = [pens.thin.lines(made.thin), pens.dashed.lines(made.dashed), pens.hatch.lines(made.hatch)]
    this.fine = this.isSlow ? fine : []
    for (const lines of this.fine) lines.visible = !this.isMoving
    this.world.add(...this.pickable, shadow, ...fine, pens.line.lines(made.line), pens.strong.lines(made.strong))
    this.ground()
    const count = new Set([...answer.faces.map((f) => f.solid), ...answer.bodies.map((b) => b.id)]).size
    // What is added comes into the picture, unless one looks at a part of it.
    if (isFirst || (this.isFitted && count > this.count)) this.frame()
    this.count = count
    this.renderer.shadowMap.needsUpdate = true
  }

  /** The materials in the colours of the page. */
  private inked(inks: Inks) {
    const made = this.materials
    for (const pen of [made.line, made.thin, made.floor]) pen.color.set(inks.ink)
    for (const pen of [made.dashed, made.hatch]) pen.color.set(inks.loss)
    made.strong.color.set(inks.current)
    made.grid.color.set(inks.rule)
    return made
  }

  private isRound(answer: SceneAnswer, solid: string) {
    const kind = answer.places[solid]?.kind
    return kind === 'silos' || kind === 'pipes' || kind === 'poles'
  }

  /** The user's own picture on the ground, by its corners from the upper left clockwise. */
  picture(url: string | null, corners: [number, number][]) {
    if (this.laid) {
      this.scene.remove(this.laid)
      this.laid.geometry.dispose()
      this.laid = null
    }
    if (!url) return Promise.resolve()
    return new three.TextureLoader().loadAsync(url).then((texture) => {
      texture.colorSpace = three.SRGBColorSpace
      const geometry = new three.BufferGeometry()
      geometry.setAttribute(
        'position',
        new three.Float32BufferAttribute(
          corners.flatMap(([x, y]) => [x, y, -0.06]),
          3,
        ),
      )
      geometry.setAttribute('uv', new three.Float32BufferAttribute([0, 1, 1, 1, 1, 0, 0, 0], 2))
      geometry.setIndex([0, 3, 2, 0, 2, 1])
      this.laid = new three.Mesh(
        geometry,
        new three.MeshBasicMaterial({ map: texture, transparent: true, opacity: 0.75 }),
      )
      this.scene.add(this.laid)
    })
  }

  /** The ground in plan: a grid of five metres, and what takes the shadows. */
  private ground() {
    const box = this.bounds.clone()
    if (box.isEmpty()) box.set(new three.Vector3(-10, -10, 0), new three.Vector3(10, 10, 5))
    const reach = Math.max(box.max.x - box.min.x, box.max.y - box.min.y, 20)
    const step = reach > 200 ? 25 : reach > 80 ? 10 : 5
    const [x0, x1, y0, y1] = [
      box.min.x - reach * 0.2,
      box.max.x + reach * 0.2,
      box.min.y - reach * 0.2,
      box.max.y + reach * 0.2,
    ].map((v, i) => (i % 2 ? Math.ceil(v / step) : Math.floor(v / step)) * step) as [number, number, number, number]
    const points: number[] = []
    for (let x = x0; x <= x1 + 1e-6; x += step) points.push(x, y0, -0.02, x, y1, -0.02)
    for (let y = y0; y <= y1 + 1e-6; y += step) points.push(x0, y, -0.02, x1, y, -0.02)
    const geometry = new three.BufferGeometry()
    geometry.setAttribute('position', new three.Float32BufferAttribute(points, 3))
    this.world.add(new three.LineSegments(geometry, this.materials.grid))
    const floor = new three.Mesh(new three.PlaneGeometry(6 * reach, 6 * reach), this.materials.floor)
    floor.position.set((x0 + x1) / 2, (y0 + y1) / 2, -0.04)
    floor.receiveShadow = true
    this.world.add(floor)
  }

  /** Put all of the scene into the picture. */
  frame() {
    const box = this.bounds.clone()
    if (this.laid && this.isNearlyBare) box.expandByObject(this.laid)
    if (box.isEmpty()) box.set(new three.Vector3(-8, -8, 0), new three.Vector3(8, 8, 5))
    const centre = box.getCenter(new three.Vector3())
    const radius = Math.max(box.getSize(new three.Vector3()).length() / 2, 3)
    this.whole = { centre, radius }
    this.look(centre, radius)
    this.fill(box, centre)
    this.isFitted = true
  }

  /** As large as the box fits between the insets, seen as it is now. */
  private fill(box: three.Box3, centre: three.Vector3) {
    const toward = directionOf(this)
    const right = new three.Vector3(-toward.y, toward.x, 0).normalize()
    const up = new three.Vector3().crossVectors(toward, right)
    const seen = new three.Box2()
    for (const x of [box.min.x, box.max.x])
      for (const y of [box.min.y, box.max.y])
        for (const z of [box.min.z, box.max.z]) {
          const corner = new three.Vector3(x, y, z).sub(centre)
          seen.expandByPoint(new three.Vector2(corner.dot(right), corner.dot(up)))
        }
    const { top, right: end, bottom, left } = this.insets
    const room = [Math.max(this.width - left - end, 60), Math.max(this.height - top - bottom, 60)] as const
    const size = seen.getSize(new three.Vector2())
    const metres = 1.08 * Math.max(size.x / room[0], size.y / room[1], 5 / Math.min(...room))
    const middle = seen.getCenter(new three.Vector2())
    this.radius = (metres * this.height) / 2 / this.perRadius
    this.shift.set(middle.x - ((left - end) / 2) * metres, middle.y + ((top - bottom) / 2) * metres)
  }
  /** Half the height of the picture in radii. */
  private get perRadius() {
    const aspect = this.width / this.height
    return (aspect < 1 ? 1 / aspect : 1) * 0.66
  }

  /** Put a face into the picture, seen square to it. */
  frameFace(outline: Point[], azimuth: number, elevation: number) {
    this.azimuth = azimuth
    this.elevation = elevation
    const corners = outline.map((point) => new three.Vector3(...point))
    const centre = corners.reduce((sum, p) => sum.add(p), new three.Vector3()).divideScalar(corners.length)
    this.look(centre, Math.max(1.5, ...corners.map((p) => p.distanceTo(centre))))
  }

  private look(centre: three.Vector3, radius: number) {
    this.centre.copy(centre)
    this.radius = radius
    this.zoom = 1
    this.shift.set(0, 0)
    this.isFitted = false
    this.renderer.shadowMap.needsUpdate = true
  }

  light(sun: Sun | null) {
    const isUp = sun !== null && sun.elevation > 1
    this.sun.intensity = isUp ? SUN : 0
    this.sky.intensity = isUp ? SKY : SKY + SUN * 0.5
    if (isUp) {
      const toward = directionOf(sun)
      this.sun.position.copy(this.whole.centre).addScaledVector(toward, this.whole.radius * 4)
      this.sun.target.position.copy(this.whole.centre)
      const shade = this.sun.shadow.camera
      const reach = this.whole.radius * 1.25
      shade.left = shade.bottom = -reach
      shade.right = shade.top = reach
      shade.near = 0.1
      shade.far = this.whole.radius * 8
      shade.updateProjectionMatrix()
    }
    this.renderer.shadowMap.needsUpdate = true
  }

  render() {
    this.aim()
    this.renderer.render(this.scene, this.camera)
  }

  /** The camera to where one looks; what is asked of the picture before it is drawn is answered as it will be. */
  private aim() {
    const toward = directionOf(this)
    const aspect = this.width / this.height
    const half = (this.radius * this.perRadius) / this.zoom
    this.camera.left = -half * aspect + this.shift.x
    this.camera.right = half * aspect + this.shift.x
    this.camera.top = half + this.shift.y
    this.camera.bottom = -half + this.shift.y
    this.camera.near = 0.1
    this.camera.far = this.whole.radius * 40
    this.camera.position.copy(this.centre).addScaledVector(toward, this.whole.radius * 20)
    this.camera.lookAt(this.centre)
    this.camera.updateProjectionMatrix()
    this.camera.updateMatrixWorld()
  }

  /** Where a point of the scene lies in the picture, in CSS pixels. */
  project([x, y, z]: Point): [number, number] {
    const p = new three.Vector3(x, y, z).project(this.camera)
    return [((p.x + 1) / 2) * this.width, ((1 - p.y) / 2) * this.height]
  }

  /** Which way north lies in the picture, clockwise from up [°]. */
  north(): number {
    const { x, y, z } = this.centre
    const [from, to] = [this.project([x, y, z]), this.project([x, y + 1, z])]
    return (Math.atan2(to[0] - from[0], from[1] - to[1]) * 180) / Math.PI
  }

  /** What is drawn at a place of the picture. */
  pick(x: number, y: number): (Mark & { point: Point }) | null {
    const [hit] = this.ray(x, y).intersectObjects(this.pickable, false)
    const mark = (hit?.object.userData.patches as Patches | undefined)?.markOf(hit!.faceIndex!)
    return mark ? { ...mark, point: [hit!.point.x, hit!.point.y, hit!.point.z] } : null
  }

  /** Where a ray through a place of the picture meets a level. */
  level(x: number, y: number, z: number): [number, number] {
    const { origin, direction } = this.ray(x, y).ray
    const part = (z - origin.z) / direction.z
    return [origin.x + part * direction.x, origin.y + part * direction.y]
  }

  private ray(x: number, y: number) {
    this.aim()
    const ray = new three.Raycaster()
    ray.setFromCamera(new three.Vector2((x / this.width) * 2 - 1, 1 - (y / this.height) * 2), this.camera)
    return ray
  }

  /** Length on the sheet of a pixel [m]. */
  metresPerPixel(): number {
    return (this.camera.right - this.camera.left) / this.width
  }

  pan(dx: number, dy: number) {
    this.isFitted = false
    const scale = this.metresPerPixel()
    this.shift.x -= dx * scale
    this.shift.y += dy * scale
  }

  asImage(): string {
    this.render()
    return this.renderer.domElement.toDataURL('image/png')
  }

  private clear() {
    this.world.traverse((node) => {
      if (node instanceof three.Mesh || node instanceof three.Line) node.geometry.dispose()
    })
    this.world.clear()
  }

  close() {
    this.clear()
    for (const material of Object.values(this.materials)) material.dispose()
    this.renderer.dispose()
  }
}
