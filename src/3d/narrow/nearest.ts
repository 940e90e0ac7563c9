/**
 * How far apart two convex cores are: the difference of the two is searched for its point nearest to the origin, over simplices
 * (Gilbert, Johnson and Keerthi, 1988), each reduced by its Voronoi regions (Ericson, 2005). For cores with corners it
 * ends with the very features; for discs it ends when nothing gets nearer.
 */
import { forget, support } from './support.ts'

/** Corners of the simplex: on the difference, on A, on B. */
export const W = new Float64Array(12)
export const WA = new Float64Array(12)
export const WB = new Float64Array(12)
/** Their weights in the nearest point. */
export const WEIGHTS = new Float64Array(4)
const weights = WEIGHTS
/** The weights before the last corner, to go back to. */
const keptWeights = new Float64Array(4)
/** The nearest point of the difference A - B so far, and a candidate for it. */
const v = new Float64Array(3)
const next = new Float64Array(3)
/** What weights miss the nearest point by. */
const missed = new Float64Array(3)
const fresh = new Float64Array(9)
/** Which corners stay: bits. */
let stays = 0
/** The size of all, by which rounding is measured. */
const size = new Float64Array(1)

/** What a search leaves behind: its corners, and whether it ended because nothing lies nearer along its direction. */
export const simplex = { count: 0, sure: false }

/** The distance beyond which nobody asks how far it is, in its first place. */
export const LIMIT = Float64Array.of(Infinity)
/** Part of the size of all by which a bound must be beyond the limit, so that no rounding counts. */
const BEYOND = 1e-12

/** What is nearer than this part of the size of all has met. */
const MET = 1e-13
const MAX_STEPS = 128
/** The rounding of the volume of a tetrahedron, as a part of the product of three of its edges. */
const VOLUME = 2e-15
/** The rounding of a corner, as a part of the size of all. */
const ROUNDING = 1e-15
/** By how much weights may miss the nearest point: a part of its distance, and of the size of all. */
const LED = 1e-2
const LED_FAR = 1e-7

/** Places in the answer: v (3), point of A (3), point of B (3), squared distance, size of all. */
export const NEAR_V = 0
export const NEAR_A = 3
export const NEAR_B = 6
export const NEAR_SQUARE = 9
export const NEAR_SCALE = 10
export const NEAR_SIZE = 11

/**
 * Searches the nearest points of the cores of two convex pieces.
 * @param shift added to the first: where it would stand
 * @param out the answer, see above
 * @returns whether they are apart; if not, the simplex holds the origin or passes it by rounding. Cores that are further apart than
 *   {@link LIMIT} give a direction along which they are, with a distance that is less than the true one and beyond the limit; no points.
 */
