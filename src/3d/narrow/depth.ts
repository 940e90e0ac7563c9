/**
 * How deep two convex cores overlap, and the least way out: a polytope within their difference is grown from the simplex
 * that the distance left, at its face nearest to the origin, until that face lies on the surface of the difference (van den
 * Bergen, 2001). For cores with corners that ends with the very face; for discs it is content at 1e-12 of the size of all.
 */
import type * as shape from '../shapes/words.ts'
import { simplex, W, WA, WB, WEIGHTS } from './nearest.ts'
import { support } from './support.ts'

const CYLINDER: typeof shape.CYLINDER = 2
const CONE: typeof shape.CONE = 3
const BODY: typeof shape.BODY = 4

const MAX_CORNERS = 128
const MAX_FACES = 512
/** Parts of the size of all: what counts as no extent, and by how much a face may still be outdone. */
const FLAT = 1e-12
const CONTENT = 1e-12
/** Part of the size of all below which a depth is a touch. */
const TOUCH = 1e-12
/** Part of the size of all by which a direction must be better to count: less is rounding, and there is no end to it. */
const GAIN = 1e-14
/** A corner sees a face that it lies above by more than this: well beyond rounding, for one that lies in its plane must not. */
const SEEN = 2e-13

const corners = new Float64Array(3 * MAX_CORNERS)
const onA = new Float64Array(3 * MAX_CORNERS)
const onB = new Float64Array(3 * MAX_CORNERS)
const faceCorners = new Int32Array(3 * MAX_FACES)
/** Unit normal outward, and distance from the origin. */
const facePlanes = new Float64Array(4 * MAX_FACES)
/** The face across each edge, from corner i to i + 1. */
const faceAcross = new Int32Array(3 * MAX_FACES)
const faceMarks = new Int32Array(MAX_FACES)
/** Slots in use or free. */
let faceCount = 0
const free = new Int32Array(MAX_FACES)
let freeCount = 0
/** Marks are the number of a visit. */
let visits = 0
const todo = new Int32Array(MAX_FACES)
/** From, to, and the face beyond, of each edge of the rim. */
const rim = new Int32Array(3 * MAX_FACES)
const startMarks = new Int32Array(MAX_CORNERS)
const startFaces = new Int32Array(MAX_CORNERS)
/** The distance of a face that is no more: it is never the nearest, and nothing sees it. */
const GONE = Infinity
const dir = new Float64Array(3)
const fresh = new Float64Array(9)
let cornerCount = 0

/** Places in the answer: normal from A to B, depth, point of A, point of B. */
export const DEPTH_NORMAL = 0
export const DEPTH = 3
export const DEPTH_A = 4
export const DEPTH_B = 7
export const DEPTH_SIZE = 10

/**
 * The depth of two cores that `nearest` found to overlap, or to be nearer than rounding. Right after it: it goes on from its
 * simplex.
 * @param scale the size of all, as `nearest` gave it
 */
export function depthOf(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  scale: number,
  out: Float64Array,
): void {
  cornerCount = 0
  for (let k = 0; k < simplex.count; k++) {
    for (let i = 0; i < 3; i++) {
      corners[3 * k + i] = W[3 * k + i]
      onA[3 * k + i] = WA[3 * k + i]
      onB[3 * k + i] = WB[3 * k + i]
    }
    cornerCount++
  }
  const flat = FLAT * scale
  if (!spanSpace(p, a, q, b, shift, flat)) {
    answerFlat(p, a, q, b, shift, out)
    return
  }
  faceCount = 0
  // The tetrahedron, each face turned outward.
  freeCount = 0
  addFace(0, 1, 2)
  addFace(0, 3, 1)
  addFace(1, 3, 2)
  addFace(2, 3, 0)
  for (let i = 0; i < 12; i++) faceAcross[i] = FIRST_ACROSS[i]
  let best = Infinity
  let content = false
  for (;;) {
    const face = nearestFace()
    if (face < 0) break
    for (let i = 0; i < 3; i++) dir[i] = facePlanes[4 * face + i]
    const reach = farthest(p, a, q, b, shift)
    if (reach < best) {
      best = reach
      answer(face, reach, out)
    }
    content = reach - facePlanes[4 * face + 3] <= CONTENT * scale
    if (content) break
    if (cornerCount === MAX_CORNERS || !grow(face, SEEN * scale)) break
  }
  if (best === Infinity) answerFlat(p, a, q, b, shift, out)
  else if (!content) polish(p, a, q, b, shift, GAIN * scale, out)
  // Where they only touch, the points are those that the search for the nearest found: a face's may lie beside it.
  if (out[DEPTH] <= TOUCH * scale && simplex.count < 4) blendOrigin(out)
}

