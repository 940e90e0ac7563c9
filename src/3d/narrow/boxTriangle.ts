/**
 * A box and a triangle of a surface that press on each other: how deep, by thirteen axes: the box's faces, the triangle's, and the nine
 * across an edge of either (Akenine-Möller, 2001). For contacts alone, and only where the least of the axes names the points that meet;
 * what it does not decide is left to the general search.
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

/** Part of the size by which an edge must be less deep than a face to count: of two as deep, a face is the steadier. */
const FACES_FIRST = 1e-10
/** Square of the sine of the angle within which two edges run along each other, or a triangle is none. */
const ALONG = 1e-12
/** Sine of the angle within which a face or an edge lies flat on a face: then one corner does not tell where they meet. */
const FLAT = 1e-6

/** The corners of the triangle, its edges and its normal, as the box sees them. */
const corner = new Float64Array(9)
const edge = new Float64Array(9)
const upright = new Float64Array(3)
/** The axis of the least depth, from the box to the triangle, as the box sees it. */
const axis = new Float64Array(3)
/** The point of the box and that of the triangle, as the box sees them. */
const onBox = new Float64Array(3)
const onTriangle = new Float64Array(3)

/**
 * Writes the record of a box and a triangle whose cores overlap, as `gap` does, or of two that are further apart than a limit along one of
 * the axes: then a distance beyond it, and that axis. Returns false for two that are apart by less, and where the points are not plain.
 * @param t a triangle's block of its own
 */
export function boxOverTriangle(
  p: Float64Array,
  a: number,
  t: Float64Array,
  limit: Float64Array,
  out: Float64Array,
): boolean {
  const own = (a + BODY) & PLACE
  const radii = p[a + RADIUS] + t[RADIUS]
  const far = limit[0] + radii
  for (let k = 0; k < 3; k++) {
    const x = t[BODY + 3 * k] - p[own]
    const y = t[BODY + 3 * k + 1] - p[own + 1]
    const z = t[BODY + 3 * k + 2] - p[own + 2]
    for (let i = 0; i < 3; i++) {
      const m = own + 3 + 3 * i
      corner[3 * k + i] = x * p[m] + y * p[m + 1] + z * p[m + 2]
    }
  }
  let depth = Infinity
  let size = 0
  let apart = false
  // 0 to 2: a face of the box; 3: the triangle's; from 4: an edge of either.
  let least = -1
  for (let i = 0; i < 3; i++) {
    const half = p[own + 12 + i]
    const u = corner[i]
    const v = corner[3 + i]
    const w = corner[6 + i]
    const low = u < v ? (u < w ? u : w) : v < w ? v : w
    const high = u > v ? (u > w ? u : w) : v > w ? v : w
    const overlap = half - low < half + high ? half - low : half + high
    if (half + high > size) size = half + high
    if (half - low > size) size = half - low
    if (overlap < 0) {
      if (-overlap > far) {
        for (let k = 0; k < 3; k++) axis[k] = k === i ? (half - low < half + high ? 1 : -1) : 0
        return writeFar(p, own, overlap + radii, out)
      }
      apart = true
    }
    if (overlap < depth) {
      depth = overlap
      least = i
      for (let k = 0; k < 3; k++) axis[k] = k === i ? (half - low < half + high ? 1 : -1) : 0
    }
  }
  for (let i = 0; i < 3; i++) {
    edge[i] = corner[3 + i] - corner[i]
    edge[3 + i] = corner[6 + i] - corner[3 + i]
    edge[6 + i] = corner[i] - corner[6 + i]
  }
  upright[0] = edge[1] * edge[5] - edge[2] * edge[4]
  upright[1] = edge[2] * edge[3] - edge[0] * edge[5]
  upright[2] = edge[0] * edge[4] - edge[1] * edge[3]
  const area = Math.sqrt(upright[0] * upright[0] + upright[1] * upright[1] + upright[2] * upright[2])
  const squares = squareOf(0) * squareOf(3)
  if (!(area * area > ALONG * squares)) return false
  let height = 0
  let reach = 0
  for (let i = 0; i < 3; i++) {
    upright[i] /= area
    height += upright[i] * corner[i]
    reach += p[own + 12 + i] * Math.abs(upright[i])
  }
  const through = reach - Math.abs(height)
  if (through < 0) {
    if (-through > far) {
      for (let k = 0; k < 3; k++) axis[k] = height < 0 ? -upright[k] : upright[k]
      return writeFar(p, own, through + radii, out)
    }
    apart = true
  }
  if (through < depth - FACES_FIRST * size) {
    depth = through
    least = 3
    for (let k = 0; k < 3; k++) axis[k] = height < 0 ? -upright[k] : upright[k]
  }
  for (let k = 0; k < 3; k++) {
    // The third corner is the one across from the edge.
    const other = k === 0 ? 6 : k === 1 ? 0 : 3
    const long = squareOf(3 * k)
    for (let i = 0; i < 3; i++) {
      const i1 = i === 2 ? 0 : i + 1
      const i2 = i === 0 ? 2 : i - 1
      // Across the axis and the edge, of any length.
      const c1 = -edge[3 * k + i2]
      const c2 = edge[3 * k + i1]
      const square = c1 * c1 + c2 * c2
      if (!(square > ALONG * long)) continue
      const at = c1 * corner[3 * k + i1] + c2 * corner[3 * k + i2]
      const to = c1 * corner[other + i1] + c2 * corner[other + i2]
      const half = p[own + 12 + i1] * Math.abs(c1) + p[own + 12 + i2] * Math.abs(c2)
      // The way on which the edge, not the corner across from it, comes first.
      const isPlus = at < to
      const length = Math.sqrt(square)
      const overlap = (isPlus ? half - at : half + at) / length
      if (overlap < 0) {
        if (-overlap > far) {
          writeAcross(i, c1 / length, c2 / length, isPlus)
          return writeFar(p, own, overlap + radii, out)
        }
        apart = true
      }
      if (overlap < depth - FACES_FIRST * size) {
        depth = overlap
        least = 4 + 3 * k + i
        writeAcross(i, c1 / length, c2 / length, isPlus)
      }
    }
  }
  if (apart) return false
  if (least < 3) {
    if (!ofBoxFace(p, own, least, depth)) return false
  } else if (least === 3) {
    if (!ofTriangleFace(p, own, depth)) return false
  } else if (!ofEdges(p, own, Math.floor((least - 4) / 3), (least - 4) % 3)) return false
  out[DISTANCE] = 0 - depth
  writeAxis(p, own, out)
  for (let k = 0; k < 3; k++) {
    let x = p[own + k]
    let y = p[own + k]
    for (let i = 0; i < 3; i++) {
      const m = p[own + 3 + 3 * i + k]
      x += onBox[i] * m
      y += onTriangle[i] * m
    }
    out[POINT_A + k] = x
    out[POINT_B + k] = y
  }
  if (radii > 0) grow(p, a, t, 0, out)
  return true
}

