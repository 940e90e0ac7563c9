/**
 * Two boxes that press on each other: how deep, by their fifteen axes: three faces of each, and the nine directions across an edge of
 * either (Gottschalk, Lin and Manocha, 1996). For contacts alone: edges that run along each other within a millionth are left to the faces,
 * so the depth may be more than the true one by so much of the size.
 */
import type * as places from '../../core/util/places.ts'
import type * as shape from '../shapes/layout.ts'
import { grow } from './gap.ts'
import type * as layout from './records.ts'

const PLACE: typeof places.PLACE = 0x3fffffff

const RADIUS: typeof shape.RADIUS = 3
const BODY: typeof shape.BODY = 4
const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_A: typeof layout.POINT_A = 4
const POINT_B: typeof layout.POINT_B = 7

/** Part of the sizes by which an edge must be less deep than any face to count: of two as deep, a face is the steadier. */
const FACES_FIRST = 1e-10
/** Square of the sine of the angle within which two edges run along each other. */
const ALONG = 1e-12

/** The axes of A along those of B, their absolutes; the way from A to B along the axes of either. */
const turn = new Float64Array(9)
const absolute = new Float64Array(9)
const wayA = new Float64Array(3)
const wayB = new Float64Array(3)
/** The way from A to B; and how deep the two overlap, along the axis of the least. Arrays, for a double that a call carries along may be boxed. */
const way = new Float64Array(3)
const deep = new Float64Array(1)
const onA = new Float64Array(3)
const onB = new Float64Array(3)

/**
 * Writes the record of two boxes whose cores overlap, as `gap` does, or of two that are further apart than a limit along one of
 * their axes: then a distance beyond it, and that axis. Returns false for two that are apart by less.
 */
export function boxesOverlap(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  limit: Float64Array,
  out: Float64Array,
): boolean {
  const own = (a + BODY) & PLACE
  const its = (b + BODY) & PLACE
  const dx = q[its] - p[own]
  const dy = q[its + 1] - p[own + 1]
  const dz = q[its + 2] - p[own + 2]
  const radii = p[a + RADIUS] + q[b + RADIUS]
  const far = limit[0] + radii
  let apart = false
  let depth = Infinity
  let axis = -1
  let size = 0
  way[0] = dx
  way[1] = dy
  way[2] = dz
  for (let i = 0; i < 3; i++) {
    const m = own + 3 + 3 * i
    wayA[i] = dx * p[m] + dy * p[m + 1] + dz * p[m + 2]
    for (let k = 0; k < 3; k++) {
      const n = its + 3 + 3 * k
      const t = p[m] * q[n] + p[m + 1] * q[n + 1] + p[m + 2] * q[n + 2]
      turn[3 * i + k] = t
      absolute[3 * i + k] = t < 0 ? -t : t
    }
  }
  for (let i = 0; i < 3; i++) {
    const reach =
      p[own + 12 + i] +
      absolute[3 * i] * q[its + 12] +
      absolute[3 * i + 1] * q[its + 13] +
      absolute[3 * i + 2] * q[its + 14]
    const overlap = reach - (wayA[i] < 0 ? -wayA[i] : wayA[i])
    if (reach > size) size = reach
    if (overlap < 0) {
      if (-overlap > far) {
        out[DISTANCE] = -(overlap + radii)
        return writeFar(p, own + 3 + 3 * i, wayA[i] < 0 ? -1 : 1, out)
      }
      apart = true
    }
    if (overlap < depth) {
      depth = overlap
      axis = i
    }
  }
  for (let k = 0; k < 3; k++) {
    const n = its + 3 + 3 * k
    wayB[k] = dx * q[n] + dy * q[n + 1] + dz * q[n + 2]
    const reach =
      q[its + 12 + k] + absolute[k] * p[own + 12] + absolute[3 + k] * p[own + 13] + absolute[6 + k] * p[own + 14]
    const overlap = reach - (wayB[k] < 0 ? -wayB[k] : wayB[k])
    if (overlap < 0) {
      if (-overlap > far) {
        out[DISTANCE] = -(overlap + radii)
        return writeFar(q, n, wayB[k] < 0 ? -1 : 1, out)
      }
      apart = true
    }
    if (overlap < depth - FACES_FIRST * size) {
      depth = overlap
      axis = 3 + k
    }
  }
  if (apart) return false
  for (let i = 0; i < 3; i++) {
    const i1 = i === 2 ? 0 : i + 1
    const i2 = i === 0 ? 2 : i - 1
    for (let k = 0; k < 3; k++) {
      const k1 = k === 2 ? 0 : k + 1
      const k2 = k === 0 ? 2 : k - 1
      const square = 1 - turn[3 * i + k] * turn[3 * i + k]
      if (square < ALONG) continue
      const between = wayA[i2] * turn[3 * i1 + k] - wayA[i1] * turn[3 * i2 + k]
      const reach =
        p[own + 12 + i1] * absolute[3 * i2 + k] +
        p[own + 12 + i2] * absolute[3 * i1 + k] +
        q[its + 12 + k1] * absolute[3 * i + k2] +
        q[its + 12 + k2] * absolute[3 * i + k1]
      const overlap = (reach - (between < 0 ? -between : between)) / Math.sqrt(square)
      if (overlap < 0) return false
      if (overlap < depth - FACES_FIRST * size) {
        depth = overlap
        axis = 6 + 3 * i + k
      }
    }
  }
  out[DISTANCE] = 0 - depth
  deep[0] = depth
  if (axis < 3) ofFace(p, own, axis, wayA[axis] < 0 ? -1 : 1, q, its, POINT_A, POINT_B, 1, out)
  else if (axis < 6) ofFace(q, its, axis - 3, wayB[axis - 3] < 0 ? 1 : -1, p, own, POINT_B, POINT_A, -1, out)
  else ofEdges(p, own, q, its, Math.floor((axis - 6) / 3), (axis - 6) % 3, out)
  if (radii > 0) grow(p, a, q, b, out)
  return true
}

