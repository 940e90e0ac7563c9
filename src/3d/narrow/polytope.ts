/**
 * A polytope within the difference of two convex cores: its corners, its faces with what lies across their edges, and how it
 * grows by one more corner. What it is grown for, `depth.ts` knows.
 */
import { simplex, W, WA, WB } from './nearest.ts'
import { support } from './support.ts'

export const MAX_CORNERS = 128
export const MAX_FACES = 512
/** Part of the size of all that counts as no extent. */
const FLAT = 1e-12
/** A corner sees a face that it lies above by more than this: well beyond rounding, for one that lies in its plane must not. */
const SEEN = 2e-13
/** The distance of a face that is no more: it is never the nearest, and nothing sees it. */
const GONE = Infinity

/** How many corners there are, and faces: slots in use or free. */
export const polytope = { corners: 0, faces: 0 }
/** The corners, and the points of the two cores that they are the difference of. */
export const corners = new Float64Array(3 * MAX_CORNERS)
export const onA = new Float64Array(3 * MAX_CORNERS)
export const onB = new Float64Array(3 * MAX_CORNERS)
export const faceCorners = new Int32Array(3 * MAX_FACES)
/** Unit normal outward, and distance from the origin. */
export const facePlanes = new Float64Array(4 * MAX_FACES)
/** The direction that is asked, and the farthest point along it: on the difference, on A, on B. */
export const dir = new Float64Array(3)
const fresh = new Float64Array(9)
// Numbers that would be boxed, if calls took and returned them:
/** The size of all. */
export const extent = new Float64Array(1)
/** How far the farthest point lies along `dir`. */
export const reach = new Float64Array(1)
/** What was measured last. */
const measured = new Float64Array(1)

/** The face across each edge, from corner i to i + 1. */
const faceAcross = new Int32Array(3 * MAX_FACES)
const faceMarks = new Int32Array(MAX_FACES)
const free = new Int32Array(MAX_FACES)
let freeCount = 0
/** Marks are the number of a visit. */
let visits = 0
const todo = new Int32Array(MAX_FACES)
/** From, to, and the face beyond, of each edge of the rim. */
const rim = new Int32Array(3 * MAX_FACES)
const startMarks = new Int32Array(MAX_CORNERS)
const startFaces = new Int32Array(MAX_CORNERS)
/** The tetrahedron that it began with. */
const firstCorners = new Float64Array(12)
const firstOnA = new Float64Array(12)
const firstOnB = new Float64Array(12)

/**
 * Begins with the simplex that `nearest` left, or with a tetrahedron of far corners. Reads the size of all from `extent`. False when the
 * difference has no volume: then there are the corners of a triangle, a line or a point.
 */
export function begin(p: Float64Array, a: number, q: Float64Array, b: number, shift: Float64Array): boolean {
  polytope.corners = simplex.count
  for (let i = 0; i < 3 * simplex.count; i++) {
    corners[i] = W[i]
    onA[i] = WA[i]
    onB[i] = WB[i]
  }
  if (!spanSpace(p, a, q, b, shift)) return false
  for (let i = 0; i < 12; i++) {
    firstCorners[i] = corners[i]
    firstOnA[i] = onA[i]
    firstOnB[i] = onB[i]
  }
  addFirstFaces()
  return true
}

/** Begins again, with the tetrahedron that it began with. */
export function beginAgain(): void {
  for (let i = 0; i < 12; i++) {
    corners[i] = firstCorners[i]
    onA[i] = firstOnA[i]
    onB[i] = firstOnB[i]
  }
  addFirstFaces()
}

function addFirstFaces(): void {
  polytope.corners = 4
  polytope.faces = 0
  freeCount = 0
  addFace(0, 1, 2)
  addFace(0, 3, 1)
  addFace(1, 3, 2)
  addFace(2, 3, 0)
  for (let i = 0; i < 12; i++) faceAcross[i] = FIRST_ACROSS[i]
}

/** What lies across the edges of the tetrahedron's faces. */
const FIRST_ACROSS = [1, 2, 3, 3, 2, 0, 1, 3, 0, 2, 1, 0]

/** Finds the farthest point of the difference along `dir`; how far it lies is in {@link reach}. */
export function farthest(p: Float64Array, a: number, q: Float64Array, b: number, shift: Float64Array): void {
  support(p, a, dir, 1, fresh, 3, 0)
  support(q, b, dir, -1, fresh, 6, 1)
  for (let i = 0; i < 3; i++) {
    fresh[3 + i] += shift[i]
    fresh[i] = fresh[3 + i] - fresh[6 + i]
  }
  reach[0] = dir[0] * fresh[0] + dir[1] * fresh[1] + dir[2] * fresh[2]
}

function addCorner(): void {
  for (let i = 0; i < 3; i++) {
    corners[3 * polytope.corners + i] = fresh[i]
    onA[3 * polytope.corners + i] = fresh[3 + i]
    onB[3 * polytope.corners + i] = fresh[6 + i]
  }
  polytope.corners++
}

const edge = new Float64Array(3)
const normal = new Float64Array(3)

