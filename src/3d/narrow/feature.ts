/**
 * The feature of a convex core that is turned most along a direction: the face, the edge or the corner with which it presses on what lies
 * there. A face is a polygon, counter-clockwise seen from outside. Of a disc stand twelve corners of its rim, and the one that lies
 * farthest along the direction.
 *
 * Edges have names that do not depend on which of their two faces is asked for, so that the corners between them keep theirs, too.
 */
import type * as places from '../../core/util/places.ts'
import type * as layout from '../shapes/layout.ts'

const PLACE: typeof places.PLACE = 0x3fffffff

const BODY: typeof layout.BODY = 4
const POINT_COUNT: typeof layout.POINT_COUNT = 1
const FACE_COUNT: typeof layout.FACE_COUNT = 2
const BOX: typeof layout.BOX = 1
const CYLINDER: typeof layout.CYLINDER = 2
const CONE: typeof layout.CONE = 3
const TRIANGLE: typeof layout.TRIANGLE = 4

/** Corners of the rim of a disc. */
const RIM = 12
/** Part of the size of a hull by which a corner of a face may lie off its plane. */
const IN_PLANE = 1e-9
/** Sine of the angle by which a direction is off an axis, below which no corner of a rim lies farther than the others: then a part of 3e-6. */
const UPRIGHT = 1e-4

/** A polygon, or an edge of two corners, or one corner. */
export class Feature {
  /** x, y, z of each corner. */
  points = new Float64Array(3 * 64)
  /** The name of the edge from each corner to the next. */
  edges = new Int32Array(64)
  count = 0
  /** Unit, out of a face; of an edge or a corner it says nothing. */
  readonly normal = new Float64Array(3)
  /** Cosine between that and the direction; -1 where there is no face. */
  cosine = -1

  /** Makes room for so many corners; what was there stays. */
  reserve(corners: number): void {
    if (corners <= this.edges.length) return
    const points = new Float64Array(6 * corners)
    const edges = new Int32Array(2 * corners)
    points.set(this.points)
    edges.set(this.edges)
    this.points = points
    this.edges = edges
  }

  /** Adds a corner with its edge; returns where in `points` its place is to be written: a call would box three doubles. */
  next(edge: number): number {
    this.reserve(this.count + 1)
    this.edges[this.count] = edge
    return 3 * this.count++
  }

  /** Adds a corner that stands in an array. */
  push(from: Float64Array, place: number, edge: number): void {
    const to = this.next(edge) & PLACE
    const at = place & PLACE
    const { points } = this
    points[to] = from[at]
    points[to + 1] = from[at + 1]
    points[to + 2] = from[at + 2]
  }

  /** Turns the corners round the other way; the normal stays. */
  reverse(): void {
    const { points, edges, count } = this
    for (let i = 0, j = count - 1; i < j; i++, j--) {
      for (let k = 0; k < 3; k++) {
        const held = points[3 * i + k]
        points[3 * i + k] = points[3 * j + k]
        points[3 * j + k] = held
      }
    }
    // The edge from a corner to the next is now the one that led to it: one place earlier, seen the other way.
    for (let i = 0, j = count - 2; i < j; i++, j--) {
      const held = edges[i]
      edges[i] = edges[j]
      edges[j] = held
    }
  }

  /** Whether it has an inside. */
  get isFace(): boolean {
    return this.count > 2
  }
}

/** Writes the feature of a core along a direction (unit; `sign` -1 for the opposite one). */
export function featureOf(p: Float64Array, a: number, dir: Float64Array, sign: number, out: Feature): void {
  out.count = 0
  out.cosine = -1
  const kind = p[a]
  if (kind === BOX) boxFace(p, a + BODY, dir, sign, out)
  else if (kind === CYLINDER) cylinderFeature(p, a + BODY, dir, sign, out)
  else if (kind === CONE) coneFeature(p, a + BODY, dir, sign, out)
  else if (kind === TRIANGLE) triangleFace(p, a + BODY, dir, sign, out)
  else if (p[a + FACE_COUNT] > 0) hullFace(p, a, dir, sign, out)
  else {
    const b = a + BODY
    for (let i = 0; i < p[a + POINT_COUNT]; i++) out.push(p, b + 3 * i, 0)
  }
}

