/**
 * The way out of a grid of tiles for what overlaps it: as each piece is only a part of the solid, the way out of one may lead into the next. So
 * what asks is pushed along each normal that an edge of the grid can have, past every piece that it meets, until it overlaps none; the shortest
 * of these ways counts.
 */
import { IntList } from '../../core/state/table.ts'
import type { Kernel2 } from '../kernel.ts'
import { piecesMeet } from '../narrow/pair.ts'
import { COUNT, HEAD, KIND } from '../shapes/layout.ts'

/** Places in what is found: how far, and in which direction; then the point of what asks that comes out last. */
export const WAY = 0
export const WAY_NORMAL = 1
export const WAY_POINT = 3
export const WAY_SIZE = 5

/** Pieces that a way may lead past. */
const MOST_PIECES = 4096
/** Part of the coordinates by which a push goes beyond a piece: a few units in the last place. */
const ROUNDING = 1e-15

export class WayOut {
  private readonly kernel: Kernel2
  private readonly near = new IntList()
  private readonly box = new Float64Array(4)
  private moved = new Float64Array(HEAD + 33)

  constructor(kernel: Kernel2) {
    this.kernel = kernel
  }

  /**
   * Writes the shortest way out of a collider along one of these directions; false where none is found.
   * @param p, offsets, count the placed pieces that ask
   * @param normals x, y of each direction, in the world
   */
  find(
    c: number,
    p: Float64Array,
    offsets: ArrayLike<number>,
    count: number,
    normals: readonly number[],
    out: Float64Array,
  ): boolean {
    out[WAY] = Infinity
    for (let k = 0; k < normals.length; k += 2) {
      const way = this.along(c, p, offsets, count, normals[k], normals[k + 1], out[WAY])
      if (!(way < out[WAY])) continue
      out[WAY] = way
      out[WAY_NORMAL] = normals[k]
      out[WAY_NORMAL + 1] = normals[k + 1]
    }
    if (out[WAY] === Infinity) return false
    const [, nx, ny] = out
    let least = Infinity
    for (let i = 0; i < count; i++) {
      const at = offsets[i]
      for (let v = at + 1; v <= at + 2 * (p[at + COUNT] | 0); v += 2) {
        const x = p[v] - nx * p[at]
        const y = p[v + 1] - ny * p[at]
        const height = x * nx + y * ny
        if (height >= least) continue
        least = height
        out[WAY_POINT] = x + nx * out[WAY]
        out[WAY_POINT + 1] = y + ny * out[WAY]
      }
    }
    return true
  }

  /** How far what asks must go along a direction until it overlaps nothing; Infinity when that is no less than `most`. */
  private along(
    c: number,
    p: Float64Array,
    offsets: ArrayLike<number>,
    count: number,
    nx: number,
    ny: number,
    most: number,
  ): number {
    let way = 0
    for (let step = 0; step < MOST_PIECES && way < most; step++) {
      let next = way
      for (let i = 0; i < count; i++) next = Math.max(next, this.past(c, p, offsets[i], nx, ny, way))
      if (next === way) return way
      way = next
    }
    return Infinity
  }

  /** How far a piece that has come so far along a direction must go on to be past all that it overlaps there. */
  private past(c: number, p: Float64Array, at: number, nx: number, ny: number, way: number): number {
    const { near, box, kernel } = this
    const { geometry } = kernel
    const { world } = geometry
    const n = p[at + COUNT] | 0
    const r = p[at]
    if (this.moved.length < HEAD + 1 + 2 * n) this.moved = new Float64Array(HEAD + 1 + 2 * n)
    const { moved } = this
    moved[HEAD + KIND] = 0
    moved[HEAD + COUNT] = n
    moved[HEAD] = r
    box[0] = box[1] = Infinity
    box[2] = box[3] = -Infinity
    let low = Infinity
    let far = 0
    for (let i = 1; i <= 2 * n; i += 2) {
      const x = p[at + i] + nx * way
      const y = p[at + i + 1] + ny * way
      moved[HEAD + i] = x
      moved[HEAD + i + 1] = y
      box[0] = Math.min(box[0], x - r)
      box[1] = Math.min(box[1], y - r)
      box[2] = Math.max(box[2], x + r)
      box[3] = Math.max(box[3], y + r)
      low = Math.min(low, x * nx + y * ny - r)
      far = Math.max(far, Math.abs(x) + Math.abs(y))
    }
    near.clear()
    kernel.distances.listWithin(c, box, near)
    let next = way
    for (let i = 0; i < near.length; i++) {
      const q = geometry.offsetOf(near.data[i])
      let high = -Infinity
      for (let v = q + 1; v <= q + 2 * (world[q + COUNT] | 0); v += 2) {
        high = Math.max(high, world[v] * nx + world[v + 1] * ny)
      }
      // What is behind, or only touches, is passed.
      const left = high - low
      if (left <= ROUNDING * (far + r) || !piecesMeet(moved, HEAD, world, q)) continue
      next = Math.max(next, way + left)
    }
    return next
  }
}
