import * as three from 'three'
import type { Point } from './dimensions'

/** What is hit where a patch is picked. */
export interface Mark {
  solid: string
  face: string
  module?: string
  surface?: string
}

/** Many plane patches that are drawn at once: one call to the graphics for all of them. */
export class Patches {
  private readonly positions: number[] = []
  private readonly normals: number[] = []
  private readonly colours: number[] = []
  /** Of each patch, the triangle after its last one. */
  private readonly ends: number[] = []
  private readonly marks: Mark[] = []

  /** A plane polygon, counterclockwise as seen from outside. */
  polygon(outline: Point[], colour: string, mark: Mark) {
    const normal = normalOf(outline)
    const u =
      Math.abs(normal.z) < 0.9
        ? new three.Vector3(-normal.y, normal.x, 0).normalize()
        : new three.Vector3(1, 0, 0).cross(normal).normalize()
    const v = new three.Vector3().crossVectors(normal, u)
    const flat = (p: Point) =>
      new three.Vector2(p[0] * u.x + p[1] * u.y + p[2] * u.z, p[0] * v.x + p[1] * v.y + p[2] * v.z)
    const triangles = three.ShapeUtils.triangulateShape(outline.map(flat), [])
    for (const corners of triangles) for (const k of corners) this.vertex(outline[k]!, normal, colour)
    this.end(mark)
  }

  /** A body of triangles, each with its own normal. */
  body(points: Point[], triangles: [number, number, number][], colour: string, mark: Mark) {
    for (const triangle of triangles) {
      const corners = triangle.map((k) => points[k]!)
      const normal = normalOf(corners)
      for (const corner of corners) this.vertex(corner, normal, colour)
    }
    this.end(mark)
  }

  /** The patch that has a triangle. */
  markOf(triangle: number): Mark | null {
    let [low, high] = [0, this.ends.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.ends[middle]! > triangle) high = middle
      else low = middle + 1
    }
    return this.marks[low] ?? null
  }

  mesh(material: three.Material): three.Mesh {
    const geometry = new three.BufferGeometry()
    geometry.setAttribute('position', new three.Float32BufferAttribute(this.positions, 3))
    geometry.setAttribute('normal', new three.Float32BufferAttribute(this.normals, 3))
    geometry.setAttribute('color', new three.Float32BufferAttribute(this.colours, 3))
    const mesh = new three.Mesh(geometry, material)
    mesh.castShadow = mesh.receiveShadow = true
    mesh.userData.patches = this
    return mesh
  }

  private vertex(point: Point, normal: three.Vector3, colour: string) {
    this.positions.push(...point)
    this.normals.push(normal.x, normal.y, normal.z)
    this.colours.push(...linear(colour))
  }

  private end(mark: Mark) {
    this.ends.push(this.positions.length / 9)
    this.marks.push(mark)
  }
}

/** Many ink lines of one pen, drawn at once. */
export class Strokes {
  private readonly positions: number[] = []

  segment(from: Point, to: Point) {
    this.positions.push(...from, ...to)
  }

  ring(ring: Point[], lift = 0) {
    ring.forEach(([x, y, z], k) => {
      const [a, b, c] = ring[(k + 1) % ring.length]!
      this.positions.push(x, y, z + lift, a, b, c + lift)
    })
  }

  lines(material: three.LineBasicMaterial | three.LineDashedMaterial): three.LineSegments {
    const geometry = new three.BufferGeometry()
    geometry.setAttribute('position', new three.Float32BufferAttribute(this.positions, 3))
    const lines = new three.LineSegments(geometry, material)
    if (material instanceof three.LineDashedMaterial) lines.computeLineDistances()
    return lines
  }
}

/** Newell's normal of a polygon, of length one. */
function normalOf(outline: Point[]): three.Vector3 {
  const normal = new three.Vector3()
  outline.forEach((a, i) => {
    const b = outline[(i + 1) % outline.length]!
    normal.x += (a[1] - b[1]) * (a[2] + b[2])
    normal.y += (a[2] - b[2]) * (a[0] + b[0])
    normal.z += (a[0] - b[0]) * (a[1] + b[1])
  })
  return normal.normalize()
}

const known = new Map<string, [number, number, number]>()
/** A colour in the linear numbers that vertices carry. */
function linear(colour: string): [number, number, number] {
  let found = known.get(colour)
  if (!found) {
    const { r, g, b } = new three.Color(colour)
    found = [r, g, b]
    if (known.size > 2000) known.clear()
    known.set(colour, found)
  }
  return found
}
