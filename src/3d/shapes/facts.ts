/** Volume, centroid, inertia and bounds of shapes, in closed form. */
import { FRAME, type Vec3 } from '../vector.ts'
import { KIND, PLANE, POINTS } from './layout.ts'
import { boundsOf } from './place.ts'
import type { Piece, ShapeFacts } from './shape.ts'

export const PI = Math.PI

/** Sums volumes (or, of surfaces, areas) with their first and second moments about the origin. */
export class Moments {
  amount = 0
  readonly first = [0, 0, 0]
  /** Second moments: xx, yy, zz, xy, xz, yz. */
  readonly second = [0, 0, 0, 0, 0, 0]

  /** An amount with its centroid and its second moments about that centroid. */
  add(amount: number, x: number, y: number, z: number, own: readonly number[]): void {
    this.amount += amount
    this.first[0] += amount * x
    this.first[1] += amount * y
    this.first[2] += amount * z
    const shift = [x * x, y * y, z * z, x * y, x * z, y * z]
    for (let i = 0; i < 6; i++) this.second[i] += own[i] + amount * shift[i]
  }

  /** A body of revolution about a unit axis: second moments along the axis and across it. */
  addRound(amount: number, at: Vec3, axis: Vec3, along: number, across: number): void {
    const more = along - across
    const { x, y, z } = axis
    this.add(amount, at.x, at.y, at.z, [
      across + more * x * x,
      across + more * y * y,
      across + more * z * z,
      more * x * y,
      more * x * z,
      more * y * z,
    ])
  }

  /** A tetrahedron from the origin `o` to a triangle; of negative volume where it is turned inwards. */
  addTetrahedron(o: Vec3, a: Vec3, b: Vec3, c: Vec3): void {
    const e = [a.x - o.x, a.y - o.y, a.z - o.z]
    const f = [b.x - o.x, b.y - o.y, b.z - o.z]
    const g = [c.x - o.x, c.y - o.y, c.z - o.z]
    const volume =
      (e[0] * (f[1] * g[2] - f[2] * g[1]) + e[1] * (f[2] * g[0] - f[0] * g[2]) + e[2] * (f[0] * g[1] - f[1] * g[0])) / 6
    const m = [(e[0] + f[0] + g[0]) / 4, (e[1] + f[1] + g[1]) / 4, (e[2] + f[2] + g[2]) / 4]
    // About its centroid a tetrahedron has a twentieth of its corners' scatter.
    const scatter = (i: number, k: number): number =>
      (volume / 20) *
      (m[i] * m[k] + (e[i] - m[i]) * (e[k] - m[k]) + (f[i] - m[i]) * (f[k] - m[k]) + (g[i] - m[i]) * (g[k] - m[k]))
    const own = [scatter(0, 0), scatter(1, 1), scatter(2, 2), scatter(0, 1), scatter(0, 2), scatter(1, 2)]
    this.add(volume, o.x + m[0], o.y + m[1], o.z + m[2], own)
  }

  /** Another shape's facts, moved and turned by a pose of numbers. */
  addPlaced(facts: ShapeFacts, amount: number, pose: Float64Array): void {
    const { centroid, inertia } = facts
    const m = (row: number, column: number): number => pose[FRAME + 3 * row + column]
    const c = [centroid.x, centroid.y, centroid.z]
    const at = [0, 1, 2].map((row) => pose[row] + m(row, 0) * c[0] + m(row, 1) * c[1] + m(row, 2) * c[2])
    // From inertia back to second moments: the half of its trace on the diagonal.
    const half = (inertia.xx + inertia.yy + inertia.zz) / 2
    const own = [
      [half - inertia.xx, -inertia.xy, -inertia.xz],
      [-inertia.xy, half - inertia.yy, -inertia.yz],
      [-inertia.xz, -inertia.yz, half - inertia.zz],
    ]
    const turned = (i: number, k: number): number => {
      let sum = 0
      for (let p = 0; p < 3; p++) for (let q = 0; q < 3; q++) sum += m(i, p) * own[p][q] * m(k, q)
      return sum
    }
    const second = [turned(0, 0), turned(1, 1), turned(2, 2), turned(0, 1), turned(0, 2), turned(1, 2)]
    this.add(amount, at[0], at[1], at[2], second)
  }
}

/** The facts of a shape of these pieces. @param solid whether the moments are of volume; else of area */
export function factsOf(pieces: readonly Piece[], moments: Moments, solid: boolean): ShapeFacts {
  const box = new Float64Array(6)
  const all = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]
  let endless = false
  for (const { block, surface } of pieces) {
    if (block[KIND] === PLANE) endless = true
    boundsOf(block, 0, surface?.bounds ?? box, 0, box, 0)
    for (let i = 0; i < 3; i++) all[i] = Math.min(all[i], box[i])
    for (let i = 3; i < 6; i++) all[i] = Math.max(all[i], box[i])
  }
  const { amount, first, second } = moments
  const [x, y, z] = amount > 0 ? first.map((sum) => sum / amount) : [0, 0, 0]
  const about = [x * x, y * y, z * z, x * y, x * z, y * z].map((shift, i) => second[i] - amount * shift)
  const [xx, yy, zz, xy, xz, yz] = about
  const none = !solid || endless
  const inertia = none
    ? { xx: 0, yy: 0, zz: 0, xy: 0, xz: 0, yz: 0 }
    : { xx: yy + zz, yy: xx + zz, zz: xx + yy, xy: 0 - xy, xz: 0 - xz, yz: 0 - yz }
  return {
    dimension: 3,
    volume: endless ? Infinity : solid ? amount : 0,
    centroid: Object.freeze({ x, y, z }),
    inertia: Object.freeze(inertia),
    bounds: Object.freeze({
      min: Object.freeze({ x: all[0], y: all[1], z: all[2] }),
      max: Object.freeze({ x: all[3], y: all[4], z: all[5] }),
    }),
    pieces: Object.freeze(pieces),
  }
}

/** The piece of a convex shape. */
export function onePiece(block: readonly number[]): readonly Piece[] {
  return [{ block: Float64Array.from(block), surface: null, child: -1 }]
}

/** The block of points grown by a radius. */
export function pointsBlock(radius: number, points: readonly Vec3[]): number[] {
  const block = [POINTS, points.length, 0, radius]
  for (const { x, y, z } of points) block.push(x, y, z)
  return block
}
