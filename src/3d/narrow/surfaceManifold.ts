/**
 * Where a convex piece presses on a surface of triangles: one manifold for each direction in which it pushes. Triangles whose faces look the
 * same way are pressed as one. A triangle that is touched on an edge from over its neighbour pushes along its own face, and only where the
 * piece lies over it: so nothing that slides is held by inner edges.
 */
import { IntList } from '../../core/state/table.ts'
import type * as places from '../../core/util/places.ts'
import type { Geometry } from '../geometry.ts'
import type * as shape from '../shapes/layout.ts'
import { PLANE, SURFACE, TRIANGLE_BLOCK } from '../shapes/layout.ts'
import { flatsOf, RIM } from '../surface/flats.ts'
import { belongsToNeighbour } from '../surface/seams.ts'
import { boxInto, searchSurface, triangleInto } from '../surface/search.ts'
import type { Surface } from '../surface/surface.ts'
import { boxOverTriangle } from './boxTriangle.ts'
import { gapWithin } from './gap.ts'
import {
  addNearest,
  begin,
  counts,
  finish,
  found,
  GAP,
  MANIFOLD_NORMAL,
  MANIFOLD_SIZE,
  NAME,
  ofConvex,
  onPlane,
  POINT_SIZE,
  reach,
  record,
  roomForPoint,
  settle,
} from './manifold.ts'
import type * as layout from './records.ts'
import { forget, support } from './support.ts'
import { isInFront, side, standOver, stands } from './triangleSide.ts'

const PLACE: typeof places.PLACE = 0x3fffffff
const RADIUS: typeof shape.RADIUS = 3
const BODY: typeof shape.BODY = 4
const BOX: typeof shape.BOX = 1
const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_B: typeof layout.POINT_B = 7

/** Manifolds, one behind the other. */
export class Manifolds {
  data = new Float64Array(MANIFOLD_SIZE * 8)
  count = 0

  /** Makes room for one more, and returns its place in `data`. */
  next(): number {
    const at = MANIFOLD_SIZE * this.count++
    if (at + MANIFOLD_SIZE > this.data.length) this.data = wider(this.data)
    return at
  }
}

const triangle = new Float64Array(TRIANGLE_BLOCK)
const near = new IntList()
const box = new Float64Array(6)
/** The same about the surface. */
const own = new Float64Array(6)
/** The points that triangles gave, each with its normal and its group. */
let normals = new Float64Array(3 * 64)
let groups = new Int32Array(64)
let pool = new Float64Array(POINT_SIZE * 256)
/** Of a record that belongs to no group yet. */
const FREE = -1
/** Cosine of the angle within which faces of a surface are pressed as one. */
const ONE_FACE = 0.999
/** So many times as deep as contacts are looked for, a piece counts as lying on a face; what is deeper may be better led out another way. */
const SHALLOW = 10
/** Cosine of the angle within which a push is along a face. */
const ALONG_FACE = 0.99999

/**
 * Appends the manifolds of a convex piece with a surface to a list, one for each direction in which it pushes. Triangles whose faces look the
 * same way are pressed as one; where a triangle is touched on an edge from over its neighbour, the push is that of the face.
 * @param bounds of the piece, six numbers at `from`
 * @param limit of the distance of a contact: one number
 * @param sign 1: the normals lead from the piece to the surface; -1: the other way
 */
function manifoldsOnSurface(
  p: Float64Array,
  a: number,
  bounds: Float64Array,
  from: number,
  q: Float64Array,
  b: number,
  surface: Surface,
  limit: Float64Array,
  sign: number,
  out: Manifolds,
): void {
  const within = limit[0]
  reach[0] = within
  near.clear()
  apart[0] = 0
  for (let k = 0; k < 6; k++) box[k] = bounds[from + k] + (k < 3 ? -within : within)
  boxInto(q, b, box, 0, own)
  searchSurface(surface, own, near)
  pooled[0] = 0
  sortIntoFlats(surface)
  for (let flat = 0; flat < flats[0]; flat++) pressOnFlat(p, a, q, b, surface, flat)
  for (let i = 0; i < near.length; i++) {
    if (flatOf[i] === DONE) continue
    triangleInto(surface, near.data[i], q, b, triangle)
    begin()
    onTriangle(p, a, q, b, surface, near.data[i])
    keepFound(near.data[i])
  }
  const points = pooled[0]
  groups.fill(FREE, 0, points)
  for (let group = 0; ; group++) {
    // The deepest point that is left leads the way.
    let lead = -1
    for (let i = 0; i < points; i++) {
      if (groups[i] === FREE && (lead < 0 || pool[POINT_SIZE * i + GAP] < pool[POINT_SIZE * lead + GAP])) lead = i
    }
    if (lead < 0) return
    begin()
    for (let k = 0; k < 3; k++) record[NORMAL + k] = normals[3 * lead + k]
    for (let i = 0; i < points; i++) {
      if (groups[i] !== FREE) continue
      let cosine = 0
      for (let k = 0; k < 3; k++) cosine += record[NORMAL + k] * normals[3 * i + k]
      if (cosine < ONE_FACE) continue
      groups[i] = group
      const at = POINT_SIZE * i
      const place = roomForPoint()
      for (let n = 0; n < POINT_SIZE; n++) found[place + n] = pool[at + n]
      settle()
    }
    const to = out.next()
    finish(out.data, to)
    for (let k = 0; k < 3; k++) out.data[to + MANIFOLD_NORMAL + k] *= sign
  }
}

