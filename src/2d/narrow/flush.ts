/**
 * Inner edges: where the surface of one piece of ground goes on in another. What slides on the one meets the side or the corner of the
 * next, for it rests a little deep; but the next does not rise above the face on which it slides, so there is nothing to hold it.
 */
import { COUNT, KIND, PLANE } from '../shapes/layout.ts'

/** Cosine of the angle within which two faces are taken for one. */
export const STRAIGHT = Float64Array.of(0.9999)
/** Cosine of the angle within which a push goes along a face, and is not that of a corner. */
export const SAME = Float64Array.of(1 - 1e-10)
/** Lengths (times the unit) by which ground may rise above a face and still be flush with it. */
export const FLUSH = 0.0005
/** Part of half the least width of what slides within which, on both sides of where it meets the ground, that is asked. */
const AHEAD = 0.25

/** A face: its outward unit normal, how far out it is along that, where something is met along the face, how far about that to look. */
const FACE_X = 0
const FACE_Y = 1
const FACE_OFFSET = 2
const FACE_ALONG = 3
const FACE_ABOUT = 4
/** How far out of the face that is, which is below 0 where it is behind. */
const FACE_MET = 5
export const FACE_SIZE = 6

/** Lengths (times the unit) behind a face within which what is met there belongs to it: as deep as a body may rest in it. */
const BEHIND = 0.005

/**
 * Writes the face on which a body slides.
 * @param nx, ny in `normal`: its outward normal, times `sign`
 * @param on a point on it
 * @param met a point where something else is met, and half the least width of the body
 */
export function writeFace(
  normal: Float64Array,
  sign: number,
  on: Float64Array,
  met: Float64Array,
  out: Float64Array,
): void {
  const nx = sign * normal[0]
  const ny = sign * normal[1]
  out[FACE_X] = nx
  out[FACE_Y] = ny
  out[FACE_OFFSET] = nx * on[0] + ny * on[1]
  out[FACE_MET] = nx * met[0] + ny * met[1] - out[FACE_OFFSET]
  out[FACE_ALONG] = ny * met[0] - nx * met[1]
  out[FACE_ABOUT] = AHEAD * met[2]
}

/**
 * Whether a piece of ground has a face with an outward normal: what is round has one everywhere, a polygon only along its edges.
 * @param normal, index x, y of the normal, times `sign`
 * @param least the cosine within which it counts, {@link SAME} or {@link STRAIGHT}, in its first place
 */
export function hasFace(
  p: Float64Array,
  at: number,
  normal: Float64Array,
  index: number,
  sign: number,
  least: Float64Array,
): boolean {
  return p[at + KIND] === PLANE || p[at + COUNT] === 1 || p[at] > 0 || isFlatAlong(p, at, normal, index, sign, least)
}

/** Whether a piece has a flat side with an outward normal; a line and a capsule have two. */
export function isFlatAlong(
  p: Float64Array,
  at: number,
  normal: Float64Array,
  index: number,
  sign: number,
  least: Float64Array,
): boolean {
  const n = p[at + COUNT] | 0
  const nx = sign * normal[index]
  const ny = sign * normal[index + 1]
  for (let i = 0; i < n && n > 1; i++) {
    const a = at + 1 + 2 * i
    const b = i + 1 === n ? at + 1 : a + 2
    const ex = p[b] - p[a]
    const ey = p[b + 1] - p[a + 1]
    if ((ey * nx - ex * ny) / Math.sqrt(ex * ex + ey * ey) >= least[0]) return true
  }
  return false
}

/** Of a normal that is nearly that of a face of a polygon or line: makes it the face's own. */
export function turnToFace(p: Float64Array, at: number, normal: Float64Array, index: number, sign: number): void {
  const n = p[at + COUNT] | 0
  const nx = sign * normal[index]
  const ny = sign * normal[index + 1]
  for (let i = 0; i < n && n > 1; i++) {
    const a = at + 1 + 2 * i
    const b = i + 1 === n ? at + 1 : a + 2
    const ex = p[b] - p[a]
    const ey = p[b + 1] - p[a + 1]
    const length = Math.sqrt(ex * ex + ey * ey)
    if ((ey * nx - ex * ny) / length < STRAIGHT[0]) continue
    normal[index] = (sign * ey) / length
    normal[index + 1] = (-sign * ex) / length
    return
  }
}

/**
 * Whether a piece goes on where a face ends, near the place that the face tells of: it is met there and does not rise above it.
 * @param rise lengths by which it may, in its first place: {@link FLUSH}
 */
export function isFlush(p: Float64Array, at: number, face: Float64Array, rise: Float64Array): boolean {
  const n = p[at + COUNT] | 0
  const nx = face[FACE_X]
  const ny = face[FACE_Y]
  // What lies far behind is no part of that surface.
  if (face[FACE_MET] < (-BEHIND / FLUSH) * rise[0]) return false
  const most = face[FACE_OFFSET] + rise[0]
  if (p[at + KIND] === PLANE) return isPlaneFlush(p, at, face, most)
  const r = p[at]
  const low = face[FACE_ALONG] - face[FACE_ABOUT] - r
  const high = face[FACE_ALONG] + face[FACE_ABOUT] + r
  for (let i = 0; i < n; i++) {
    const a = at + 1 + 2 * i
    const b = i + 1 === n ? at + 1 : a + 2
    // Along the face, and out of it.
    const u0 = ny * p[a] - nx * p[a + 1]
    const u1 = ny * p[b] - nx * p[b + 1]
    const s0 = nx * p[a] + ny * p[a + 1]
    const s1 = nx * p[b] + ny * p[b + 1]
    if ((u0 < low && u1 < low) || (u0 > high && u1 > high)) continue
    // The part of the edge that lies within: out of the face it is a straight line, so its ends tell.
    for (let end = 0; end < 2; end++) {
      const u = end === 0 ? u0 : u1
      const held = u < low ? low : u > high ? high : u
      const s = u1 === u0 ? (end === 0 ? s0 : s1) : s0 + ((s1 - s0) * (held - u0)) / (u1 - u0)
      if (s + r > most) return false
    }
  }
  return true
}

function isPlaneFlush(p: Float64Array, at: number, face: Float64Array, most: number): boolean {
  const nx = face[FACE_X]
  const ny = face[FACE_Y]
  const out = p[at + 1] * nx + p[at + 2] * ny
  if (!(out > 0)) return false
  // The surface leans by this much along the face.
  const lean = p[at + 1] * ny - p[at + 2] * nx
  const u = face[FACE_ALONG] + (lean > 0 ? -face[FACE_ABOUT] : face[FACE_ABOUT])
  return (p[at] - lean * u) / out <= most
}