function boxFace(p: Float64Array, place: number, dir: Float64Array, sign: number, out: Feature): void {
  const b = place & PLACE
  const { points, edges } = out
  let axis = 0
  let along = 0
  for (let k = 0; k < 3; k++) {
    const at = b + 3 + 3 * k
    const cosine = sign * (dir[0] * p[at] + dir[1] * p[at + 1] + dir[2] * p[at + 2])
    if (Math.abs(cosine) <= Math.abs(along)) continue
    along = cosine
    axis = k
  }
  const side = along < 0 ? -1 : 1
  const u = (axis + 1) % 3
  const v = (axis + 2) % 3
  const face = faceName(axis, side)
  const halfU = p[b + 12 + u]
  const halfV = p[b + 12 + v]
  const ahead = side * p[b + 12 + axis]
  const atAxis = b + 3 + 3 * axis
  const atU = b + 3 + 3 * u
  const atV = b + 3 + 3 * v
  // Rounded to the last, a box has an edge or a corner there.
  const isFlat = halfU > 0 && halfV > 0
  const count = isFlat ? 4 : halfU > 0 || halfV > 0 ? 2 : 1
  for (let k = 0; k < count; k++) {
    // Two corners that differ: the ends of a diagonal.
    const i = isFlat ? k : 2 * k
    // Around the axis, right-handed: (+, +), (-, +), (-, -), (+, -).
    const su = i === 0 || i === 3 ? 1 : -1
    const sv = i < 2 ? 1 : -1
    // The next edge runs along u or v, on the side where the other one stays.
    const next = i % 2 === 0 ? faceName(v, sv) : faceName(u, su)
    edges[k] = edgeName(face, next)
    const atCorner = (3 * k) & PLACE
    const partU = su * halfU
    const partV = sv * halfV
    points[atCorner] = p[b] + ahead * p[atAxis] + partU * p[atU] + partV * p[atV]
    points[atCorner + 1] = p[b + 1] + ahead * p[atAxis + 1] + partU * p[atU + 1] + partV * p[atV + 1]
    points[atCorner + 2] = p[b + 2] + ahead * p[atAxis + 2] + partU * p[atU + 2] + partV * p[atV + 2]
  }
  out.count = count
  if (!isFlat) return
  for (let k = 0; k < 3; k++) out.normal[k] = side * p[b + 3 + 3 * axis + k]
  out.cosine = Math.abs(along)
  if (side < 0) out.reverse()
}

function faceName(axis: number, side: number): number {
  return 2 * axis + (side < 0 ? 1 : 0)
}

/** The name of what lies between two, whichever comes first. */
function edgeName(one: number, other: number): number {
  return one < other ? (one << 12) | other : (other << 12) | one
}

function triangleFace(p: Float64Array, b: number, dir: Float64Array, sign: number, out: Feature): void {
  for (let i = 0; i < 3; i++) out.push(p, b + 3 * i, edgeName(i, (i + 1) % 3))
  const { normal } = out
  const ux = p[b + 3] - p[b]
  const uy = p[b + 4] - p[b + 1]
  const uz = p[b + 5] - p[b + 2]
  const vx = p[b + 6] - p[b]
  const vy = p[b + 7] - p[b + 1]
  const vz = p[b + 8] - p[b + 2]
  const nx = uy * vz - uz * vy
  const ny = uz * vx - ux * vz
  const nz = ux * vy - uy * vx
  const length = Math.sqrt(nx * nx + ny * ny + nz * nz)
  if (!(length > 0)) {
    // Without area it is an edge.
    out.count = 2
    return
  }
  const along = sign * (nx * dir[0] + ny * dir[1] + nz * dir[2])
  const side = along < 0 ? -1 : 1
  normal[0] = (side * nx) / length
  normal[1] = (side * ny) / length
  normal[2] = (side * nz) / length
  out.cosine = Math.abs(along) / length
  if (side < 0) out.reverse()
}

