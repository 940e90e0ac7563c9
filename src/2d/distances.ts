/** Distances between two pieces of 2D. */
import { UPRIGHT } from '../core/state/pieces.ts'
import { Distances } from '../core/step/distances.ts'
import type { Geometry } from './geometry.ts'
import { gapOfPieces, piecesMeet } from './narrow/pair.ts'
import { DISTANCE, GAP_SIZE } from './narrow/records.ts'
import { INNER, KIND, PLANE } from './shapes/layout.ts'

export class Distances2 extends Distances<Geometry> {
  private readonly depth = new Float64Array(GAP_SIZE)

  protected override betweenPieces(p: number, q: number, _within: Float64Array, record: Float64Array): void {
    const { geometry } = this
    gapOfPieces(geometry.world, geometry.offsetOf(p), geometry.world, geometry.offsetOf(q), record)
  }

  protected override piecesMeet(p: number, q: number): boolean {
    const { geometry } = this
    const { world } = geometry
    const bounds = geometry.bounds.data
    if (
      bounds[4 * p] > bounds[4 * q + 2] ||
      bounds[4 * q] > bounds[4 * p + 2] ||
      bounds[4 * p + 1] > bounds[4 * q + 3] ||
      bounds[4 * q + 1] > bounds[4 * p + 3]
    )
      return false
    this.tests++
    const { data: upright } = geometry.upright
    if ((upright[p] & upright[q] & UPRIGHT) !== 0) return true
    const a = geometry.offsetOf(p)
    const b = geometry.offsetOf(q)
    return world[a + KIND] === PLANE ? piecesMeet(world, b, world, a) : piecesMeet(world, a, world, b)
  }

  protected override depthOfPieces(p: number, q: number, out: Float64Array): void {
    const { geometry, depth } = this
    const { data: upright } = geometry.upright
    if ((upright[p] & upright[q] & UPRIGHT) !== 0) {
      this.overlapOfBounds(p, q, out)
      return
    }
    out[0] = 0
    const { world } = geometry
    const a = geometry.offsetOf(p)
    const b = geometry.offsetOf(q)
    // How deep it is over inner edges says nothing of the way out elsewhere.
    if (world[a + KIND] >= INNER || world[b + KIND] >= INNER) return
    gapOfPieces(world, a, world, b, depth)
    if (depth[DISTANCE] < 0 && depth[DISTANCE] > -Infinity) out[0] = -depth[DISTANCE]
  }
}
