/** The shape that a question is asked with, placed where the question starts: its pieces as flat numbers. */

import { PlacedShape } from '../../core/query/queryShape.ts'
import { finite } from '../../core/util/checks.ts'
import { KeenError } from '../../core/util/errors.ts'
import { ANGLE } from '../../core/util/limits.ts'
import { CONVEX, COUNT, HEAD, PLANE } from '../shapes/layout.ts'
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
