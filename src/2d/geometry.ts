/**
 * The shapes of all colliders as flat numbers: core points about the body and in the world, radius, and tight bounds.
 * World points are what every test reads; they are made anew when a body moves.
 */

import { cosSin } from '../core/maths.ts'
import type { Column, Table } from '../core/table.ts'
import type { Shape2 } from './shapes/shape.ts'

export class Geometry {
  /** Index of a collider's first coordinate in `world` (and in the points about the body). */
  readonly offset: Column<Int32Array>
  /** Number of its core points. */
  readonly count: Column<Int32Array>
  readonly radius: Column<Float64Array>
  /** Tight bounds in the world: min x, min y, max x, max y. */
  readonly bounds: Column<Float64Array>
  readonly shapes: (Shape2 | null)[] = []
  /** Core points in the world; replaced when it grows. */
  world = new Float64Array(256)
  private body = new Float64Array(256)
  private used = 0
  /** Free blocks by their number of points. */
  private readonly free = new Map<number, number[]>()
  private readonly turn = new Float64Array(2)

  constructor(colliders: Table) {
    this.offset = colliders.i32()
    this.count = colliders.i32()
    this.radius = colliders.f64()
    this.bounds = colliders.f64(4)
  }

  /** Takes a shape in, placed at (x, y) and turned by `angle` within its body. */
  place(c: number, shape: Shape2, x: number, y: number, angle: number): void {
    const n = shape.core.length / 2
    const offset = this.claim(n)
    this.shapes[c] = shape
    this.offset.data[c] = offset
    this.count.data[c] = n
    this.radius.data[c] = shape.radius
    cosSin(angle, this.turn, 0)
    const [cos, sin] = this.turn
    for (let i = 0; i < 2 * n; i += 2) {
      const px = shape.core[i]
      const py = shape.core[i + 1]
      this.body[offset + i] = x + (cos * px - sin * py)
      this.body[offset + i + 1] = y + (sin * px + cos * py)
    }
  }

  /** Makes the world points and bounds of a collider whose body is at (x, y), turned by (cos, sin). */
  transform(c: number, x: number, y: number, cos: number, sin: number): void {
    const { body, world } = this
    const from = this.offset.data[c]
    const to = from + 2 * this.count.data[c]
    let minX = Infinity
    let minY = Infinity
    let maxX = -Infinity
    let maxY = -Infinity
    for (let i = from; i < to; i += 2) {
      const px = body[i]
      const py = body[i + 1]
      const wx = x + (cos * px - sin * py)
      const wy = y + (sin * px + cos * py)
      world[i] = wx
      world[i + 1] = wy
      if (wx < minX) minX = wx
      if (wx > maxX) maxX = wx
      if (wy < minY) minY = wy
      if (wy > maxY) maxY = wy
    }
    const r = this.radius.data[c]
    const bounds = this.bounds.data
    bounds[4 * c] = minX - r
    bounds[4 * c + 1] = minY - r
    bounds[4 * c + 2] = maxX + r
    bounds[4 * c + 3] = maxY + r
  }

  /** Writes the core points of a collider as they would be with its body at a pose. */
  pointsAt(c: number, x: number, y: number, cos: number, sin: number, out: Float64Array): void {
    const { body } = this
    const from = this.offset.data[c]
    const length = 2 * this.count.data[c]
    for (let i = 0; i < length; i += 2) {
      out[i] = x + (cos * body[from + i] - sin * body[from + i + 1])
      out[i + 1] = y + (sin * body[from + i] + cos * body[from + i + 1])
    }
  }

  /** Distance of the outermost point of a collider from the origin of its body. */
  reach(c: number): number {
    const { body } = this
    const from = this.offset.data[c]
    const to = from + 2 * this.count.data[c]
    let square = 0
    for (let i = from; i < to; i += 2) {
      const here = body[i] * body[i] + body[i + 1] * body[i + 1]
      if (here > square) square = here
    }
    return Math.sqrt(square) + this.radius.data[c]
  }

  /** Gives the points of a collider back. */
  remove(c: number): void {
    const n = this.count.data[c]
    const blocks = this.free.get(n)
    if (blocks === undefined) this.free.set(n, [this.offset.data[c]])
    else blocks.push(this.offset.data[c])
    this.shapes[c] = null
  }

  private claim(n: number): number {
    const reused = this.free.get(n)?.pop()
    if (reused !== undefined) return reused
    const offset = this.used
    this.used += 2 * n
    if (this.used > this.world.length) {
      const size = Math.max(2 * this.world.length, this.used)
      this.world = widened(this.world, size)
      this.body = widened(this.body, size)
    }
    return offset
  }
}

function widened(data: Float64Array, size: number): Float64Array<ArrayBuffer> {
  const wider = new Float64Array(size)
  wider.set(data)
  return wider
}
