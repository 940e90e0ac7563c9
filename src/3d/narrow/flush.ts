/**
 * Inner edges between pieces of ground: where the surface of one goes on in another. What slides on the one meets the side, the edge or the corner
 * of the next, for it rests a little deep; but the next does not rise above the face on which it slides, so there is nothing to hold it.
 */
import { BODY, KIND, PLANE, POINTS, RADIUS, SURFACE } from '../shapes/layout.ts'
import { Feature, featureOf } from './feature.ts'
import { support } from './support.ts'

/** Cosine of the angle within which two faces are taken for one. */
export const STRAIGHT = 0.9999
/** Cosine of the angle within which a push goes along a face, and is not that of an edge. */
export const SAME = 1 - 1e-10
/** Lengths (times the unit) by which ground may rise above a face and still be flush with it. */
export const FLUSH = 0.0005
/** Lengths (times the unit) behind a face within which what is met there belongs to it: as deep as a body may rest in it. */
export const BEHIND = 0.005

const feature = new Feature()
const direction = new Float64Array(3)
const far = new Float64Array(3)

/**
 * The cosine between a normal, times `sign`, and that of the face of a piece that is turned most along it; -1 where an edge or a corner is.
 * Reads the normal at `index`.
 */
export function faceCosine(p: Float64Array, at: number, normal: Float64Array, index: number, sign: number): number {
  for (let k = 0; k < 3; k++) direction[k] = normal[index + k]
  if (p[at + KIND] === PLANE) return sign * dot(direction, 0, p, at + BODY + 1)
  featureOf(p, at, direction, sign, feature)
  return feature.isFace ? feature.cosine : -1
}

/** Whether a piece of ground has a face with an outward normal: what is round, and what is a surface of triangles, has one everywhere. */
export function hasFace(
  p: Float64Array,
  at: number,
  normal: Float64Array,
  index: number,
  sign: number,
  least: number,
): boolean {
  const kind = p[at + KIND]
  if (kind === SURFACE || (kind === POINTS && p[at + 1] === 1) || (kind !== PLANE && p[at + RADIUS] > 0)) return true
  return faceCosine(p, at, normal, index, sign) >= least
}

/** How far a convex piece reaches along a normal, times `sign`. Infinity for a halfspace that is not turned that way. */
export function reachAlong(p: Float64Array, at: number, normal: Float64Array, index: number, sign: number): number {
  for (let k = 0; k < 3; k++) direction[k] = sign * normal[index + k]
  if (p[at + KIND] === PLANE) return dot(direction, 0, p, at + BODY + 1) >= SAME ? p[at + BODY] : Infinity
  support(p, at, direction, 1, far, 0, 0)
  return dot(direction, 0, far, 0) + p[at + RADIUS]
}

function dot(a: Float64Array, i: number, b: Float64Array, k: number): number {
  return a[i] * b[k] + a[i + 1] * b[k + 1] + a[i + 2] * b[k + 2]
}