/** The axis along which two are far apart, and no points. @param sign 1 where it leads from A to B, else -1 */
function writeFar(p: Float64Array, axis: number, sign: number, out: Float64Array): boolean {
  for (let i = 0; i < 3; i++) {
    out[NORMAL + i] = sign * p[axis + i]
    out[POINT_A + i] = out[POINT_B + i] = 0
  }
  return true
}

/** A face of the first, with an outward normal, and the corner of the second that lies deepest behind it. @param from 1 where the first is A */
function ofFace(
  p: Float64Array,
  own: number,
  axis: number,
  side: number,
  q: Float64Array,
  its: number,
  atFace: number,
  atCorner: number,
  from: number,
  out: Float64Array,
): void {
  const m = own + 3 + 3 * axis
  const nx = side * p[m]
  const ny = side * p[m + 1]
  const nz = side * p[m + 2]
  out[NORMAL] = from * nx
  out[NORMAL + 1] = from * ny
  out[NORMAL + 2] = from * nz
  let x = q[its]
  let y = q[its + 1]
  let z = q[its + 2]
  for (let k = 0; k < 3; k++) {
    const n = its + 3 + 3 * k
    const along = nx * q[n] + ny * q[n + 1] + nz * q[n + 2]
    // An edge or a face that lies flat is deepest in its middle as well as anywhere.
    const part = along > 1e-9 ? -q[its + 12 + k] : along < -1e-9 ? q[its + 12 + k] : 0
    x += part * q[n]
    y += part * q[n + 1]
    z += part * q[n + 2]
  }
  out[atCorner] = x
  out[atCorner + 1] = y
  out[atCorner + 2] = z
  const depth = deep[0]
  out[atFace] = x + depth * nx
  out[atFace + 1] = y + depth * ny
  out[atFace + 2] = z + depth * nz
}

/** An edge of either, along axis `i` of the first and `k` of the second: where they pass nearest to each other. */
function ofEdges(
  p: Float64Array,
  own: number,
  q: Float64Array,
  its: number,
  i: number,
  k: number,
  out: Float64Array,
): void {
  const m = own + 3 + 3 * i
  const n = its + 3 + 3 * k
  let nx = p[m + 1] * q[n + 2] - p[m + 2] * q[n + 1]
  let ny = p[m + 2] * q[n] - p[m] * q[n + 2]
  let nz = p[m] * q[n + 1] - p[m + 1] * q[n]
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz) * (nx * way[0] + ny * way[1] + nz * way[2] < 0 ? -1 : 1)
  nx /= length
  ny /= length
  nz /= length
  out[NORMAL] = nx
  out[NORMAL + 1] = ny
  out[NORMAL + 2] = nz
  for (let j = 0; j < 3; j++) {
    onA[j] = p[own + j]
    onB[j] = q[its + j]
  }
  for (let axis = 0; axis < 3; axis++) {
    const u = own + 3 + 3 * axis
    const v = its + 3 + 3 * axis
    const partA = axis === i ? 0 : p[own + 12 + axis] * (p[u] * nx + p[u + 1] * ny + p[u + 2] * nz < 0 ? -1 : 1)
    const partB = axis === k ? 0 : q[its + 12 + axis] * (q[v] * nx + q[v + 1] * ny + q[v + 2] * nz < 0 ? 1 : -1)
    for (let j = 0; j < 3; j++) {
      onA[j] += partA * p[u + j]
      onB[j] += partB * q[v + j]
    }
  }
  // Where the two lines are nearest.
  const cosine = turn[3 * i + k]
  const square = 1 - cosine * cosine
  let alongA = 0
  let alongB = 0
  for (let j = 0; j < 3; j++) {
    alongA += (onB[j] - onA[j]) * p[m + j]
    alongB += (onB[j] - onA[j]) * q[n + j]
  }
  const s = (alongA - cosine * alongB) / square
  const t = (cosine * alongA - alongB) / square
  for (let j = 0; j < 3; j++) {
    out[POINT_A + j] = onA[j] + s * p[m + j]
    out[POINT_B + j] = onB[j] + t * q[n + j]
  }
}