/** Angles of the corners of a face about its middle, as numbers that grow with them. */
let around = new Float64Array(64)
let corners = new Int32Array(64)
const across = new Float64Array(6)

function hullFace(p: Float64Array, a: number, dir: Float64Array, sign: number, out: Feature): void {
  const count = p[a + POINT_COUNT] | 0
  const b = a + BODY
  const faces = b + 3 * count
  let face = faces
  for (let k = 0; k < p[a + FACE_COUNT]; k++) {
    const at = faces + 4 * k
    const cosine = sign * (dir[0] * p[at] + dir[1] * p[at + 1] + dir[2] * p[at + 2])
    if (cosine <= out.cosine) continue
    out.cosine = cosine
    face = at
  }
  const { normal } = out
  for (let k = 0; k < 3; k++) normal[k] = p[face + k]
  const offset = p[face + 3]
  let size = Math.abs(offset) * 1e-6
  for (let i = 1; i < count; i++) {
    for (let k = 0; k < 3; k++) size = Math.max(size, Math.abs(p[b + 3 * i + k] - p[b + k]))
  }
  if (count > around.length) {
    around = new Float64Array(2 * count)
    corners = new Int32Array(2 * count)
  }
  let found = 0
  let mx = 0
  let my = 0
  let mz = 0
  for (let i = 0; i < count; i++) {
    const at = b + 3 * i
    const height = p[at] * normal[0] + p[at + 1] * normal[1] + p[at + 2] * normal[2] - offset
    if (height < -IN_PLANE * size) continue
    corners[found++] = i
    mx += p[at]
    my += p[at + 1]
    mz += p[at + 2]
  }
  basis(normal, across)
  for (let k = 0; k < found; k++) {
    const at = b + 3 * corners[k]
    const x = p[at] - mx / found
    const y = p[at + 1] - my / found
    const z = p[at + 2] - mz / found
    const u = x * across[0] + y * across[1] + z * across[2]
    const v = x * across[3] + y * across[4] + z * across[5]
    around[k] = turnOf(u, v)
  }
  sortAround(found)
  for (let k = 0; k < found; k++) {
    out.push(p, b + 3 * corners[k], edgeName(corners[k], corners[(k + 1) % found]))
  }
}

/** A number from 0 to 4 that grows with the angle of a direction. */
function turnOf(u: number, v: number): number {
  const sum = Math.abs(u) + Math.abs(v)
  if (!(sum > 0)) return 0
  const part = v / sum
  return u < 0 ? 2 - part : v < 0 ? 4 + part : part
}

/** Sorts the corners of a face by their angles: few, so by insertion. */
function sortAround(count: number): void {
  for (let i = 1; i < count; i++) {
    const angle = around[i]
    const corner = corners[i]
    let k = i
    for (; k > 0 && around[k - 1] > angle; k--) {
      around[k] = around[k - 1]
      corners[k] = corners[k - 1]
    }
    around[k] = angle
    corners[k] = corner
  }
}

/** Writes two unit vectors across a unit one, right-handed with it. */
function basis(n: Float64Array, out: Float64Array): void {
  const x = Math.abs(n[0])
  const y = Math.abs(n[1])
  const z = Math.abs(n[2])
  // Away from the axis of which it has least.
  const ax = x <= y && x <= z ? 1 : 0
  const ay = ax === 0 && y <= z ? 1 : 0
  const az = 1 - ax - ay
  let ux = ay * n[2] - az * n[1]
  let uy = az * n[0] - ax * n[2]
  let uz = ax * n[1] - ay * n[0]
  const length = Math.sqrt(ux * ux + uy * uy + uz * uz)
  ux /= length
  uy /= length
  uz /= length
  out[0] = ux
  out[1] = uy
  out[2] = uz
  out[3] = n[1] * uz - n[2] * uy
  out[4] = n[2] * ux - n[0] * uz
  out[5] = n[0] * uy - n[1] * ux
}

/** The direction across the axis, unit, as it stands after {@link split}; and its cosine. */
const radial = new Float64Array(3)