/** Brings the simplex to four corners that span space, so turned that the faces face outward. False when there is no volume. */
function spanSpace(p: Float64Array, a: number, q: Float64Array, b: number, shift: Float64Array): boolean {
  const flat = FLAT * extent[0]
  if (polytope.corners === 4) {
    measureVolume()
    const volume = Math.abs(measured[0])
    if (volume !== 0) {
      measureLongest()
      if (volume > flat * measured[0] * measured[0]) {
        turnOut()
        return true
      }
    }
  }
  // Anew, from the first corner: the farthest from it, from the line, from the plane.
  if (polytope.corners === 0) {
    dir[0] = 1
    dir[1] = 0
    dir[2] = 0
    farthest(p, a, q, b, shift)
    addCorner()
  }
  polytope.corners = 1
  let most = flat
  for (let i = 0; i < 6; i++) {
    dir[0] = dir[1] = dir[2] = 0
    dir[i >> 1] = (i & 1) === 0 ? 1 : -1
    farthest(p, a, q, b, shift)
    const x = fresh[0] - corners[0]
    const y = fresh[1] - corners[1]
    const z = fresh[2] - corners[2]
    const apart = Math.sqrt(x * x + y * y + z * z)
    if (apart <= most) continue
    most = apart
    polytope.corners = 1
    addCorner()
  }
  if (polytope.corners < 2) return false
  for (let i = 0; i < 3; i++) edge[i] = (corners[3 + i] - corners[i]) / most
  // Two directions across the line, and back.
  acrossEdge()
  most = flat
  for (let i = 0; i < 4; i++) {
    if (i === 2) cross(edge, normal, normal)
    for (let k = 0; k < 3; k++) dir[k] = (i & 1) === 0 ? normal[k] : -normal[k]
    farthest(p, a, q, b, shift)
    measureOffLine()
    if (measured[0] <= most) continue
    most = measured[0]
    polytope.corners = 2
    addCorner()
  }
  if (polytope.corners < 3) return false
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
    polytope.corners = 3
    addCorner()
  }
  if (polytope.corners < 4) return false
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

/** Writes a unit direction across the corners of a difference without volume into `dir`. */
export function acrossCorners(): void {
  if (polytope.corners < 3) {
    // A point or a line: any direction across it.
    normal.fill(0)
    if (polytope.corners < 2) normal[1] = 1
    else {
      acrossEdge()
      const length = Math.sqrt(normal[0] * normal[0] + normal[1] * normal[1] + normal[2] * normal[2])
      for (let i = 0; i < 3; i++) normal[i] /= length
    }
  }
  for (let i = 0; i < 3; i++) dir[i] = normal[i]
}

/** The longest edge from the first of four corners. */
function measureLongest(): void {
  let most = 0
  for (let k = 1; k < 4; k++) {
    let square = 0
    for (let i = 0; i < 3; i++) square += (corners[3 * k + i] - corners[i]) * (corners[3 * k + i] - corners[i])
    if (square > most) most = square
  }
  measured[0] = Math.sqrt(most)
}

/** How far `fresh` lies off the line through the first two corners. */
function measureOffLine(): void {
  const x = fresh[0] - corners[0]
  const y = fresh[1] - corners[1]
  const z = fresh[2] - corners[2]
  const along = x * edge[0] + y * edge[1] + z * edge[2]
  const rx = x - along * edge[0]
  const ry = y - along * edge[1]
  const rz = z - along * edge[2]
  measured[0] = Math.sqrt(rx * rx + ry * ry + rz * rz)
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
function measureVolume(): void {
  const ex = corners[3] - corners[0]
  const ey = corners[4] - corners[1]
  const ez = corners[5] - corners[2]
  const fx = corners[6] - corners[0]
  const fy = corners[7] - corners[1]
  const fz = corners[8] - corners[2]
  const gx = corners[9] - corners[0]
  const gy = corners[10] - corners[1]
  const gz = corners[11] - corners[2]
  measured[0] = gx * (ey * fz - ez * fy) + gy * (ez * fx - ex * fz) + gz * (ex * fy - ey * fx)
}

/** Lets the fourth corner lie below the first three. */
function turnOut(): void {
  measureVolume()
  if (measured[0] < 0) return
  swapMiddle(corners)
  swapMiddle(onA)
  swapMiddle(onB)
}

/** Lets the second and the third of four points change places. */
function swapMiddle(points: Float64Array): void {
  for (let i = 3; i < 6; i++) {
    const kept = points[i]
    points[i] = points[3 + i]
    points[3 + i] = kept
  }
}

function addFace(i: number, j: number, k: number): number {
  const face = freeCount > 0 ? free[--freeCount] : polytope.faces++
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

/**
 * The face nearest to the origin, among those whose normal is within an angle of a direction; -1 when there is none.
 * @param cos cosine of the angle; -2 for all faces
 */
export function nearestFace(about: Float64Array, cos: number): number {
  let best = -1
  let least = GONE
  for (let face = 0; face < polytope.faces; face++) {
    const at = 4 * face
    const distance = facePlanes[at + 3]
    if (distance >= least) continue
    if (facePlanes[at] * about[0] + facePlanes[at + 1] * about[1] + facePlanes[at + 2] * about[2] < cos) continue
    least = distance
    best = face
  }
  return best
}

/** The face that `fresh` lies farthest above; -1 when it lies in the polytope. */
export function faceBelow(): number {
  let best = -1
  let most = 0
  for (let face = 0; face < polytope.faces; face++) {
    const at = 4 * face
    const above =
      facePlanes[at] * fresh[0] + facePlanes[at + 1] * fresh[1] + facePlanes[at + 2] * fresh[2] - facePlanes[at + 3]
    if (above <= most) continue
    most = above
    best = face
  }
  return best
}

/**
 * Takes `fresh` in as a corner: the faces that it sees, as far as they hang together with the one it was found by, give way to
 * new ones from their rim. False when that cannot be, or there is no room: the polytope stays as it is.
 */
export function grow(first: number): boolean {
  if (polytope.corners === MAX_CORNERS) return false
  const seen = SEEN * extent[0]
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
  if (rims < 3 || polytope.faces - freeCount - visible + rims > MAX_FACES) return false
  for (let k = 0; k < visible; k++) {
    facePlanes[4 * todo[k] + 3] = GONE
    free[freeCount++] = todo[k]
  }
  const corner = polytope.corners
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