/** Takes the points found into the pool, with their normal; they are named after a triangle. */
function keepFound(index: number): void {
  let points = pooled[0]
  const count = counts[0]
  while (POINT_SIZE * (points + count) > pool.length) pool = wider(pool)
  while (points + count > groups.length) {
    groups = new Int32Array(2 * groups.length)
    normals = wider(normals)
  }
  for (let k = 0; k < count; k++, points++) {
    for (let n = 0; n < POINT_SIZE; n++) pool[POINT_SIZE * points + n] = found[POINT_SIZE * k + n]
    for (let n = 0; n < 3; n++) normals[3 * points + n] = record[NORMAL + n]
    const name = found[POINT_SIZE * k + NAME]
    pool[POINT_SIZE * points + NAME] = NAMES * index + (name < 0 ? NAMES - 1 : name % OF_TRIANGLE)
  }
  pooled[0] = points
}

// Flats: where all corners of what presses lie over triangles of one plane, they are as good as that plane.

/** Part of the square of an edge by which a point may lie beyond it, and be over the triangle. */
const BESIDE = 1e-9
/** Flats that are told apart; what is beyond them is taken triangle by triangle. */
const MOST_FLATS = 16
/** A triangle whose points are found, or that has none. */
const DONE = -2

/** The flat of each triangle near by, by its place among those here; -1 for one of none, or {@link DONE}. */
let flatOf = new Int32Array(64)
/** Of each flat here: its number in the surface, whether its rim is near by, and the first of its triangles that is; how many there are. */
const flatNumber = new Int32Array(MOST_FLATS)
const flatRim = new Int32Array(MOST_FLATS)
const flatFirst = new Int32Array(MOST_FLATS)
const flats = new Int32Array(1)
/** A halfspace: offset and normal stand behind its head. */
const halfspace = new Float64Array(BODY + 4)
const pooled = new Int32Array(1)
const upward = new Float64Array(3)

/** Sorts the triangles near by into flats. */
function sortIntoFlats(surface: Surface): void {
  const numbers = flatsOf(surface)
  while (near.length > flatOf.length) flatOf = new Int32Array(2 * flatOf.length)
  let count = 0
  for (let i = 0; i < near.length; i++) {
    const index = near.data[i]
    const number = numbers[index] & ~RIM
    let flat = count - 1
    while (flat >= 0 && flatNumber[flat] !== number) flat--
    // What is of a flat does no harm there, even if it is a little away.
    if (flat < 0 && !isNear(surface.corners, 9 * index)) flat = DONE
    else if (flat < 0 && count < MOST_FLATS) {
      flat = count++
      flatNumber[flat] = number
      flatFirst[flat] = index
      flatRim[flat] = 0
    }
    if (flat >= 0) flatRim[flat] |= numbers[index] & RIM
    flatOf[i] = flat
  }
  flats[0] = count
}

/** Whether the bounds of a triangle meet those of the piece about the surface: the tree knows only those of a leaf, which holds several. */
function isNear(corners: Float64Array, place: number): boolean {
  const at = place & PLACE
  for (let k = 0; k < 3; k++) {
    const x = corners[at + k]
    const y = corners[at + 3 + k]
    const z = corners[at + 6 + k]
    if ((x < own[k] && y < own[k] && z < own[k]) || (x > own[3 + k] && y > own[3 + k] && z > own[3 + k])) return false
  }
  return true
}

