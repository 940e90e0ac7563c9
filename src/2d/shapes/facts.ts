/** Area, centroid, inertia and bounds of shapes, in closed form from their cores. */
import { atan2 } from '../../core/util/maths.ts'
import type { Vec2 } from '../vector.ts'
import { CONVEX, COUNT, HEAD, PLANE } from './layout.ts'
import type { Piece, ShapeFacts } from './shape.ts'

/** Sums areas with their first and second moments about the origin. */
export class Moments {
  area = 0
  x = 0
  y = 0
  /** Polar second moment about the origin. */
  second = 0

  /** A patch of area `a` with centroid (x, y) and polar moment `own` about that centroid. */
  add(a: number, x: number, y: number, own: number): void {
    this.area += a
    this.x += a * x
    this.y += a * y
    this.second += own + a * (x * x + y * y)
  }

  /** A convex core grown by a radius: the polygon, a strip along each edge, and a sector at each corner. */
  addRound(block: Float64Array): void {
    const r = block[HEAD]
    const n = block[HEAD + COUNT]
    const px = (i: number): number => block[HEAD + 1 + 2 * (i % n)]
    const py = (i: number): number => block[HEAD + 2 + 2 * (i % n)]
    for (let i = 1; i + 1 < n; i++) {
      const [ax, ay] = [px(0), py(0)]
      const [ux, uy, vx, vy] = [px(i) - ax, py(i) - ay, px(i + 1) - ax, py(i + 1) - ay]
      const a = (ux * vy - uy * vx) / 2
      const x = ax + (ux + vx) / 3
      const y = ay + (uy + vy) / 3
      const own = (a / 18) * (ux * ux + uy * uy + vx * vx + vy * vy - ux * vx - uy * vy)
      this.add(a, x, y, own)
    }
    if (r === 0) return
    if (n === 1) {
      this.add((TWO_PI / 2) * r * r, px(0), py(0), (TWO_PI / 4) * (r * r) * (r * r))
      return
    }
    for (let i = 0; i < n; i++) {
      const [ex, ey] = [px(i + 1) - px(i), py(i + 1) - py(i)]
      const length = Math.sqrt(ex * ex + ey * ey)
      const [nx, ny] = [ey / length, -ex / length]
      const a = length * r
      const [mx, my] = [(px(i) + px(i + 1)) / 2, (py(i) + py(i + 1)) / 2]
      this.add(a, mx + (nx * r) / 2, my + (ny * r) / 2, (a * (length * length + r * r)) / 12)
      const [fx, fy] = [px(i + 2) - px(i + 1), py(i + 2) - py(i + 1)]
      const next = Math.sqrt(fx * fx + fy * fy)
      const [kx, ky] = [fy / next, -fx / next]
      const angle = n === 2 ? TWO_PI / 2 : atan2(ex * fy - ey * fx, ex * fx + ey * fy)
      const sector = (angle * r * r) / 2
      // The first moment of a sector about its corner: r^3 / 3 times the integral of the unit vector over the angle.
      const cx = ((r * r * r) / 3) * (ky - ny)
      const cy = ((r * r * r) / 3) * (nx - kx)
      const [sx, sy] = [cx / sector, cy / sector]
      const own = (angle * (r * r) * (r * r)) / 4 - sector * (sx * sx + sy * sy)
      this.add(sector, px(i + 1) + sx, py(i + 1) + sy, own)
    }
  }
}

const TWO_PI = 6.283185307179586

/** The facts of a shape made of these pieces. */
export function factsOf(pieces: readonly Piece[]): ShapeFacts {
  const moments = new Moments()
  const lines = new Moments()
  const min = { x: Infinity, y: Infinity }
  const max = { x: -Infinity, y: -Infinity }
  let endless = false
  for (const { block } of pieces) {
    const [kind, , radius] = block
    if (kind === PLANE) {
      endless = true
      continue
    }
    for (let i = HEAD + 1; i < block.length; i += 2) {
      min.x = Math.min(min.x, block[i] - radius)
      min.y = Math.min(min.y, block[i + 1] - radius)
      max.x = Math.max(max.x, block[i] + radius)
      max.y = Math.max(max.y, block[i + 1] + radius)
    }
    if (kind === CONVEX) moments.addRound(block)
    else {
      const [ax, ay, bx, by] = block.subarray(HEAD + 1)
      const length = Math.sqrt((bx - ax) * (bx - ax) + (by - ay) * (by - ay))
      lines.add(length, (ax + bx) / 2, (ay + by) / 2, 0)
    }
  }
  const of = moments.area > 0 ? moments : lines
  const centroid: Vec2 = Object.freeze(of.area > 0 ? { x: of.x / of.area, y: of.y / of.area } : { x: 0, y: 0 })
  const about = moments.second - moments.area * (centroid.x * centroid.x + centroid.y * centroid.y)
  const bounds = endless
    ? { min: { x: -Infinity, y: -Infinity }, max: { x: Infinity, y: Infinity } }
    : { min: Object.freeze(min), max: Object.freeze(max) }
  return {
    dimension: 2,
    area: endless ? Infinity : moments.area,
    centroid,
    inertia: endless ? Infinity : Math.max(0, about),
    bounds: Object.freeze(bounds),
    pieces: Object.freeze(pieces),
  }
}

/** The pieces of a shape that is one convex core. */
export function onePiece(...numbers: number[]): readonly Piece[] {
  const block = Float64Array.of(CONVEX, (numbers.length - 1) / 2, ...numbers)
  return [{ block, part: -1, child: -1 }]
}