const across = new Float64Array(6)
const trial = new Float64Array(3)

/**
 * Where discs would need ever more corners, as about a common axis, the direction is bettered by trying its neighbours, ever
 * closer ones; first along and across the axis of the disc, for there the depth has its edges.
 */
function polish(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  gain: number,
  out: Float64Array,
): void {
  let step = 0.05
  while (step > 1e-10) {
    for (let i = 0; i < 3; i++) edge[i] = p[a] === CYLINDER || p[a] === CONE ? p[a + BODY + 3 + i] : q[b + BODY + 3 + i]
    // Two directions across the normal, the one towards the axis.
    for (let i = 0; i < 3; i++) normal[i] = out[DEPTH_NORMAL + i]
    cross(normal, edge, trial)
    let length = Math.sqrt(trial[0] * trial[0] + trial[1] * trial[1] + trial[2] * trial[2])
    if (length < 1e-6) {
      const least = Math.abs(normal[0]) < 0.6 ? 0 : 1
      for (let i = 0; i < 3; i++) across[i] = i === least ? 1 : 0
      cross(normal, across, trial)
      length = Math.sqrt(trial[0] * trial[0] + trial[1] * trial[1] + trial[2] * trial[2])
    }
    for (let i = 0; i < 3; i++) across[i] = trial[i] / length
    cross(across, normal, trial)
    for (let i = 0; i < 3; i++) across[3 + i] = trial[i]
    let better = false
    for (let k = 0; k < 8; k++) {
      const u = step * OCTANT[k]
      const v = step * OCTANT[(k + 6) % 8]
      let square = 0
      for (let i = 0; i < 3; i++) {
        dir[i] = normal[i] + u * across[i] + v * across[3 + i]
        square += dir[i] * dir[i]
      }
      const unit = 1 / Math.sqrt(square)
      for (let i = 0; i < 3; i++) dir[i] *= unit
      const reach = farthest(p, a, q, b, shift)
      if (!(reach < out[DEPTH] - gain)) continue
      better = true
      out[DEPTH] = reach
      for (let i = 0; i < 3; i++) out[DEPTH_NORMAL + i] = dir[i]
    }
    if (turnAbout(p, a, step, p, a, q, b, shift, gain, out)) better = true
    if (turnAbout(q, b, step, p, a, q, b, shift, gain, out)) better = true
    if (!better) step /= 2
  }
}

/**
 * Tries the direction turned about the axis of a disc, both ways: along that circle the depth can be all but the same, and a
 * straight step leads off it. True when it is less there.
 */
function turnAbout(
  round: Float64Array,
  at: number,
  step: number,
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  gain: number,
  out: Float64Array,
): boolean {
  if (round[at] !== CYLINDER && round[at] !== CONE) return false
  for (let i = 0; i < 3; i++) {
    edge[i] = round[at + BODY + 3 + i]
    normal[i] = out[DEPTH_NORMAL + i]
  }
  const along = edge[0] * normal[0] + edge[1] * normal[1] + edge[2] * normal[2]
  cross(edge, normal, trial)
  // Cosine and sine of twice the angle whose tangent is half the step.
  const square = (step * step) / 4
  const cos = (1 - square) / (1 + square)
  const sin = step / (1 + square)
  let better = false
  for (let side = -1; side <= 1; side += 2) {
    let length = 0
    for (let i = 0; i < 3; i++) {
      dir[i] = cos * normal[i] + side * sin * trial[i] + (1 - cos) * along * edge[i]
      length += dir[i] * dir[i]
    }
    length = Math.sqrt(length)
    for (let i = 0; i < 3; i++) dir[i] /= length
    const reach = farthest(p, a, q, b, shift)
    if (!(reach < out[DEPTH] - gain)) continue
    better = true
    out[DEPTH] = reach
    for (let i = 0; i < 3; i++) out[DEPTH_NORMAL + i] = dir[i]
  }
  return better
}

/** Cosines of the eight directions. */
const OCTANT = [1, Math.SQRT1_2, 0, -Math.SQRT1_2, -1, -Math.SQRT1_2, 0, Math.SQRT1_2]

/** What lies across the edges of the tetrahedron's faces. */
const FIRST_ACROSS = [1, 2, 3, 3, 2, 0, 1, 3, 0, 2, 1, 0]