/** Splits a direction into its part along an axis, which is returned, and the direction across it, in `radial`. */
function split(p: Float64Array, b: number, dir: Float64Array, sign: number): number {
  const along = sign * (dir[0] * p[b + 3] + dir[1] * p[b + 4] + dir[2] * p[b + 5])
  let square = 0
  for (let k = 0; k < 3; k++) {
    radial[k] = sign * dir[k] - along * p[b + 3 + k]
    square += radial[k] * radial[k]
  }
  const length = Math.sqrt(square)
  for (let k = 0; k < 3; k++) radial[k] = length > UPRIGHT ? radial[k] / length : 0
  return along
}

function cylinderFeature(p: Float64Array, b: number, dir: Float64Array, sign: number, out: Feature): void {
  const along = split(p, b, dir, sign)
  const acrossPart = Math.sqrt(Math.max(0, 1 - along * along))
  if (Math.abs(along) >= acrossPart) {
    disc(p, b, along < 0 ? -1 : 1, out)
    out.cosine = Math.abs(along)
    return
  }
  rimPoint(p, b, -1, radial, 0, out)
  rimPoint(p, b, 1, radial, 0, out)
}

function coneFeature(p: Float64Array, b: number, dir: Float64Array, sign: number, out: Feature): void {
  const height = 2 * p[b + 6]
  const width = p[b + 7]
  const along = split(p, b, dir, sign)
  const acrossPart = Math.sqrt(Math.max(0, 1 - along * along))
  const side = (acrossPart * height + along * width) / Math.sqrt(height * height + width * width)
  if (-along >= side) {
    disc(p, b, -1, out)
    out.cosine = -along
    return
  }
  rimPoint(p, b, -1, radial, 0, out)
  const to = out.next(0)
  for (let k = 0; k < 3; k++) out.points[to + k] = p[b + k] + p[b + 6] * p[b + 3 + k]
}

/** The point of the rim at an end of the axis, in a direction across it. */
function rimPoint(p: Float64Array, b: number, end: number, way: Float64Array, edge: number, out: Feature): void {
  const half = end * p[b + 6]
  const width = p[b + 7]
  const to = out.next(edge)
  for (let k = 0; k < 3; k++) out.points[to + k] = p[b + k] + half * p[b + 3 + k] + width * way[k]
}

/** Cosines and sines of the corners of a rim. */
const RIM_TURNS = rimTurns()
const spoke = new Float64Array(3)

/** Twelfths of a turn by halves and roots, so that they are the same bits everywhere. */
function rimTurns(): Float64Array {
  const c = Math.sqrt(3) / 2
  const quarter = [1, 0, c, 0.5, 0.5, c]
  const turns: number[] = []
  for (let q = 0; q < 4; q++) {
    for (let i = 0; i < 3; i++) {
      let x = quarter[2 * i]
      let y = quarter[2 * i + 1]
      for (let k = 0; k < q; k++) [x, y] = [-y, x]
      turns.push(x, y)
    }
  }
  return Float64Array.from(turns)
}

/** The disc at an end of an axis, counter-clockwise seen from beyond that end; with the rim point along `radial`, where there is one. */
function disc(p: Float64Array, b: number, end: number, out: Feature): void {
  const { normal } = out
  for (let k = 0; k < 3; k++) normal[k] = end * p[b + 3 + k]
  basis(normal, across)
  const u = radial[0] * across[0] + radial[1] * across[1] + radial[2] * across[2]
  const v = radial[0] * across[3] + radial[1] * across[4] + radial[2] * across[5]
  const farthest = u === 0 && v === 0 ? -1 : turnOf(u, v)
  let put = farthest < 0
  for (let i = 0; i < RIM; i++) {
    const c = RIM_TURNS[2 * i]
    const s = RIM_TURNS[2 * i + 1]
    const here = turnOf(c, s)
    if (!put && farthest <= here) {
      put = true
      if (farthest < here) rimPoint(p, b, end, radial, RIM, out)
    }
    for (let k = 0; k < 3; k++) spoke[k] = c * across[k] + s * across[3 + k]
    rimPoint(p, b, end, spoke, i, out)
  }
  if (!put) rimPoint(p, b, end, radial, RIM, out)
}