export function nearest(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): boolean {
  const sx = shift[0]
  const sy = shift[1]
  const sz = shift[2]
  // From the middle of the one towards the middle of the other.
  v[0] = p[a + 4] + sx - q[b + 4]
  v[1] = p[a + 5] + sy - q[b + 5]
  v[2] = p[a + 6] + sz - q[b + 6]
  if (v[0] === 0 && v[1] === 0 && v[2] === 0) v[0] = 1
  forget()
  let count = 0
  let square = Infinity
  let scale = 0
  const limit = LIMIT[0]
  simplex.sure = false
  for (let step = 0; step < MAX_STEPS; step++) {
    support(p, a, v, -1, fresh, 3, 0)
    support(q, b, v, 1, fresh, 6, 1)
    fresh[3] += sx
    fresh[4] += sy
    fresh[5] += sz
    const x = fresh[3] - fresh[6]
    const y = fresh[4] - fresh[7]
    const z = fresh[5] - fresh[8]
    if (x > scale) scale = x
    if (-x > scale) scale = -x
    if (y > scale) scale = y
    if (-y > scale) scale = -y
    if (z > scale) scale = z
    if (-z > scale) scale = -z
    const along = v[0] * x + v[1] * y + v[2] * z
    if (along > 0 && along > limit * Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])) {
      const length = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
      const bound = along / length - BEYOND * scale
      if (bound > limit) {
        out[NEAR_SQUARE] = bound * bound
        out[NEAR_SCALE] = scale
        for (let i = 0; i < 3; i++) out[NEAR_V + i] = (v[i] * bound) / length
        simplex.sure = true
        return true
      }
    }
    if (step > 0) {
      const gain = square - along
      // Nothing lies nearer, to rounding; or it is a corner that is there already.
      if (gain <= 4e-16 * square) {
        simplex.sure = true
        break
      }
      let known = false
      for (let k = 0; k < count; k++) if (W[3 * k] === x && W[3 * k + 1] === y && W[3 * k + 2] === z) known = true
      if (known) break
    }
    const at = 3 * count
    W[at] = x
    W[at + 1] = y
    W[at + 2] = z
    for (let i = 0; i < 3; i++) {
      WA[at + i] = fresh[3 + i]
      WB[at + i] = fresh[6 + i]
    }
    for (let i = 0; i < count; i++) keptWeights[i] = weights[i]
    count++
    size[0] = scale
    const inside = reduce(count)
    if (inside) {
      simplex.count = 4
      out[NEAR_SQUARE] = 0
      out[NEAR_SCALE] = scale
      return false
    }
    const now = next[0] * next[0] + next[1] * next[1] + next[2] * next[2]
    // Progress that rounding hides in the square can still turn the direction: it is taken, and the last.
    const last = now >= square
    if (now > square * (1 + 4e-16)) {
      // No progress: the simplex before was as good as rounding lets it be. Its corners still stand below the last.
      count--
      for (let i = 0; i < count; i++) weights[i] = keptWeights[i]
      break
    }
    square = now
    v[0] = next[0]
    v[1] = next[1]
    v[2] = next[2]
    count = keep(count)
    if (last || now <= MET * MET * scale * scale) break
  }
  simplex.count = count
  out[NEAR_SQUARE] = square
  out[NEAR_SCALE] = scale
  if (square <= MET * MET * scale * scale) return false
  if (count === 3) betterWeights(0, 1, 2, v)
  for (let i = 0; i < 3; i++) {
    out[NEAR_V + i] = v[i]
    let onA = 0
    let onB = 0
    for (let k = 0; k < count; k++) {
      onA += weights[k] * WA[3 * k + i]
      onB += weights[k] * WB[3 * k + i]
    }
    out[NEAR_A + i] = onA
    out[NEAR_B + i] = onB
  }
  return true
}

/** Drops the corners that do not stay; returns how many do. */
function keep(count: number): number {
  let kept = 0
  for (let k = 0; k < count; k++) {
    if ((stays & (1 << k)) === 0) continue
    if (k !== kept) {
      for (let i = 0; i < 3; i++) {
        W[3 * kept + i] = W[3 * k + i]
        WA[3 * kept + i] = WA[3 * k + i]
        WB[3 * kept + i] = WB[3 * k + i]
      }
      weights[kept] = weights[k]
    }
    kept++
  }
  return kept
}

/** Finds the nearest point of the simplex into `next`, its weights, and which corners stay. True when the origin is inside. */
function reduce(count: number): boolean {
  weights[0] = weights[1] = weights[2] = weights[3] = 0
  if (count === 1) {
    weights[0] = 1
    stays = 1
    for (let i = 0; i < 3; i++) next[i] = W[i]
    return false
  }
  if (count === 2) {
    onSegment(0, 1)
    return false
  }
  if (count === 3) {
    onTriangle(0, 1, 2)
    return false
  }
  return inTetrahedron()
}

/** The nearest point of the segment between two corners. */
function onSegment(i: number, k: number): void {
  const ax = W[3 * i]
  const ay = W[3 * i + 1]
  const az = W[3 * i + 2]
  const ex = W[3 * k] - ax
  const ey = W[3 * k + 1] - ay
  const ez = W[3 * k + 2] - az
  const along = -(ax * ex + ay * ey + az * ez)
  const square = ex * ex + ey * ey + ez * ez
  if (along <= 0 || square === 0) only(i)
  else if (along >= square) only(k)
  else {
    const t = along / square
    weights[i] = 1 - t
    weights[k] = t
    stays = (1 << i) | (1 << k)
    // From the nearer end, which keeps more digits.
    if (t < 0.5) {
      next[0] = ax + t * ex
      next[1] = ay + t * ey
      next[2] = az + t * ez
    } else {
      next[0] = W[3 * k] - (1 - t) * ex
      next[1] = W[3 * k + 1] - (1 - t) * ey
      next[2] = W[3 * k + 2] - (1 - t) * ez
    }
  }
}

function only(i: number): void {
  weights[i] = 1
  stays = 1 << i
  next[0] = W[3 * i]
  next[1] = W[3 * i + 1]
  next[2] = W[3 * i + 2]
}

