/**
 * The shapes of all colliders as flat numbers: a block each about the body and in the world (radius,
 * then core points), and tight bounds.
 * World points are what every test reads; they are made anew when a body moves.
 */

import { cosSin } from '../core/maths.ts'
import type { Column, Table } from '../core/table.ts'
import type { Shape2 } from './shapes/shape.ts'

export class Geometry {
  /** Index of a collider's block: its radius, then x, y of each core point. */
  readonly offset: Column<Int32Array>
  /** Number of its core points. */
  readonly count: Column<Int32Array>
  /** Tight bounds in the world: min x, min y, max x, max y. */
  readonly bounds: Column<Float64Array>
  readonly shapes: (Shape2 | null)[] = []
  /** Blocks in the world; replaced when it grows. */
  world = new Float64Array(256)
  private body = new Float64Array(256)
  private used = 0
  /** Free blocks by their number of points. */
  private readonly free = new Map<number, number[]>()
  private readonly turn = new Float64Array(3)

  constructor(colliders: Table) {
    this.offset = colliders.i32()
    this.count = colliders.i32()
    this.bounds = colliders.f64(4)
  }

  /** Takes a shape in, placed at (x, y) and turned by `angle` within its body. */
  place(c: number, shape: Shape2, x: number, y: number, angle: number): void {
    const n = (shape.block.length - 1) / 2
    const offset = this.claim(n)
    this.shapes[c] = shape
    this.offset.data[c] = offset
    this.count.data[c] = n
    this.turn[0] = angle
    cosSin(this.turn, 0)
    const [, cos, sin] = this.turn
    this.body[offset] = shape.radius
    this.world[offset] = shape.radius
    for (let i = 1; i <= 2 * n; i += 2) {
      const px = shape.block[i]
      const py = shape.block[i + 1]
      this.body[offset + i] = x + (cos * px - sin * py)
      this.body[offset + i + 1] = y + (sin * px + cos * py)
    }
  }

  /**
   * Makes the world points and bounds of a collider.
   * @param place, placeAt where x, y of its body stand
   * @param turn, turnAt where cos, sin of its body stand
   */
  transform(c: number, place: Float64Array, placeAt: number, turn: Float64Array, turnAt: number): void {
    const { body, world } = this
    const x = place[placeAt]
    const y = place[placeAt + 1]
    const cos = turn[turnAt]
    const sin = turn[turnAt + 1]
    const offset = this.offset.data[c]
    const to = offset + 2 * this.count.data[c]
    let minX = Infinity
    let minY = Infinity
    let maxX = -Infinity
    let maxY = -Infinity
    for (let i = offset + 1; i < to; i += 2) {
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
    const r = world[offset]
    const bounds = this.bounds.data
    bounds[4 * c] = minX - r
    bounds[4 * c + 1] = minY - r
    bounds[4 * c + 2] = maxX + r
    bounds[4 * c + 3] = maxY + r
  }

  /** Writes the block of a collider as it would be with its body at x, y, (angle,) cos, sin of `pose`. */
  blockAt(c: number, pose: Float64Array, out: Float64Array): void {
    const { body } = this
    const offset = this.offset.data[c]
    const length = 2 * this.count.data[c]
    out[0] = body[offset]
    for (let i = 1; i <= length; i += 2) {
      const px = body[offset + i]
      const py = body[offset + i + 1]
      out[i] = pose[0] + (pose[3] * px - pose[4] * py)
      out[i + 1] = pose[1] + (pose[4] * px + pose[3] * py)
    }
  }

  /** Distance of the outermost point of a collider from the origin of its body. */
  reach(c: number): number {
    const { body } = this
    const offset = this.offset.data[c]
    const to = offset + 2 * this.count.data[c]
    let square = 0
    for (let i = offset + 1; i < to; i += 2) {
      const here = body[i] * body[i] + body[i + 1] * body[i + 1]
      if (here > square) square = here
    }
    return Math.sqrt(square) + body[offset]
  }

  /** Gives the block of a collider back. */
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
    this.used += 1 + 2 * n
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
