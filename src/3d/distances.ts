/** Distances between two pieces of 3D. A surface is asked by a convex piece; of two surfaces the one with fewer triangles asks. */
import { UPRIGHT } from '../core/state/pieces.ts'
import { IntList } from '../core/state/table.ts'
import { Distances, swapRecord } from '../core/step/distances.ts'
import type { Geometry } from './geometry.ts'
import { meet } from './narrow/gap.ts'
import { DISTANCE, GAP_SIZE } from './narrow/records.ts'
import { gapToPiece } from './narrow/surfaceGap.ts'
import { BODY, BOX, CYLINDER, POINTS, RADIUS, SURFACE, TRIANGLE_BLOCK } from './shapes/layout.ts'
import { boundsOf } from './shapes/place.ts'
import { boxInto, searchSurface, triangleInto } from './surface/search.ts'

const NO_DISTANCE = new Float64Array(1)

export class Distances3 extends Distances<Geometry> {
  private readonly box = new Float64Array(6)
  private readonly triangle = new Float64Array(TRIANGLE_BLOCK)
  private readonly triangleBox = new Float64Array(6)
  private readonly triangles = new IntList()
  private readonly apart = new Float64Array(GAP_SIZE)
  private readonly triangleGap = new Float64Array(GAP_SIZE)

  protected override betweenPieces(p: number, q: number, within: Float64Array, record: Float64Array): void {
    const { surfaces } = this.geometry
    const swapped = (surfaces[p]?.count ?? 0) > (surfaces[q]?.count ?? 0)
    this.gapToward(swapped ? q : p, swapped ? p : q, within, record)
    if (swapped) swapRecord(record, 3)
  }

  protected override piecesMeet(p: number, q: number): boolean {
    const { geometry, apart } = this
    const { world } = geometry
    const bounds = geometry.bounds.data
    if (
      bounds[6 * p] > bounds[6 * q + 3] ||
      bounds[6 * q] > bounds[6 * p + 3] ||
      bounds[6 * p + 1] > bounds[6 * q + 4] ||
      bounds[6 * q + 1] > bounds[6 * p + 4] ||
      bounds[6 * p + 2] > bounds[6 * q + 5] ||
      bounds[6 * q + 2] > bounds[6 * p + 5]
    )
      return false
    this.tests++
    const { data: upright } = geometry.upright
    if ((upright[p] & upright[q] & UPRIGHT) !== 0) return true
    const a = geometry.offsetOf(p)
    const b = geometry.offsetOf(q)
    if (world[a] !== SURFACE && world[b] !== SURFACE) return meet(world, a, world, b, apart)
    this.betweenPieces(p, q, NO_DISTANCE, apart)
    return apart[DISTANCE] <= 0
  }

  protected override depthOfPieces(p: number, q: number, out: Float64Array): void {
    const { geometry } = this
    const { data: upright } = geometry.upright
    if ((upright[p] & upright[q] & UPRIGHT) !== 0) {
      this.overlapOfBounds(p, q, out)
      return
    }
    const { world } = geometry
    const a = geometry.offsetOf(p)
    const b = geometry.offsetOf(q)
    // By the balls within them.
    const x = world[a + BODY] - world[b + BODY]
    const y = world[a + BODY + 1] - world[b + BODY + 1]
    const z = world[a + BODY + 2] - world[b + BODY + 2]
    const depth = ballWithin(world, a) + ballWithin(world, b) - Math.sqrt(x * x + y * y + z * z)
    out[0] = depth > 0 ? depth : 0
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

/** The radius of a ball about the first point of a piece that lies within it. */
function ballWithin(world: Float64Array, at: number): number {
  const kind = world[at]
  const body = at + BODY
  if (kind === BOX) return Math.min(world[body + 12], world[body + 13], world[body + 14]) + world[at + RADIUS]
  if (kind === CYLINDER) return Math.min(world[body + 6], world[body + 7]) + world[at + RADIUS]
  // Of a surface or a plane there is none, and about the tip of a cone or the corner of a hull none but the rounding.
  return kind === POINTS ? world[at + RADIUS] : -Infinity
}