/** The points of a piece on a flat, if it lies on that and all of them are over its triangles: then these are done. */
function pressOnFlat(p: Float64Array, a: number, q: Float64Array, b: number, surface: Surface, flat: number): void {
  const within = reach[0]
  triangleInto(surface, flatFirst[flat], q, b, triangle)
  standOver(p, a, triangle, surface.front)
  if (!surface.front || isInFront(triangle)) {
    halfspace[BODY] = 0
    for (let k = 0; k < 3; k++) {
      halfspace[BODY] += side[k] * triangle[4 + k]
      halfspace[BODY + 1 + k] = side[k]
    }
    const height = stands[0]
    if (height <= within) {
      if (!(height >= -SHALLOW * within)) return
      begin()
      onPlane(p, a, halfspace, 0)
      if (counts[0] === 0) return
      const { corners } = surface
      intoSurface(q, b, side, 0, upward)
      const along = alongUpward()
      // A flat whose rim is nowhere near lies under all points if it lies under one. Higher points may be over triangles not looked at.
      const most = flatRim[flat] === 0 ? within * Math.abs(upward[along]) : -1
      for (let i = 0; i < counts[0]; i++) {
        const gap = Math.abs(found[POINT_SIZE * i + GAP])
        if ((i === 0 || !(gap <= most)) && !isOverFlat(corners, POINT_SIZE * i, q, b, flat, along)) return
      }
      record[DISTANCE] = height
      for (let k = 0; k < 3; k++) record[NORMAL + k] = -side[k]
      keepFound(flatFirst[flat])
    }
  }
  for (let i = 0; i < near.length; i++) if (flatOf[i] === flat) flatOf[i] = DONE
}

/** Writes a direction seen from a placed surface. */
function intoSurface(q: Float64Array, b: number, v: Float64Array, at: number, out: Float64Array): void {
  const m = b + BODY + 3
  for (let i = 0; i < 3; i++) out[i] = q[m + i] * v[at] + q[m + 3 + i] * v[at + 1] + q[m + 6 + i] * v[at + 2]
}

/** The axis of a surface that is nearest to the normal in `upward`. */
function alongUpward(): number {
  const x = Math.abs(upward[0])
  const y = Math.abs(upward[1])
  const z = Math.abs(upward[2])
  return x > y ? (x > z ? 0 : 2) : y > z ? 1 : 2
}

/** Whether a point that was found lies over a triangle of a flat, as seen along an axis of the surface. */
function isOverFlat(
  corners: Float64Array,
  point: number,
  q: Float64Array,
  b: number,
  flat: number,
  along: number,
): boolean {
  const wx = found[point] - q[b + BODY]
  const wy = found[point + 1] - q[b + BODY + 1]
  const wz = found[point + 2] - q[b + BODY + 2]
  const u = along === 0 ? 1 : 0
  const v = along === 2 ? 1 : 2
  const m = b + BODY + 3
  seen[0] = q[m + u] * wx + q[m + 3 + u] * wy + q[m + 6 + u] * wz
  seen[1] = q[m + v] * wx + q[m + 3 + v] * wy + q[m + 6 + v] * wz
  for (let i = 0; i < near.length; i++) {
    if (flatOf[i] === flat && isOver(corners, 9 * near.data[i], u, v)) return true
  }
  return false
}

/** A point as it is seen along an axis of the surface. */
const seen = new Float64Array(2)

/** Whether the point that is {@link seen} lies over a triangle, along the axis that is neither of the two. */
function isOver(corners: Float64Array, place: number, u: number, v: number): boolean {
  const x = seen[0]
  const y = seen[1]
  let sense = 0
  let cu = corners[place + 6 + u]
  let cv = corners[place + 6 + v]
  for (let corner = 0; corner < 9; corner += 3) {
    const at = (place + corner) & PLACE
    const du = corners[at + u]
    const dv = corners[at + v]
    const eu = du - cu
    const ev = dv - cv
    const across = eu * (y - cv) - ev * (x - cu)
    const slack = BESIDE * (eu * eu + ev * ev)
    cu = du
    cv = dv
    if (across <= slack && across >= -slack) continue
    // On one side of all its edges, whichever way its corners run.
    if (sense === 0) sense = across > 0 ? 1 : -1
    else if (across > 0 !== sense > 0) return false
  }
  return true
}

/** Names of points of a triangle: so many, the last for the nearest one. */
const NAMES = 4096
const OF_TRIANGLE = 4093