/** The square of an edge. */
function squareOf(at: number): number {
  return edge[at] * edge[at] + edge[at + 1] * edge[at + 1] + edge[at + 2] * edge[at + 2]
}

/** Writes the axis across one of the box's and an edge. */
function writeAcross(i: number, c1: number, c2: number, isPlus: boolean): void {
  axis[i] = 0
  axis[i === 2 ? 0 : i + 1] = isPlus ? c1 : -c1
  axis[i === 0 ? 2 : i - 1] = isPlus ? c2 : -c2
}

/** Writes the axis as the world sees it. */
function writeAxis(p: Float64Array, own: number, out: Float64Array): void {
  for (let k = 0; k < 3; k++) {
    out[NORMAL + k] = axis[0] * p[own + 3 + k] + axis[1] * p[own + 6 + k] + axis[2] * p[own + 9 + k]
  }
}

/** The axis along which two are far apart, and no points. @param overlap less than nothing */
function writeFar(p: Float64Array, own: number, overlap: number, out: Float64Array): boolean {
  out[DISTANCE] = -overlap
  writeAxis(p, own, out)
  for (let k = 0; k < 3; k++) out[POINT_A + k] = out[POINT_B + k] = 0
  return true
}

/** A corner of the triangle under a face of the box. Returns false where an edge lies along the face, or the corner not under it. */
function ofBoxFace(p: Float64Array, own: number, i: number, depth: number): boolean {
  const sign = axis[i]
  let deepest = 0
  for (let k = 3; k < 9; k += 3) if (sign * corner[k + i] < sign * corner[deepest + i]) deepest = k
  for (let k = 0; k < 9; k += 3) {
    if (k === deepest) continue
    const rise = sign * (corner[k + i] - corner[deepest + i])
    let square = 0
    for (let j = 0; j < 3; j++) {
      const across = corner[k + j] - corner[deepest + j]
      square += across * across
    }
    if (rise * rise <= FLAT * FLAT * square) return false
  }
  for (let j = 0; j < 3; j++) {
    const at = corner[deepest + j]
    if (j !== i && (at > p[own + 12 + j] || at < -p[own + 12 + j])) return false
    onTriangle[j] = at
    onBox[j] = at + (j === i ? sign * depth : 0)
  }
  return true
}

/** A corner of the box behind the triangle. Returns false where an edge of the box lies along the triangle, or the corner not over it. */
function ofTriangleFace(p: Float64Array, own: number, depth: number): boolean {
  for (let i = 0; i < 3; i++) {
    if (axis[i] <= FLAT && axis[i] >= -FLAT) return false
    onBox[i] = axis[i] < 0 ? -p[own + 12 + i] : p[own + 12 + i]
    onTriangle[i] = onBox[i] - depth * axis[i]
  }
  for (let k = 0; k < 9; k += 3) {
    const x = onTriangle[0] - corner[k]
    const y = onTriangle[1] - corner[k + 1]
    const z = onTriangle[2] - corner[k + 2]
    // On the inner side of all three edges, as seen along the normal.
    const inward =
      upright[0] * (edge[k + 1] * z - edge[k + 2] * y) +
      upright[1] * (edge[k + 2] * x - edge[k] * z) +
      upright[2] * (edge[k] * y - edge[k + 1] * x)
    if (inward < 0) return false
  }
  return true
}

/** An edge of either, the triangle's edge `k` and one of the box along axis `i`. Returns false where they do not pass each other within both. */
function ofEdges(p: Float64Array, own: number, k: number, i: number): boolean {
  for (let j = 0; j < 3; j++) onBox[j] = j === i ? 0 : axis[j] < 0 ? -p[own + 12 + j] : p[own + 12 + j]
  // Along the edge, where it passes the line nearest; the line runs along the axis.
  let square = 0
  let along = 0
  for (let j = 0; j < 3; j++) {
    if (j === i) continue
    const e = edge[3 * k + j]
    square += e * e
    along += e * (onBox[j] - corner[3 * k + j])
  }
  const part = along / square
  if (!(part >= 0 && part <= 1)) return false
  for (let j = 0; j < 3; j++) onTriangle[j] = corner[3 * k + j] + part * edge[3 * k + j]
  onBox[i] = onTriangle[i]
  return onBox[i] <= p[own + 12 + i] && onBox[i] >= -p[own + 12 + i]
}