/** The farthest point of the difference along `dir`, into `fresh`; returns how far. */
function farthest(p: Float64Array, a: number, q: Float64Array, b: number, shift: Float64Array): number {
  support(p, a, dir, 1, fresh, 3)
  support(q, b, dir, -1, fresh, 6)
  for (let i = 0; i < 3; i++) {
    fresh[3 + i] += shift[i]
    fresh[i] = fresh[3 + i] - fresh[6 + i]
  }
  return dir[0] * fresh[0] + dir[1] * fresh[1] + dir[2] * fresh[2]
}

function addCorner(): void {
  for (let i = 0; i < 3; i++) {
    corners[3 * cornerCount + i] = fresh[i]
    onA[3 * cornerCount + i] = fresh[3 + i]
    onB[3 * cornerCount + i] = fresh[6 + i]
  }
  cornerCount++
}

const edge = new Float64Array(3)
const normal = new Float64Array(3)

/** Brings the simplex to four corners that span space, so turned that the faces face outward. False when there is no volume. */
function spanSpace(p: Float64Array, a: number, q: Float64Array, b: number, shift: Float64Array, flat: number): boolean {
  if (cornerCount === 4 && volume() !== 0 && Math.abs(volume()) > flat * longest() * longest()) {
    turnOut()
    return true
  }
  // Anew, from the first corner: the farthest from it, from the line, from the plane.
  if (cornerCount === 0) {
    dir[0] = 1
    dir[1] = 0
    dir[2] = 0
    farthest(p, a, q, b, shift)
    addCorner()
  }
  cornerCount = 1
  let most = flat
  for (let i = 0; i < 6; i++) {
    dir[0] = dir[1] = dir[2] = 0
    dir[i >> 1] = (i & 1) === 0 ? 1 : -1
    farthest(p, a, q, b, shift)
    const [x, y, z] = [fresh[0] - corners[0], fresh[1] - corners[1], fresh[2] - corners[2]]
    const apart = Math.sqrt(x * x + y * y + z * z)
    if (apart <= most) continue
    most = apart
    cornerCount = 1
    addCorner()
  }
  if (cornerCount < 2) return false
  for (let i = 0; i < 3; i++) edge[i] = (corners[3 + i] - corners[i]) / most
  // Two directions across the line, and back.
  acrossEdge()
  most = flat
  for (let i = 0; i < 4; i++) {
    if (i === 2) cross(edge, normal, normal)
    for (let k = 0; k < 3; k++) dir[k] = (i & 1) === 0 ? normal[k] : -normal[k]
    farthest(p, a, q, b, shift)
    const apart = offLine()
    if (apart <= most) continue
    most = apart
    cornerCount = 2
    addCorner()
  }
  if (cornerCount < 3) return false
  for (let i = 0; i < 3; i++) {
    edge[i] = corners[3 + i] - corners[i]
    dir[i] = corners[6 + i] - corners[i]
  }
  cross(edge, dir, normal)
  const length = Math.sqrt(normal[0] * normal[0] + normal[1] * normal[1] + normal[2] * normal[2])
  if (length === 0) return false
  for (let i = 0; i < 3; i++) normal[i] /= length
  most = flat
  for (let i = 0; i < 2; i++) {
    for (let k = 0; k < 3; k++) dir[k] = i === 0 ? normal[k] : -normal[k]
    farthest(p, a, q, b, shift)
    const height = Math.abs(
      normal[0] * (fresh[0] - corners[0]) + normal[1] * (fresh[1] - corners[1]) + normal[2] * (fresh[2] - corners[2]),
    )
    if (height <= most) continue
    most = height
    cornerCount = 3
    addCorner()
  }
  if (cornerCount < 4) return false
  turnOut()
  return true
}

/** Writes a direction across the edge as the normal. */
function acrossEdge(): void {
  const x = Math.abs(edge[0])
  const y = Math.abs(edge[1])
  const z = Math.abs(edge[2])
  normal.fill(0)
  normal[y <= x && y <= z ? 1 : x <= z ? 0 : 2] = 1
  cross(edge, normal, normal)
}

function longest(): number {
  let most = 0
  for (let k = 1; k < 4; k++) {
    let square = 0
    for (let i = 0; i < 3; i++) square += (corners[3 * k + i] - corners[i]) * (corners[3 * k + i] - corners[i])
    if (square > most) most = square
  }
  return Math.sqrt(most)
}

/** How far `fresh` lies off the line through the first two corners. */
function offLine(): number {
  const x = fresh[0] - corners[0]
  const y = fresh[1] - corners[1]
  const z = fresh[2] - corners[2]
  const along = x * edge[0] + y * edge[1] + z * edge[2]
  const rx = x - along * edge[0]
  const ry = y - along * edge[1]
  const rz = z - along * edge[2]
  return Math.sqrt(rx * rx + ry * ry + rz * rz)
}

