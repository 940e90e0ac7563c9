/** Distances between two pieces of 2D. */
import { Distances } from '../core/step/distances.ts'
import type { Geometry } from './geometry.ts'
import { gapOfPieces } from './narrow/pair.ts'

export class Distances2 extends Distances<Geometry> {
  protected override betweenPieces(p: number, q: number, _within: Float64Array, record: Float64Array): void {
    const { geometry } = this
    gapOfPieces(geometry.world, geometry.offsetOf(p), geometry.world, geometry.offsetOf(q), record)
  }
}
