/** A convex piece against any other, both standing still: of a surface the triangles near it are asked. */

import { IntList } from '../../core/state/table.ts'
import { BoxWalk, DONE } from '../../core/tree/walk.ts'
import { SURFACE } from '../shapes/layout.ts'
import { boxInto, searchSurface, triangleInto } from '../surface/search.ts'
import type { Surface } from '../surface/surface.ts'
import { gapWithin, meet } from './gap.ts'
import { DISTANCE, GAP_SIZE } from './records.ts'

const aroundTriangles = new BoxWalk(3)
const triangle = new Float64Array(13)
const own = new Float64Array(6)
const limit = new Float64Array(1)
const found = new IntList()
const pieceGap = new Float64Array(GAP_SIZE)

/**
 * The gap of a convex piece and any other one; of a surface the least of its triangles within reach, else Infinity.
 * @param bounds of the first, six numbers at `at`
 * @param within how far triangles are searched for
 * @returns the triangle, -1 for none
 */
export function gapToPiece(
  p: Float64Array,
  a: number,
  bounds: Float64Array,
  at: number,
  q: Float64Array,
  b: number,
  surface: Surface | null,
  within: Float64Array,
  out: Float64Array,
): number {
  if (q[b] !== SURFACE) {
    gapWithin(p, a, q, b, within, out)
    return -1
  }
  boxInto(q, b, bounds, at, own)
  limit[0] = within[0]
  out[DISTANCE] = Infinity
  let nearest = -1
  aroundTriangles.begin(own, limit)
  aroundTriangles.enter(surface!.f32, surface!.i32, -1, surface!.depth)
  for (let leaf = aroundTriangles.next(); leaf !== DONE; leaf = aroundTriangles.next()) {
    const first = ~leaf >> 3
    const last = first + (~leaf & 7)
    for (let index = first; index <= last; index++) {
      triangleInto(surface!, index, q, b, triangle)
      gapWithin(p, a, triangle, 0, limit, pieceGap)
      if (pieceGap[DISTANCE] >= out[DISTANCE]) continue
      for (let i = 0; i < GAP_SIZE; i++) out[i] = pieceGap[i]
      nearest = index
      if (pieceGap[DISTANCE] < limit[0]) limit[0] = pieceGap[DISTANCE]
    }
  }
  return nearest
}

/** The first triangle of a surface that a convex piece overlaps or touches, or -1. Parameters as {@link gapToPiece}. */
export function triangleMet(
  p: Float64Array,
  a: number,
  bounds: Float64Array,
  at: number,
  q: Float64Array,
  b: number,
  surface: Surface,
  record: Float64Array,
): number {
  boxInto(q, b, bounds, at, own)
  found.clear()
  searchSurface(surface, own, found)
  for (let k = 0; k < found.length; k++) {
    triangleInto(surface, found.data[k], q, b, triangle)
    if (meet(p, a, triangle, 0, record)) return found.data[k]
  }
  return -1
}
