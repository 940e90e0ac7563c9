/** Blocks of pieces, moved and turned; and their bounds. */
import { FRAME } from '../vector.ts'
import type * as layout from './layout.ts'

const POINT_COUNT: typeof layout.POINT_COUNT = 1
const FACE_COUNT: typeof layout.FACE_COUNT = 2
const FEW: typeof layout.FEW = 32
const RADIUS: typeof layout.RADIUS = 3
const BODY: typeof layout.BODY = 4
const BOX: typeof layout.BOX = 1
const CYLINDER: typeof layout.CYLINDER = 2
const CONE: typeof layout.CONE = 3
const PLANE: typeof layout.PLANE = 5
const SURFACE: typeof layout.SURFACE = 6

/** Writes a block, moved and turned by `pose[poseAt]` and `frame[frameAt]`, to another place. */
export function placeInto(
  block: Float64Array,
  from: number,
  pose: Float64Array,
  poseAt: number,
  frame: Float64Array,
  frameAt: number,
  out: Float64Array,
  to: number,
): void {
  const m0 = frame[frameAt]
  const m1 = frame[frameAt + 1]
  const m2 = frame[frameAt + 2]
  const m3 = frame[frameAt + 3]
  const m4 = frame[frameAt + 4]
  const m5 = frame[frameAt + 5]
  const m6 = frame[frameAt + 6]
  const m7 = frame[frameAt + 7]
  const m8 = frame[frameAt + 8]
  const px = pose[poseAt]
  const py = pose[poseAt + 1]
  const pz = pose[poseAt + 2]
  const kind = block[from]
  for (let i = 0; i < BODY; i++) out[to + i] = block[from + i]
  if (kind === PLANE) {
    const nx = block[from + BODY + 1]
    const ny = block[from + BODY + 2]
    const nz = block[from + BODY + 3]
    const x = m0 * nx + m1 * ny + m2 * nz
    const y = m3 * nx + m4 * ny + m5 * nz
    const z = m6 * nx + m7 * ny + m8 * nz
    out[to + BODY] = block[from + BODY] + (x * px + y * py + z * pz)
    out[to + BODY + 1] = x
    out[to + BODY + 2] = y
    out[to + BODY + 3] = z
    return
  }
  // Points: of boxes, cylinders, cones and surfaces one, then directions that only turn.
  const points = kind === BOX || kind === CYLINDER || kind === CONE || kind === SURFACE ? 1 : block[from + POINT_COUNT]
  let i = BODY
  for (let k = 0; k < points; k++, i += 3) {
    const x = block[from + i]
    const y = block[from + i + 1]
    const z = block[from + i + 2]
    out[to + i] = px + (m0 * x + m1 * y + m2 * z)
    out[to + i + 1] = py + (m3 * x + m4 * y + m5 * z)
    out[to + i + 2] = pz + (m6 * x + m7 * y + m8 * z)
  }
  if (kind === SURFACE) {
    // The matrix of both turns.
    for (let column = 0; column < 3; column++) {
      const x = block[from + i + column]
      const y = block[from + i + column + 3]
      const z = block[from + i + column + 6]
      out[to + i + column] = m0 * x + m1 * y + m2 * z
      out[to + i + column + 3] = m3 * x + m4 * y + m5 * z
      out[to + i + column + 6] = m6 * x + m7 * y + m8 * z
    }
    return
  }
  const axes = kind === BOX ? 3 : kind === CYLINDER || kind === CONE ? 1 : 0
  for (let k = 0; k < axes; k++, i += 3) {
    const x = block[from + i]
    const y = block[from + i + 1]
    const z = block[from + i + 2]
    out[to + i] = m0 * x + m1 * y + m2 * z
    out[to + i + 1] = m3 * x + m4 * y + m5 * z
    out[to + i + 2] = m6 * x + m7 * y + m8 * z
  }
  const sizes = axes === 3 ? 3 : axes === 1 ? 2 : 0
  for (let k = 0; k < sizes; k++, i++) out[to + i] = block[from + i]
  const faces = block[from + FACE_COUNT]
  for (let k = 0; k < faces; k++, i += 4) {
    const nx = block[from + i]
    const ny = block[from + i + 1]
    const nz = block[from + i + 2]
    const x = m0 * nx + m1 * ny + m2 * nz
    const y = m3 * nx + m4 * ny + m5 * nz
    const z = m6 * nx + m7 * ny + m8 * nz
    out[to + i] = x
    out[to + i + 1] = y
    out[to + i + 2] = z
    out[to + i + 3] = block[from + i + 3] + (x * px + y * py + z * pz)
  }
  if (points <= FEW) return
  // The neighbours stay the same.
  for (const end = i + block[from + i + points]; i < end; i++) out[to + i] = block[from + i]
}

