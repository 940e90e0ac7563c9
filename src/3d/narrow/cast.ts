/**
 * A moving convex piece against any piece that stands still, straight or turning; of a surface the best of the triangles on its
 * way, whose inner edges hold nothing that slides.
 */
import { DONE } from '../../core/tree/walk.ts'
import { BODY, POINTS, RADIUS, SURFACE } from '../shapes/layout.ts'
import { boundsOf } from '../shapes/place.ts'
import { belongsToNeighbour } from '../surface/seams.ts'
import { halfInto, lineInto, triangleInto } from '../surface/search.ts'
import type { Surface } from '../surface/surface.ts'
import { LineWalk3 } from '../tree/walk.ts'
import { gap } from './gap.ts'
import { mayReach, TouchPlane } from './reach.ts'
import {
  CAST_DEPTH,
  CAST_POINT,
  CAST_SIZE,
  DISTANCE,
  FRACTION,
  GAP_SIZE,
  HIT,
  INSIDE,
  MISS,
  NORMAL,
  RAY_BACK,
  RAY_NORMAL,
  RAY_TRIANGLE,
} from './records.ts'
import { castConvex } from './straightCast.ts'
import { gapToPiece } from './surfaceGap.ts'
import { startIfRound, turnConvex } from './turningCast.ts'

const record = new Float64Array(GAP_SIZE)
const shift = new Float64Array(3)
const triangle = new Float64Array(13)
const pieceRecord = new Float64Array(CAST_SIZE)

/** What a cast goes along: the bounds of what moves, for the tree of a surface. */
export interface Moving {
  /** Start and motion of the middle of its bounds. */
  readonly line: Float64Array
  /** Half the size of what moves; of what turns, its reach in all directions. */
  readonly half: Float64Array
}

const ownLine = new Float64Array(6)
const ownHalf = new Float64Array(3)
const best = new Float64Array(1)
const alongTriangles = new LineWalk3()
const touched = new TouchPlane()

/**
 * A straight cast of a convex piece against any piece.
 * @param moving the bounds of what moves; read for surfaces only
 * @param out a cast record; it is read first: beyond its fraction nothing counts
 */
export function castAgainst(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  surface: Surface | null,
  line: Float64Array,
  moving: Moving,
  out: Float64Array,
): number {
  if (q[b] !== SURFACE) return castConvex(p, a, q, b, line, out)
  return overTriangles(p, a, null, surface!, q, b, line, moving, out)
}

/** Metres within which what starts on a surface rests on it; and the part of a motion along a plane that is none. */
const RESTS = 1e-9
const ALONG = 1e-9
const UNKNOWN = 2
/** Part of a motion after which a touch is checked again, and the slope from which it leads in. */
const NUDGE = 1e-6
const STEEP = 1e-6

/**
 * Whether a motion goes into the plane of the triangle that stands in `triangle`, from a side of the surface. If it does, the
 * normal of the hit becomes that of the plane: an inner edge by itself is no obstacle.
 */
function goesInto(line: Float64Array, side: number, hit: Float64Array): boolean {
  faceNormal()
  let into = 0
  let square = 0
  for (let i = 0; i < 3; i++) {
    into -= side * face[i] * line[3 + i]
    square += line[3 + i] * line[3 + i]
  }
  if (into <= ALONG * Math.sqrt(square)) return false
  for (let i = 0; i < 3; i++) hit[RAY_NORMAL + i] = side * face[i]
  return true
}

/** Whether a motion brings a piece into the triangle that stands in `triangle`, a little beyond where it touches it. */
function comesIn(p: Float64Array, a: number, line: Float64Array, at: number): boolean {
  let square = 0
  for (let i = 0; i < 3; i++) {
    shift[i] = (at + NUDGE) * line[3 + i]
    square += line[3 + i] * line[3 + i]
  }
  gap(p, a, triangle, 0, shift, record)
  return record[DISTANCE] < -NUDGE * STEEP * Math.sqrt(square)
}

/** On which side of a surface a piece rests where it starts: 1 on the front, -1 on the back, 0 where it does not. */
function sideOf(p: Float64Array, a: number, surface: Surface, q: Float64Array, b: number): number {
  boundsOf(p, a, startBounds, 0, startBounds, 0)
  reach[0] = RESTS
  const index = gapToPiece(p, a, startBounds, 0, q, b, surface, reach, record)
  if (index < 0 || record[DISTANCE] > RESTS) return 0
  triangleInto(surface, index, q, b, triangle)
  faceNormal()
  // The gap's normal leads from the piece to the surface.
  return record[NORMAL] * face[0] + record[NORMAL + 1] * face[1] + record[NORMAL + 2] * face[2] < 0 ? 1 : -1
}