function cross(one: Float64Array, other: Float64Array, out: Float64Array): void {
  const x = one[1] * other[2] - one[2] * other[1]
  const y = one[2] * other[0] - one[0] * other[2]
  const z = one[0] * other[1] - one[1] * other[0]
  out[0] = x
  out[1] = y
  out[2] = z
}

/** Six times the volume of the first four corners; below 0 when the fourth lies below the first three. */
function volume(): number {
  const ex = corners[3] - corners[0]
  const ey = corners[4] - corners[1]
  const ez = corners[5] - corners[2]
  const fx = corners[6] - corners[0]
  const fy = corners[7] - corners[1]
  const fz = corners[8] - corners[2]
  const gx = corners[9] - corners[0]
  const gy = corners[10] - corners[1]
  const gz = corners[11] - corners[2]
  return gx * (ey * fz - ez * fy) + gy * (ez * fx - ex * fz) + gz * (ex * fy - ey * fx)
}

/** Lets the fourth corner lie below the first three. */
function turnOut(): void {
  if (volume() < 0) return
  for (const list of [corners, onA, onB]) {
    for (let i = 0; i < 3; i++) {
      const kept = list[3 + i]
      list[3 + i] = list[6 + i]
      list[6 + i] = kept
    }
  }
}

function addFace(i: number, j: number, k: number): number {
  const face = freeCount > 0 ? free[--freeCount] : faceCount++
  const ax = corners[3 * i]
  const ay = corners[3 * i + 1]
  const az = corners[3 * i + 2]
  const ex = corners[3 * j] - ax
  const ey = corners[3 * j + 1] - ay
  const ez = corners[3 * j + 2] - az
  const fx = corners[3 * k] - ax
  const fy = corners[3 * k + 1] - ay
  const fz = corners[3 * k + 2] - az
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
  const at = 4 * face
  faceCorners[3 * face] = i
  faceCorners[3 * face + 1] = j
  faceCorners[3 * face + 2] = k
  faceMarks[face] = 0
  if (length === 0) {
    // Without an area it has no say, but it closes the surface.
    facePlanes[at] = facePlanes[at + 1] = facePlanes[at + 2] = 0
    facePlanes[at + 3] = GONE
    return face
  }
  const x = nx / length
  const y = ny / length
  const z = nz / length
  facePlanes[at] = x
  facePlanes[at + 1] = y
  facePlanes[at + 2] = z
  facePlanes[at + 3] = x * ax + y * ay + z * az
  return face
}

function nearestFace(): number {
  let best = -1
  let least = Infinity
  for (let face = 0; face < faceCount; face++) {
    const distance = facePlanes[4 * face + 3]
    if (distance >= least) continue
    least = distance
    best = face
  }
  return best
}

/**
 * Takes `fresh` in as a corner: the faces that it sees, as far as they hang together with the one it was found by, give way to
 * new ones from their rim. False when that cannot be: the polytope stays as it is.
 */
function grow(first: number, seen: number): boolean {
  const x = fresh[0]
  const y = fresh[1]
  const z = fresh[2]
  let visible = 1
  let rims = 0
  todo[0] = first
  visits++
  faceMarks[first] = visits
  for (let k = 0; k < visible; k++) {
    const face = todo[k]
    for (let i = 0; i < 3; i++) {
      const other = faceAcross[3 * face + i]
      if (faceMarks[other] === visits) continue
      const at = 4 * other
      if (facePlanes[at] * x + facePlanes[at + 1] * y + facePlanes[at + 2] * z - facePlanes[at + 3] > seen) {
        faceMarks[other] = visits
        todo[visible++] = other
      }
    }
  }
  // The rim, once all is known that goes.
  for (let k = 0; k < visible; k++) {
    const face = todo[k]
    for (let i = 0; i < 3; i++) {
      const other = faceAcross[3 * face + i]
      if (faceMarks[other] === visits) continue
      const from = faceCorners[3 * face + i]
      // A rim that comes twice to a corner bounds no single patch.
      if (startMarks[from] === visits) return false
      startMarks[from] = visits
      rim[3 * rims] = from
      rim[3 * rims + 1] = faceCorners[3 * face + (i === 2 ? 0 : i + 1)]
      rim[3 * rims + 2] = other
      rims++
    }
  }
  if (rims < 3 || faceCount - freeCount - visible + rims > MAX_FACES) return false
  for (let k = 0; k < visible; k++) {
    facePlanes[4 * todo[k] + 3] = GONE
    free[freeCount++] = todo[k]
  }
  const corner = cornerCount
  addCorner()
  for (let k = 0; k < rims; k++) {
    const from = rim[3 * k]
    const to = rim[3 * k + 1]
    const other = rim[3 * k + 2]
    const face = addFace(from, to, corner)
    faceAcross[3 * face] = other
    for (let i = 0; i < 3; i++) if (faceCorners[3 * other + i] === to) faceAcross[3 * other + i] = face
    startFaces[from] = face
  }
  for (let k = 0; k < rims; k++) {
    const face = startFaces[rim[3 * k]]
    const next = startFaces[rim[3 * k + 1]]
    faceAcross[3 * face + 1] = next
    faceAcross[3 * next + 2] = face
  }
  return true
}