/** The points of a piece on the triangle of a surface that stands in `triangle`. */
function onTriangle(p: Float64Array, a: number, q: Float64Array, b: number, surface: Surface, index: number): void {
  if (isApart()) return
  const within = reach[0]
  // How high the piece stands over the plane of the triangle: no point of the two is nearer than that.
  standOver(p, a, triangle, surface.front)
  if (surface.front && !isInFront(triangle)) return
  const height = stands[0]
  if (height > within) return
  const shallow = height >= -SHALLOW * within
  if (shallow) {
    // It lies on the face, or beside it.
    pressOnFace(p, a)
    if (counts[0] > 0) return
  }
  if (p[a] !== BOX || !boxOverTriangle(p, a, triangle, reach, record)) gapWithin(p, a, triangle, 0, reach, record)
  if (!(record[DISTANCE] <= within)) {
    keepApart(p, a)
    return
  }
  let cosine = 0
  for (let k = 0; k < 3; k++) cosine -= record[NORMAL + k] * side[k]
  if (surface.front && cosine <= 0) return
  for (let k = 0; k < 3; k++) {
    touch[k] = record[POINT_B + k]
    touch[3 + k] = -record[NORMAL + k]
  }
  const pushes = cosine > ALONG_FACE || cosine < -ALONG_FACE
  if (pushes || !belongsToNeighbour(surface, index, q, b, touch, 0, 3)) {
    ofConvex(p, a, triangle, 0)
    addNearest()
    return
  }
  // Over a neighbour only that one is met on its edge; this one, where the piece lies on its face.
  if (!shallow) pressOnFace(p, a)
}

/** Directions along which a piece was farther than the limit from a triangle: its neighbours are mostly as far, and that is quickly seen. */
const MOST_APART = 4
/** Part of the coordinates by which a triangle must be farther than the limit, so that no rounding counts. */
const MARGIN = 1e-10
/** How many directions are known. */
const apart = new Int32Array(1)
/** Each with the place along it beyond which all is too far away. */
const directions = new Float64Array(4 * MOST_APART)

const toward = new Float64Array(3)
const farthest = new Float64Array(3)

/** Keeps the direction of the gap that was found. */
function keepApart(p: Float64Array, a: number): void {
  const at = 4 * (apart[0]++ % MOST_APART)
  for (let k = 0; k < 3; k++) directions[at + k] = toward[k] = record[NORMAL + k]
  forget()
  support(p, a, toward, 1, farthest, 0, 0)
  let beyond = reach[0] + p[a + RADIUS]
  for (let k = 0; k < 3; k++) beyond += directions[at + k] * farthest[k] + MARGIN * Math.abs(farthest[k])
  directions[at + 3] = beyond
}

/** Whether the triangle is too far away along one of the directions that are known. */
function isApart(): boolean {
  const end = 4 * Math.min(apart[0], MOST_APART)
  for (let at = 0; at < end; at += 4) {
    const x = directions[at]
    const y = directions[at + 1]
    const z = directions[at + 2]
    const beyond = directions[at + 3]
    if (
      x * triangle[4] + y * triangle[5] + z * triangle[6] > beyond &&
      x * triangle[7] + y * triangle[8] + z * triangle[9] > beyond &&
      x * triangle[10] + y * triangle[11] + z * triangle[12] > beyond
    ) {
      return true
    }
  }
  return false
}

/** Adds the points of a piece over the triangle, as they press on its face. */
function pressOnFace(p: Float64Array, a: number): void {
  record[DISTANCE] = stands[0]
  for (let k = 0; k < 3; k++) record[NORMAL + k] = -side[k]
  ofConvex(p, a, triangle, 0)
}

/** A point on a triangle, and the normal away from it. */
const touch = new Float64Array(6)

function wider(data: Float64Array): Float64Array<ArrayBuffer> {
  const twice = new Float64Array(2 * data.length)
  twice.set(data)
  return twice
}

/** Appends the manifolds of two pieces of which one is a surface; of two surfaces there are none. */
export function writeSurfaceManifolds(
  geometry: Geometry,
  p: number,
  q: number,
  within: Float64Array,
  out: Manifolds,
): void {
  const turned = geometry.kindOf(p) === SURFACE
  const asking = turned ? q : p
  const asked = turned ? p : q
  if (geometry.kindOf(asking) === SURFACE || geometry.kindOf(asking) === PLANE) return
  const { world, bounds, surfaces } = geometry
  const at = geometry.offsetOf(asking)
  const sign = turned ? -1 : 1
  const surface = surfaces[asked]!
  manifoldsOnSurface(world, at, bounds.data, 6 * asking, world, geometry.offsetOf(asked), surface, within, sign, out)
}