/** The nearest point of the triangle of three corners. */
function onTriangle(i: number, j: number, k: number): void {
  const ax = W[3 * i]
  const ay = W[3 * i + 1]
  const az = W[3 * i + 2]
  const bx = W[3 * j]
  const by = W[3 * j + 1]
  const bz = W[3 * j + 2]
  const cx = W[3 * k]
  const cy = W[3 * k + 1]
  const cz = W[3 * k + 2]
  const ex = bx - ax
  const ey = by - ay
  const ez = bz - az
  const fx = cx - ax
  const fy = cy - ay
  const fz = cz - az
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const area = nx * nx + ny * ny + nz * nz
  const ee = ex * ex + ey * ey + ez * ez
  const ff = fx * fx + fy * fy + fz * fz
  // Without an area, to the rounding of its corners, it is its edges.
  const rounding = ROUNDING * size[0]
  if (area <= rounding * rounding * (ee + ff)) {
    bestEdge(i, j, k)
    return
  }
  // Weights by the areas of the triangles that the origin's foot makes with the edges.
  const u = nx * (by * cz - bz * cy) + ny * (bz * cx - bx * cz) + nz * (bx * cy - by * cx)
  const w = nx * (cy * az - cz * ay) + ny * (cz * ax - cx * az) + nz * (cx * ay - cy * ax)
  const t = nx * (ay * bz - az * by) + ny * (az * bx - ax * bz) + nz * (ax * by - ay * bx)
  if (u > 0 && w > 0 && t > 0) {
    const sum = u + w + t
    weights[i] = u / sum
    weights[j] = w / sum
    weights[k] = t / sum
    stays = (1 << i) | (1 << j) | (1 << k)
    // By the plane, so that the direction is that of the triangle however near it is. From the nearest corner.
    const aa = ax * ax + ay * ay + az * az
    const bb = bx * bx + by * by + bz * bz
    const cc = cx * cx + cy * cy + cz * cz
    const height =
      aa <= bb && aa <= cc
        ? nx * ax + ny * ay + nz * az
        : bb <= cc
          ? nx * bx + ny * by + nz * bz
          : nx * cx + ny * cy + nz * cz
    const part = height / area
    next[0] = nx * part
    next[1] = ny * part
    next[2] = nz * part
    agree(i, j, k)
    return
  }
  bestEdge(i, j, k)
}

/**
 * Lets the weights of a triangle lead to its nearest point. Of a thin one the areas give few digits, and they are bettered. Of a
 * sliver it is the plane that is wrong, and its nearest point is where the weights lead.
 */
function agree(i: number, j: number, k: number): void {
  if (isLed(i, j, k)) return
  betterWeights(i, j, k, next)
  if (isLed(i, j, k)) return
  for (let axis = 0; axis < 3; axis++) next[axis] -= missed[axis]
}

/** Whether the weights lead to `next`, nearly; writes what they miss it by. */
function isLed(i: number, j: number, k: number): boolean {
  miss(i, j, k, next)
  let square = 0
  let off = 0
  for (let axis = 0; axis < 3; axis++) {
    off += missed[axis] * missed[axis]
    square += next[axis] * next[axis]
  }
  const far = LED_FAR * size[0]
  const enough = LED * LED * square
  return off <= (enough < far * far ? enough : far * far) + 100 * ROUNDING * ROUNDING * size[0] * size[0]
}

/** Writes how far `to` lies from where the weights of a triangle lead. */
function miss(i: number, j: number, k: number, to: Float64Array): void {
  for (let axis = 0; axis < 3; axis++) {
    missed[axis] =
      to[axis] - (weights[i] * W[3 * i + axis] + weights[j] * W[3 * j + axis] + weights[k] * W[3 * k + axis])
  }
}

/** Betters the weights of a triangle by what they miss a point of its plane by, as far as they lead to one within it. */
function betterWeights(i: number, j: number, k: number, to: Float64Array): void {
  miss(i, j, k, to)
  let ee = 0
  let ef = 0
  let ff = 0
  let er = 0
  let fr = 0
  for (let axis = 0; axis < 3; axis++) {
    const e = W[3 * j + axis] - W[3 * i + axis]
    const f = W[3 * k + axis] - W[3 * i + axis]
    ee += e * e
    ef += e * f
    ff += f * f
    er += e * missed[axis]
    fr += f * missed[axis]
  }
  const det = ee * ff - ef * ef
  const second = weights[j] + (ff * er - ef * fr) / det
  const third = weights[k] + (ee * fr - ef * er) / det
  const first = 1 - second - third
  if (!(first >= 0 && second >= 0 && third >= 0)) return
  weights[i] = first
  weights[j] = second
  weights[k] = third
}