const face = new Float64Array(3)
const startBounds = new Float64Array(6)
const reach = new Float64Array(1)

/**
 * The best of the triangles on the way of a piece.
 * @param turning how it turns, or null where it does not
 */
function overTriangles(
  p: Float64Array,
  a: number,
  turning: Float64Array | null,
  surface: Surface,
  q: Float64Array,
  b: number,
  line: Float64Array,
  moving: Moving,
  out: Float64Array,
): number {
  lineInto(q, b, moving.line, ownLine)
  halfInto(q, b, moving.half, ownHalf)
  best[0] = out[FRACTION]
  let result = MISS
  let side = UNKNOWN
  touched.clear()
  const moved = turning === null ? p : ballOf(moving)
  const at = turning === null ? a : 0
  alongTriangles.begin(ownLine, ownHalf, best)
  alongTriangles.enter(surface.f32, surface.i32, -1, surface.depth)
  for (let leaf = alongTriangles.next(); leaf !== DONE; leaf = alongTriangles.next()) {
    const first = ~leaf >> 3
    const last = first + (~leaf & 7)
    for (let index = first; index <= last; index++) {
      triangleInto(surface, index, q, b, triangle)
      if (turning === null && surface.front && facesAlong(line)) continue
      if (touched.hides(triangle) || !mayReach(moved, at, moving.line, triangle, best)) continue
      pieceRecord[FRACTION] = best[0]
      const met =
        turning === null
          ? castConvex(p, a, triangle, 0, line, pieceRecord)
          : turnConvex(p, triangle, 0, turning, pieceRecord)
      if (met === MISS) continue
      if (met === HIT && belongsToNeighbour(surface, index, q, b, pieceRecord, CAST_POINT, RAY_NORMAL)) {
        if (side === UNKNOWN) {
          side = turning === null ? sideOf(p, a, surface, q, b) : 0
          triangleInto(surface, index, q, b, triangle)
        }
        if (side !== 0 && !goesInto(line, side, pieceRecord) && !comesIn(p, a, line, pieceRecord[FRACTION])) continue
      }
      const nearer = result === MISS || pieceRecord[FRACTION] < out[FRACTION]
      const same = pieceRecord[FRACTION] === out[FRACTION]
      const deeper = same && met === INSIDE && (result !== INSIDE || pieceRecord[CAST_DEPTH] > out[CAST_DEPTH])
      if (!nearer && !deeper) continue
      result = met
      for (let i = 0; i < CAST_SIZE; i++) out[i] = pieceRecord[i]
      out[RAY_TRIANGLE] = index
      out[RAY_BACK] = facesAlong(line) ? 1 : 0
      best[0] = out[FRACTION]
      if (result === HIT && turning === null) touched.set(p, a, line, out)
      else touched.clear()
    }
  }
  return result
}

const ball = new Float64Array([POINTS, 1, 0, 0, 0, 0, 0])

/** The ball about the middle of the way that holds what turns. */
function ballOf({ line, half }: Moving): Float64Array {
  ball[RADIUS] = half[0]
  for (let i = 0; i < 3; i++) ball[BODY + i] = line[i]
  return ball
}

/** Writes the unit normal of the triangle that stands in `triangle`, out of its front. */
function faceNormal(): void {
  const ex = triangle[7] - triangle[4]
  const ey = triangle[8] - triangle[5]
  const ez = triangle[9] - triangle[6]
  const fx = triangle[10] - triangle[4]
  const fy = triangle[11] - triangle[5]
  const fz = triangle[12] - triangle[6]
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
  face[0] = nx / length
  face[1] = ny / length
  face[2] = nz / length
}

/** Whether a motion goes out of the front of the triangle that stands in `triangle`. */
function facesAlong(line: Float64Array): boolean {
  faceNormal()
  return line[3] * face[0] + line[4] * face[1] + line[5] * face[2] > 0
}

/**
 * A turning cast of a convex piece, given about the asker's origin, against any piece.
 * @param turning see records.ts
 */
export function turnAgainst(
  body: Float64Array,
  q: Float64Array,
  b: number,
  surface: Surface | null,
  turning: Float64Array,
  moving: Moving,
  out: Float64Array,
): number {
  const start = startIfRound(body, turning)
  if (start !== null) return castAgainst(start, 0, q, b, surface, moving.line, moving, out)
  if (q[b] !== SURFACE) return turnConvex(body, q, b, turning, out)
  return overTriangles(body, 0, turning, surface!, q, b, moving.line, moving, out)
}
