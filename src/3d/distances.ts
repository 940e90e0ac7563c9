/** Distances between two pieces of 3D. A surface is asked by a convex piece; of two surfaces the one with fewer triangles asks. */
import { IntList } from '../core/state/table.ts'
import { Distances, swapRecord } from '../core/step/distances.ts'
import type { Geometry } from './geometry.ts'
import { DISTANCE, GAP_SIZE } from './narrow/records.ts'
import { gapToPiece } from './narrow/surfaceGap.ts'
import { SURFACE, TRIANGLE_BLOCK } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import { boxInto, searchSurface, triangleInto } from './surface/search.ts'

export class Distances3 extends Distances<Geometry> {
  private readonly box = new Float64Array(6)
  private readonly triangle = new Float64Array(TRIANGLE_BLOCK)
  private readonly triangleBox = new Float64Array(6)
  private readonly triangles = new IntList()
  private readonly triangleGap = new Float64Array(GAP_SIZE)

  protected override betweenPieces(p: number, q: number, within: Float64Array, record: Float64Array): void {
    const { surfaces } = this.geometry
    const swapped = (surfaces[p]?.count ?? 0) > (surfaces[q]?.count ?? 0)
    this.gapToward(swapped ? q : p, swapped ? p : q, within, record)
    if (swapped) swapRecord(record, 3)
  }

  /** The gap of two pieces, of which the second may be a surface with more triangles than the first. */
  private gapToward(p: number, q: number, within: Float64Array, record: Float64Array): void {
    const { geometry, triangle, triangleBox, triangles, triangleGap, box } = this
    const { world } = geometry
    const bounds = geometry.bounds.data
    const own = geometry.offsetOf(p)
    const other = geometry.offsetOf(q)
    const surface = geometry.surfaces[q]
    if (geometry.kindOf(p) !== SURFACE) {
      gapToPiece(world, own, bounds, 6 * p, world, other, surface, within, record)
      return
    }
    record[DISTANCE] = Infinity
    const asking = geometry.surfaces[p]!
    for (let i = 0; i < 6; i++) box[i] = bounds[6 * q + i] + (i < 3 ? -within[0] : within[0])
    boxInto(world, own, box, 0, triangleBox)
    triangles.clear()
    searchSurface(asking, triangleBox, triangles)
    for (let k = 0; k < triangles.length; k++) {
      triangleInto(asking, triangles.data[k], world, own, triangle)
      boundsOf(triangle, 0, triangleBox, 0, triangleBox, 0)
      gapToPiece(triangle, 0, triangleBox, 0, world, other, surface, within, triangleGap)
      if (triangleGap[DISTANCE] < record[DISTANCE]) for (let i = 0; i < GAP_SIZE; i++) record[i] = triangleGap[i]
    }
  }
}