/**
 * Writes the bounds of a placed block: min x, y, z, max x, y, z.
 * @param own bounds of a surface about its own origin, at `ownAt`; not read for other kinds
 */
export function boundsOf(
  block: Float64Array,
  at: number,
  own: Float64Array,
  ownAt: number,
  out: Float64Array,
  to: number,
): void {
  const kind = block[at]
  const r = block[at + RADIUS]
  const b = at + BODY
  if (kind === PLANE) {
    out[to] = out[to + 1] = out[to + 2] = -Infinity
    out[to + 3] = out[to + 4] = out[to + 5] = Infinity
    return
  }
  if (kind === BOX) {
    const hx = block[b + 12]
    const hy = block[b + 13]
    const hz = block[b + 14]
    for (let i = 0; i < 3; i++) {
      const half = Math.abs(block[b + 3 + i]) * hx + Math.abs(block[b + 6 + i]) * hy + Math.abs(block[b + 9 + i]) * hz
      out[to + i] = block[b + i] - half - r
      out[to + 3 + i] = block[b + i] + half + r
    }
    return
  }
  if (kind === CYLINDER || kind === CONE) {
    const hh = block[b + 6]
    const disc = block[b + 7]
    for (let i = 0; i < 3; i++) {
      const u = block[b + 3 + i]
      const rim = disc * Math.sqrt(Math.max(0, 1 - u * u))
      const c = block[b + i]
      const base = c - u * hh
      const top = c + u * hh
      const topRim = kind === CONE ? 0 : rim
      out[to + i] = Math.min(base - rim, top - topRim) - r
      out[to + 3 + i] = Math.max(base + rim, top + topRim) + r
    }
    return
  }
  if (kind === SURFACE) {
    for (let i = 0; i < 3; i++) {
      // By the sign of each entry the least and the greatest corner (Arvo, 1990): exact where nothing is turned.
      let least = block[b + i]
      let greatest = least
      for (let k = 0; k < 3; k++) {
        const m = block[b + 3 + 3 * i + k]
        const low = m * own[ownAt + k]
        const high = m * own[ownAt + 3 + k]
        least += low < high ? low : high
        greatest += low < high ? high : low
      }
      out[to + i] = least
      out[to + 3 + i] = greatest
    }
    return
  }
  let minX = Infinity
  let minY = Infinity
  let minZ = Infinity
  let maxX = -Infinity
  let maxY = -Infinity
  let maxZ = -Infinity
  const end = b + 3 * block[at + POINT_COUNT]
  for (let i = b; i < end; i += 3) {
    const x = block[i]
    const y = block[i + 1]
    const z = block[i + 2]
    if (x < minX) minX = x
    if (x > maxX) maxX = x
    if (y < minY) minY = y
    if (y > maxY) maxY = y
    if (z < minZ) minZ = z
    if (z > maxZ) maxZ = z
  }
  out[to] = minX - r
  out[to + 1] = minY - r
  out[to + 2] = minZ - r
  out[to + 3] = maxX + r
  out[to + 4] = maxY + r
  out[to + 5] = maxZ + r
}

const IDENTITY = Float64Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1)

/** A pose that changes nothing. */
export function identityPose(): Float64Array {
  return IDENTITY.slice()
}

/** A block moved and turned by a pose of numbers. */
export function placed(block: Float64Array, pose: Float64Array): Float64Array {
  const out = new Float64Array(block.length)
  placeInto(block, 0, pose, 0, pose, FRAME, out, 0)
  return out
}