const edgeNext = new Float64Array(3)
const edgeWeights = new Float64Array(4)

/** The nearest point of the three edges. */
function bestEdge(i: number, j: number, k: number): void {
  let least = Infinity
  let bits = 0
  for (let edge = 0; edge < 3; edge++) {
    weights[i] = weights[j] = weights[k] = 0
    if (edge === 0) onSegment(i, j)
    else if (edge === 1) onSegment(j, k)
    else onSegment(k, i)
    const square = next[0] * next[0] + next[1] * next[1] + next[2] * next[2]
    if (square >= least) continue
    least = square
    bits = stays
    for (let axis = 0; axis < 3; axis++) edgeNext[axis] = next[axis]
    for (let n = 0; n < 4; n++) edgeWeights[n] = weights[n]
  }
  stays = bits
  for (let axis = 0; axis < 3; axis++) next[axis] = edgeNext[axis]
  for (let n = 0; n < 4; n++) weights[n] = edgeWeights[n]
}

const faceNext = new Float64Array(3)
const faceWeights = new Float64Array(4)

/** The nearest point of the tetrahedron; true when the origin lies in it. */
function inTetrahedron(): boolean {
  let least = Infinity
  let bits = 0
  const flat = isFlat()
  let outside = flat
  for (let face = 0; face < 4; face++) {
    // The face opposite to corner `face`.
    const i = face === 0 ? 1 : 0
    const j = face <= 1 ? 2 : 1
    const k = face <= 2 ? 3 : 2
    if (!flat && !beyond(i, j, k, face)) continue
    outside = true
    weights[0] = weights[1] = weights[2] = weights[3] = 0
    onTriangle(i, j, k)
    const square = next[0] * next[0] + next[1] * next[1] + next[2] * next[2]
    if (square >= least) continue
    least = square
    bits = stays
    for (let axis = 0; axis < 3; axis++) faceNext[axis] = next[axis]
    for (let n = 0; n < 4; n++) faceWeights[n] = weights[n]
  }
  if (!outside) return true
  stays = bits
  for (let axis = 0; axis < 3; axis++) next[axis] = faceNext[axis]
  for (let n = 0; n < 4; n++) weights[n] = faceWeights[n]
  return false
}

/** Whether the origin lies on the other side of a face from the fourth corner, or too near to it to tell. */
function beyond(i: number, j: number, k: number, other: number): boolean {
  const ax = W[3 * i]
  const ay = W[3 * i + 1]
  const az = W[3 * i + 2]
  const ex = W[3 * j] - ax
  const ey = W[3 * j + 1] - ay
  const ez = W[3 * j + 2] - az
  const fx = W[3 * k] - ax
  const fy = W[3 * k + 1] - ay
  const fz = W[3 * k + 2] - az
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const gx = W[3 * other] - ax
  const gy = W[3 * other + 1] - ay
  const gz = W[3 * other + 2] - az
  const own = nx * gx + ny * gy + nz * gz
  const origin = -(nx * ax + ny * ay + nz * az)
  // By less than rounding it is on neither side: of a sliver any of four signs may be wrong, and all that is far would be inside.
  const ef = (ex * ex + ey * ey + ez * ez) * (fx * fx + fy * fy + fz * fz)
  const rounding = VOLUME * Math.sqrt(ef * (ax * ax + ay * ay + az * az))
  if (own * own <= VOLUME * VOLUME * ef * (gx * gx + gy * gy + gz * gz)) return true
  return own > 0 ? origin <= rounding : origin >= -rounding
}

/** Whether the four corners have no volume, to their rounding. */
function isFlat(): boolean {
  const ex = W[3] - W[0]
  const ey = W[4] - W[1]
  const ez = W[5] - W[2]
  const fx = W[6] - W[0]
  const fy = W[7] - W[1]
  const fz = W[8] - W[2]
  const gx = W[9] - W[0]
  const gy = W[10] - W[1]
  const gz = W[11] - W[2]
  const volume = gx * (ey * fz - ez * fy) + gy * (ez * fx - ex * fz) + gz * (ex * fy - ey * fx)
  const ee = ex * ex + ey * ey + ez * ez
  const ff = fx * fx + fy * fy + fz * fz
  const gg = gx * gx + gy * gy + gz * gz
  const rounding = ROUNDING * size[0]
  return volume * volume <= rounding * rounding * (ee * ff + ff * gg + gg * ee)
}
