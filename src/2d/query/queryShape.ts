/** The shape that a question is asked with, placed where the question starts: its pieces as flat numbers. */

import { PlacedShape } from '../../core/query/queryShape.ts'
import { finite } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import { CONVEX, COUNT, HEAD, KIND, PLANE } from '../shapes/layout.ts'
import { placeInto, writePose } from '../shapes/place.ts'
import { refuseNoShape, type Shape2 } from '../shapes/shape.ts'
import type { Vec2 } from '../vector.ts'

/** Shapes that can ask: all but polylines and halfspaces. */
export type AskingShape2 = Exclude<Shape2, { kind: 'polyline' } | { kind: 'halfspace' }>

const POINT = Float64Array.of(CONVEX, 1, 0, 0, 0)

export class QueryShape extends PlacedShape {
  private readonly pose = new Float64Array(5)

  constructor() {
    super(2)
  }

  /** A shape at a point, turned by `angle`. Throws `bad-shape` for one that cannot ask. */
  set(shape: unknown, at: Vec2, angle: unknown, what: string): void {
    if (shape !== this.shape) this.know(shape, what)
    const turned = angle === undefined ? 0 : finite(angle, `'angle' of ${what}`, ANGLE)
    writePose(at, turned, this.pose)
    this.put()
  }

  /** Takes a shape in: what does not depend on its place. */
  private know(shape: unknown, what: string): void {
    refuseNoShape(shape, `'shape' of ${what}`)
    const { own } = this
    const { kind, pieces } = shape as Shape2
    own.length = 0
    this.shape = null
    this.ownReach = 0
    for (let i = 0; i < pieces.length; i++) {
      const { block } = pieces[i]
      if (kind === 'polyline' || block[0] === PLANE) {
        throw new KeenError(
          'bad-shape',
          `'shape' of ${what} cannot be a ${kind}: ask with a convex shape, a segment or a compound`,
        )
      }
      own.push(block)
      for (let k = HEAD + 1; k < block.length; k += 2) {
        const reach = Math.sqrt(block[k] * block[k] + block[k + 1] * block[k + 1]) + block[HEAD]
        if (reach > this.ownReach) this.ownReach = reach
      }
    }
    this.shape = shape
  }

  /** Places the shape. */
  private put(): void {
    this.reach = this.ownReach
    this.clear()
    let used = 0
    for (let i = 0; i < this.own.length; i++) used = this.add(this.own[i], used)
    this.fills = this.pieces === 1 && this.fillsItsBounds()
  }

  /** A point. */
  setPoint(point: Vec2): void {
    this.reach = 0
    this.fills = false
    writePose(point, 0, this.pose)
    this.clear()
    this.add(POINT, 0)
  }

  override setPointAt(from: Float64Array, at: number): void {
    this.begin(1, from[at], from[at + 1])
    const { bounds } = this
    bounds[0] = bounds[2] = from[at]
    bounds[1] = bounds[3] = from[at + 1]
  }

  override setBox(from: Float64Array, at: number): void {
    const x0 = from[at]
    const y0 = from[at + 1]
    const x1 = from[at + 2]
    const y1 = from[at + 3]
    const isFlat = x0 === x1 || y0 === y1
    const isPoint = x0 === x1 && y0 === y1
    const { placed, bounds } = this
    this.begin(isPoint ? 1 : isFlat ? 2 : 4, x0, y0)
    placed[HEAD + 3] = x1
    placed[HEAD + 4] = isFlat ? y1 : y0
    placed[HEAD + 5] = x1
    placed[HEAD + 6] = y1
    placed[HEAD + 7] = x0
    placed[HEAD + 8] = y1
    this.fills = !isFlat
    for (let k = 0; k < 4; k++) bounds[k] = from[at + k]
  }

  /** One piece without a radius that stands where it is, of so many points; its first point. */
  private begin(count: number, x: number, y: number): void {
    const { placed, offset } = this
    this.reach = 0
    this.fills = false
    this.pieces = 1
    offset[0] = HEAD
    placed[HEAD + KIND] = CONVEX
    placed[HEAD + COUNT] = count
    placed[HEAD] = 0
    placed[HEAD + 1] = x
    placed[HEAD + 2] = y
  }

  private add(block: Float64Array, used: number): number {
    const n = block[HEAD + COUNT]
    const at = used + HEAD
    this.addPiece(at, used + block.length)
    placeInto(block, HEAD, this.pose, this.placed, at)
    const { bounds, placed } = this
    const r = block[HEAD]
    for (let k = 1; k <= 2 * n; k += 2) {
      const px = placed[at + k]
      const py = placed[at + k + 1]
      if (px - r < bounds[0]) bounds[0] = px - r
      if (py - r < bounds[1]) bounds[1] = py - r
      if (px + r > bounds[2]) bounds[2] = px + r
      if (py + r > bounds[3]) bounds[3] = py + r
    }
    return used + block.length
  }

  private fillsItsBounds(): boolean {
    const { placed, bounds } = this
    if (placed[HEAD + COUNT] !== 4 || placed[HEAD] !== 0) return false
    for (let k = HEAD + 1; k <= HEAD + 8; k += 2) {
      if (placed[k] !== bounds[0] && placed[k] !== bounds[2]) return false
      if (placed[k + 1] !== bounds[1] && placed[k + 1] !== bounds[3]) return false
    }
    return true
  }
}
