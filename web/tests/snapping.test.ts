import { describe, expect, it } from 'vitest'
import type { SceneAnswer } from '@/api/client'
import { footprintsOf, snapMove, snapTurn, type Footprint } from '@/benches/scene/snapping'
import type { Level } from '@/benches/scene/placing'

const square = (id: string, x: number, y: number, half: number): Footprint => {
  const corners: Level[] = [
    [x - half, y - half],
    [x + half, y - half],
    [x + half, y + half],
    [x - half, y + half],
  ]
  return {
    id,
    name: id,
    centre: [x, y],
    azimuth: 180,
    corners,
    edges: corners.map((c, k) => [c, corners[(k + 1) % 4]!]),
  }
}

describe('moving a thing', () => {
  const barn = square('Barn', 0, 0, 5)
  const box = square('Box', 12, 3, 1)

  it('pulls a corner onto a corner within reach, and says so', () => {
    // The left lower corner of the box (11, 2) is brought near the right upper corner of the barn (5, 5).
    const snap = snapMove(box, [barn], [-5.9, 3.1], 0.3)!
    expect([box.corners[0]![0] + snap.dx, box.corners[0]![1] + snap.dy]).toEqual([5, 5])
    expect(snap.words).toBe('corner on a corner of Barn')
  })
  it('leaves it where it is out of reach of anything', () => {
    expect(snapMove(box, [barn], [3.234, 7.77], 0.3)).toBeNull()
  })
  it('lies on an edge where no point is near', () => {
    // The left side of the box comes to the right side of the barn, somewhere along it.
    const snap = snapMove(box, [barn], [-5.93, -4.2], 0.2)!
    expect(snap.words).toContain('an edge of Barn')
    expect(box.corners[0]![0] + snap.dx).toBeCloseTo(5, 9)
    expect(snap.dy).toBeCloseTo(-4.2, 9)
  })
  it('is in line with a centre far away', () => {
    const snap = snapMove(box, [barn], [30, -2.9], 0.2)!
    expect(snap.words).toBe('in line with the centre of Barn')
    expect(box.centre[1] + snap.dy).toBeCloseTo(0, 9)
  })
  it('never pulls farther than its reach', () => {
    for (let k = 0; k < 200; k++) {
      const step: Level = [-20 + ((k * 37) % 40), -15 + ((k * 53) % 300) / 10]
      const snap = snapMove(box, [barn], step, 0.4)
      if (snap) expect(Math.hypot(snap.dx - step[0], snap.dy - step[1])).toBeLessThanOrEqual(0.4 + 1e-9)
    }
  })
})

describe('turning a thing', () => {
  const barn = { ...square('Barn', 0, 0, 5), azimuth: 192 }
  it.each([
    [190.5, 192, 'parallel to Barn'],
    [103.9, 102, 'square to Barn'],
    [280, 282, 'square to Barn'],
    [13, 12, 'parallel to Barn'],
    [152.4, 150, ''],
    [359, 0, ''],
  ])('from %d° to %d°', (from, to, words) => {
    expect(snapTurn(from, [barn], 5)).toEqual({ azimuth: to, words })
  })
})

it('takes corners and edges from the roofs that are drawn, each once', () => {
  const face = (id: string, kind: string, outline: number[][]) => ({ id, solid: 'b', kind, outline })
  const scene = {
    places: { b: { kind: 'buildings', x: 0, y: 0, azimuth: 180 } },
    faces: [
      face('b/roof-1', 'roof', [
        [-5, -4, 3],
        [5, -4, 3],
        [5, 0, 5],
        [-5, 0, 5],
      ]),
      face('b/roof-2', 'roof', [
        [5, 4, 3],
        [-5, 4, 3],
        [-5, 0, 5],
        [5, 0, 5],
      ]),
      face('b/wall-1', 'wall', [
        [-5, -4, 0],
        [5, -4, 0],
        [5, -4, 3],
        [-5, -4, 3],
      ]),
    ],
  } as unknown as SceneAnswer
  const [found] = footprintsOf(scene, new Map([['b', 'Barn']]))
  expect(found!.corners).toHaveLength(6)
  expect(found!.edges).toHaveLength(7)
})