/** Writes a face as the way out: where the origin's foot lies on it are the points. */
function answer(face: number, reach: number, out: Float64Array): void {
  for (let i = 0; i < 3; i++) out[DEPTH_NORMAL + i] = dir[i]
  out[DEPTH] = reach
  const i = 3 * faceCorners[3 * face]
  const j = 3 * faceCorners[3 * face + 1]
  const k = 3 * faceCorners[3 * face + 2]
  const d = facePlanes[4 * face + 3]
  const fx = dir[0] * d
  const fy = dir[1] * d
  const fz = dir[2] * d
  // Weights by areas, each kept from below 0.
  let u = part(j, k, fx, fy, fz)
  let w = part(k, i, fx, fy, fz)
  let t = part(i, j, fx, fy, fz)
  if (u < 0) u = 0
  if (w < 0) w = 0
  if (t < 0) t = 0
  const sum = u + w + t
  const own = sum > 0 ? 1 / sum : 0
  if (sum <= 0) u = w = t = 1 / 3
  else {
    u *= own
    w *= own
    t *= own
  }
  for (let axis = 0; axis < 3; axis++) {
    out[DEPTH_A + axis] = u * onA[i + axis] + w * onA[j + axis] + t * onA[k + axis]
    out[DEPTH_B + axis] = u * onB[i + axis] + w * onB[j + axis] + t * onB[k + axis]
  }
}

/** Twice the area of the triangle of two corners and a point, as seen along `dir`. */
function part(i: number, k: number, x: number, y: number, z: number): number {
  const ex = corners[i] - x
  const ey = corners[i + 1] - y
  const ez = corners[i + 2] - z
  const fx = corners[k] - x
  const fy = corners[k + 1] - y
  const fz = corners[k + 2] - z
  return dir[0] * (ey * fz - ez * fy) + dir[1] * (ez * fx - ex * fz) + dir[2] * (ex * fy - ey * fx)
}

/** The difference has no volume and holds the origin: the way out is across it, and of no length. */
function answerFlat(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  if (cornerCount < 3) {
    // A point or a line: any direction across it.
    normal.fill(0)
    if (cornerCount < 2) normal[1] = 1
    else {
      acrossEdge()
      const length = Math.sqrt(normal[0] * normal[0] + normal[1] * normal[1] + normal[2] * normal[2])
      for (let i = 0; i < 3; i++) normal[i] /= length
    }
  }
  for (let i = 0; i < 3; i++) dir[i] = normal[i]
  let reach = farthest(p, a, q, b, shift)
  for (let i = 0; i < 3; i++) dir[i] = -normal[i]
  const other = farthest(p, a, q, b, shift)
  const turned = other < reach
  if (turned) reach = other
  for (let i = 0; i < 3; i++) {
    dir[i] = turned ? -normal[i] : normal[i]
    out[DEPTH_NORMAL + i] = dir[i]
  }
  out[DEPTH] = reach
  // Where they cross: the weights of the simplex that held the origin.
  blendOrigin(out)
}

/** The points of A and B that the simplex puts at the origin. */
function blendOrigin(out: Float64Array): void {
  const { count } = simplex
  let sum = 0
  for (let k = 0; k < count; k++) sum += WEIGHTS[k]
  for (let axis = 0; axis < 3; axis++) {
    let sumA = 0
    let sumB = 0
    for (let k = 0; k < count; k++) {
      const weight = sum > 0 ? WEIGHTS[k] : 1 / count
      sumA += weight * WA[3 * k + axis]
      sumB += weight * WB[3 * k + axis]
    }
    out[DEPTH_A + axis] = sumA
    out[DEPTH_B + axis] = sumB
  }
}
