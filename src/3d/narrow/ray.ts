/**
 * A ray against one piece: closed forms for spheres, capsules, boxes, hulls, cylinders and planes; for cones and rounded boxes
 * steps along the tangent of the distance, which is convex on the way, so that no step goes too far; surfaces by their
 * tree. A start on the surface, to rounding, is a hit only when the motion goes in. What a solid is missed by, or entered, by no
 * more than rounding is a graze, and told as NEAR: `graze.ts` looks closer.
 */

import { IntList } from '../../core/state/table.ts'
import type * as shape from '../shapes/layout.ts'
import {
  raySurface,
  SURFACE_BACK,
  SURFACE_FRACTION,
  SURFACE_NORMAL,
  SURFACE_RAY_SIZE,
  SURFACE_TRIANGLE,
  SURFACE_WEIGHTS,
} from '../surface/ray.ts'
import { boxInto, lineInto, searchSurface, triangleInto } from '../surface/search.ts'
import type { Surface } from '../surface/surface.ts'
import { gap, HERE, roundingOf } from './gap.ts'
import type * as grazes from './graze.ts'
import type * as layout from './records.ts'
import { DISTANCE, GAP_SIZE, NORMAL } from './records.ts'

const BODY: typeof shape.BODY = 4
const POINT_COUNT: typeof shape.POINT_COUNT = 1
const FACE_COUNT: typeof shape.FACE_COUNT = 2
const RADIUS: typeof shape.RADIUS = 3
const POINTS: typeof shape.POINTS = 0
const BOX: typeof shape.BOX = 1
const CYLINDER: typeof shape.CYLINDER = 2
const PLANE: typeof shape.PLANE = 5
const SURFACE: typeof shape.SURFACE = 6
const ROUNDING: typeof grazes.ROUNDING = 4.5e-16
const NEAR: typeof layout.NEAR = -1
const MISS: typeof layout.MISS = 0
const HIT: typeof layout.HIT = 1
const INSIDE: typeof layout.INSIDE = 2
const FRACTION: typeof layout.FRACTION = 0
const RAY_NORMAL: typeof layout.RAY_NORMAL = 1
const RAY_TRIANGLE: typeof layout.RAY_TRIANGLE = 4
const RAY_WEIGHTS: typeof layout.RAY_WEIGHTS = 5
const RAY_BACK: typeof layout.RAY_BACK = 8

/** Part of the square of a motion below which what leads off an axis is none: over the whole way it is less than rounding. */
const ALONG = 1e-36
/** The square of how much, as a part of the distance, a line may come into a circle that it only grazes, twice. */
const GRAZE = 4e-31

const point = new Float64Array(7)
point[POINT_COUNT] = 1
const record = new Float64Array(GAP_SIZE)
const shift = new Float64Array(3)
const own = new Float64Array(6)
const surfaceHit = new Float64Array(SURFACE_RAY_SIZE)
const triangle = new Float64Array(13)
const box = new Float64Array(6)
const found = new IntList()

/**
 * @param line start and motion, six numbers
 * @param surface the triangles of a surface; null for other pieces
 * @param out a ray's record; it is read first: beyond its fraction nothing counts
 * @returns NEAR, MISS, HIT or INSIDE
 */
export function rayAgainst(
  p: Float64Array,
  a: number,
  surface: Surface | null,
  line: Float64Array,
  out: Float64Array,
): number {
  const kind = p[a]
  if (kind === SURFACE) return rayTriangles(p, a, surface!, line, out)
  out[RAY_TRIANGLE] = -1
  out[RAY_WEIGHTS] = out[RAY_WEIGHTS + 1] = out[RAY_WEIGHTS + 2] = 0
  out[RAY_BACK] = 0
  if (line[3] === 0 && line[4] === 0 && line[5] === 0) return pointAgainst(p, a, line, out)
  if (kind === POINTS) {
    if (p[a + FACE_COUNT] > 0) return rayHull(p, a, line, out)
    return p[a + POINT_COUNT] === 1 ? raySphere(p, a, line, out) : rayCapsule(p, a, line, out)
  }
  if (kind === BOX && p[a + RADIUS] === 0) return rayBox(p, a, line, out)
  if (kind === CYLINDER) return rayCylinder(p, a, line, out)
  if (kind === PLANE) return rayPlane(p, a, line, out)
  return raySteps(p, a, line, out)
}

/** The start lies inside: a hit at once, against the motion. */
function inside(line: Float64Array, out: Float64Array): number {
  out[FRACTION] = 0
  const length = Math.sqrt(line[3] * line[3] + line[4] * line[4] + line[5] * line[5])
  for (let i = 0; i < 3; i++) out[RAY_NORMAL + i] = -line[3 + i] / length
  return INSIDE
}

function pointAgainst(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  for (let i = 0; i < 3; i++) point[BODY + i] = line[i]
  gap(point, 0, p, a, HERE, record)
  if (record[DISTANCE] > 0) return MISS
  out[FRACTION] = 0
  for (let i = 0; i < 3; i++) out[RAY_NORMAL + i] = -record[NORMAL + i]
  return record[DISTANCE] < 0 ? INSIDE : HIT
}

function rayPlane(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const nx = p[a + BODY + 1]
  const ny = p[a + BODY + 2]
  const nz = p[a + BODY + 3]
  const away = line[0] * nx + line[1] * ny + line[2] * nz - p[a + BODY]
  const slack =
    ROUNDING * (Math.abs(line[0] * nx) + Math.abs(line[1] * ny) + Math.abs(line[2] * nz) + Math.abs(p[a + BODY]))
  if (away < -slack) return inside(line, out)
  const speed = line[3] * nx + line[4] * ny + line[5] * nz
  const still = ROUNDING * (Math.abs(line[3] * nx) + Math.abs(line[4] * ny) + Math.abs(line[5] * nz))
  if (speed >= 0 || (away <= slack && speed >= -still)) return away <= slack ? NEAR : MISS
  const t = away > slack ? -away / speed : 0
  if (t > out[FRACTION]) return MISS
  out[FRACTION] = t + 0
  out[RAY_NORMAL] = nx
  out[RAY_NORMAL + 1] = ny
  out[RAY_NORMAL + 2] = nz
  return HIT
}

/** How near to a graze, as a part of what is compared, a line that misses something round is told as near. */
const NEARLY = 1e-13

/** Lengths by which a ray's start, and a point with a size about it, may be wrong together. */
function slackOf(line: Float64Array, p: Float64Array, at: number, size: number): number {
  return (
    ROUNDING *
    (Math.abs(line[0]) +
      Math.abs(line[1]) +
      Math.abs(line[2]) +
      Math.abs(p[at]) +
      Math.abs(p[at + 1]) +
      Math.abs(p[at + 2]) +
      size)
  )
}

function raySphere(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const r = p[a + RADIUS]
  const dx = line[3]
  const dy = line[4]
  const dz = line[5]
  const fx = line[0] - p[a + BODY]
  const fy = line[1] - p[a + BODY + 1]
  const fz = line[2] - p[a + BODY + 2]
  const beyond = fx * fx + fy * fy + fz * fz - r * r
  // The square of the distance is wrong by twice the radius times what the place is wrong by.
  const slack = 2 * r * slackOf(line, p, a + BODY, r)
  if (beyond < -slack) return inside(line, out)
  const along = fx * dx + fy * dy + fz * dz
  if (along >= 0) return MISS
  // The distance of the line, by the cross product: b^2 - ac would lose all digits far away.
  const cx = fy * dz - fz * dy
  const cy = fz * dx - fx * dz
  const cz = fx * dy - fy * dx
  const square = dx * dx + dy * dy + dz * dz
  const root = square * r * r - (cx * cx + cy * cy + cz * cz)
  if (root <= 0) return -root <= NEARLY * square * r * r ? NEAR : MISS
  if (root * root <= GRAZE * square * square * r * r * (fx * fx + fy * fy + fz * fz)) return NEAR
  const t = beyond <= slack ? 0 : beyond / (-along + Math.sqrt(root))
  if (!(t <= out[FRACTION])) return MISS
  out[FRACTION] = t
  const x = fx + t * dx
  const y = fy + t * dy
  const z = fz + t * dz
  const length = Math.sqrt(x * x + y * y + z * z)
  out[RAY_NORMAL] = x / length
  out[RAY_NORMAL + 1] = y / length
  out[RAY_NORMAL + 2] = z / length
  return HIT
}

/** Of a start: MISS where it is outside and to be followed, else the answer. */
const GO_ON = -1

/** Looks at the start of a ray by its distance: inside, on the surface, or to be gone on with. */
function startOf(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  for (let i = 0; i < 3; i++) point[BODY + i] = line[i]
  gap(point, 0, p, a, HERE, record)
  const distance = record[DISTANCE]
  const slack = slackOf(line, p, a + BODY, p[a + RADIUS])
  if (distance > slack) return GO_ON
  if (distance < -slack) return inside(line, out)
  // The normal leads from the point into the shape.
  const into = record[NORMAL] * line[3] + record[NORMAL + 1] * line[4] + record[NORMAL + 2] * line[5]
  if (into <= 4 * ROUNDING * (Math.abs(line[3]) + Math.abs(line[4]) + Math.abs(line[5]))) return NEAR
  out[FRACTION] = 0
  for (let i = 0; i < 3; i++) out[RAY_NORMAL + i] = -record[NORMAL + i]
  return HIT
}

function rayCapsule(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const start = startOf(p, a, line, out)
  if (start !== GO_ON) return start
  const r = p[a + RADIUS]
  const dx = line[3]
  const dy = line[4]
  const dz = line[5]
  const square = dx * dx + dy * dy + dz * dz
  let best = Infinity
  let near = false
  let nx = 0
  let ny = 0
  let nz = 0
  // The two ends.
  for (let end = 0; end < 6; end += 3) {
    const fx = line[0] - p[a + BODY + end]
    const fy = line[1] - p[a + BODY + end + 1]
    const fz = line[2] - p[a + BODY + end + 2]
    const along = fx * dx + fy * dy + fz * dz
    const beyond = fx * fx + fy * fy + fz * fz - r * r
    if (along >= 0 || beyond < 0) continue
    const cx = fy * dz - fz * dy
    const cy = fz * dx - fx * dz
    const cz = fx * dy - fy * dx
    const root = square * r * r - (cx * cx + cy * cy + cz * cz)
    if (Math.abs(root) <= NEARLY * square * r * r) near = true
    if (root <= 0 || root * root <= GRAZE * square * square * r * r * (fx * fx + fy * fy + fz * fz)) continue
    const t = beyond / (-along + Math.sqrt(root))
    if (t >= best) continue
    best = t
    nx = fx + t * dx
    ny = fy + t * dy
    nz = fz + t * dz
  }
  // The side, between them.
  const ex = p[a + BODY + 3] - p[a + BODY]
  const ey = p[a + BODY + 4] - p[a + BODY + 1]
  const ez = p[a + BODY + 5] - p[a + BODY + 2]
  const length = Math.sqrt(ex * ex + ey * ey + ez * ez)
  const ux = ex / length
  const uy = ey / length
  const uz = ez / length
  const fx = line[0] - p[a + BODY]
  const fy = line[1] - p[a + BODY + 1]
  const fz = line[2] - p[a + BODY + 2]
  const up = fx * ux + fy * uy + fz * uz
  const climb = dx * ux + dy * uy + dz * uz
  const gx = fx - up * ux
  const gy = fy - up * uy
  const gz = fz - up * uz
  const hx = dx - climb * ux
  const hy = dy - climb * uy
  const hz = dz - climb * uz
  const across = hx * hx + hy * hy + hz * hz
  const along = gx * hx + gy * hy + gz * hz
  const beyond = gx * gx + gy * gy + gz * gz - r * r
  if (Math.abs(beyond) <= NEARLY * r * r && across <= NEARLY * square) near = true
  if (across > ALONG * square && along < 0 && beyond >= 0) {
    const cx = gy * hz - gz * hy
    const cy = gz * hx - gx * hz
    const cz = gx * hy - gy * hx
    const root = across * r * r - (cx * cx + cy * cy + cz * cz)
    if (Math.abs(root) <= NEARLY * across * r * r) near = true
    if (root > 0 && root * root > GRAZE * across * across * r * r * (fx * fx + fy * fy + fz * fz)) {
      const t = beyond / (-along + Math.sqrt(root))
      const height = up + t * climb
      if (t < best && height >= 0 && height <= length) {
        best = t
        nx = gx + t * hx
        ny = gy + t * hy
        nz = gz + t * hz
      }
    }
  }
  if (best === Infinity) return near ? NEAR : MISS
  if (!(best <= out[FRACTION])) return MISS
  out[FRACTION] = best
  const size = Math.sqrt(nx * nx + ny * ny + nz * nz)
  out[RAY_NORMAL] = nx / size
  out[RAY_NORMAL + 1] = ny / size
  out[RAY_NORMAL + 2] = nz / size
  return HIT
}

/**
 * A box is three slabs: it is entered with the last of them, unless one was left before. Each is also taken as thinner and as wider by
 * rounding: what goes through all of the wider but not of the thinner only grazes the box.
 */
function rayBox(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const b = a + BODY
  const x = line[0] - p[b]
  const y = line[1] - p[b + 1]
  const z = line[2] - p[b + 2]
  const slack = slackOf(line, p, b, p[b + 12] + p[b + 13] + p[b + 14])
  let enter = -Infinity
  let earliest = -Infinity
  let surely = -Infinity
  let exit = Infinity
  let latest = Infinity
  let axis = 0
  let side = 1
  for (let i = 0; i < 3; i++) {
    const ux = p[b + 3 + 3 * i]
    const uy = p[b + 4 + 3 * i]
    const uz = p[b + 5 + 3 * i]
    const half = p[b + 12 + i]
    let at = x * ux + y * uy + z * uz
    let speed = line[3] * ux + line[4] * uy + line[5] * uz
    let met = -1
    if (speed < 0) {
      speed = -speed
      at = -at
      met = 1
    }
    // Measured from the face that is met first, so that a start on it is exactly 0.
    const first = -half - at
    const last = half - at
    if (speed === 0) {
      if (first > slack || last < -slack) return MISS
      if (first >= -slack || last <= slack) surely = Infinity
      continue
    }
    const per = 1 / speed
    if (last + slack <= 0) return MISS
    if (first * per > enter) {
      enter = first * per
      axis = i
      side = met
    }
    if ((first - slack) * per > earliest) earliest = (first - slack) * per
    if ((first + slack) * per > surely) surely = (first + slack) * per
    if ((last - slack) * per < exit) exit = (last - slack) * per
    if ((last + slack) * per < latest) latest = (last + slack) * per
  }
  if (surely > exit) return earliest <= latest ? NEAR : MISS
  if (exit <= 0) return MISS
  if (surely < 0) return inside(line, out)
  // A start on a face, to rounding, is on it.
  if (earliest <= 0) enter = 0
  if (enter > out[FRACTION]) return MISS
  out[FRACTION] = enter
  out[RAY_NORMAL] = side * p[b + 3 + 3 * axis]
  out[RAY_NORMAL + 1] = side * p[b + 4 + 3 * axis]
  out[RAY_NORMAL + 2] = side * p[b + 5 + 3 * axis]
  return HIT
}

/**
 * A hull is entered through the last of the planes that face the motion, unless another was left before (Cyrus and Beck, 1978). As with
 * a box, each plane is also taken as farther in and farther out by rounding.
 */
function rayHull(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const x = line[0]
  const y = line[1]
  const z = line[2]
  const dx = line[3]
  const dy = line[4]
  const dz = line[5]
  const first = a + BODY + 3 * p[a + POINT_COUNT]
  const end = first + 4 * p[a + FACE_COUNT]
  // By where two of its corners are, so that one in the origin does not stand for all.
  const last = first - 3
  const size = Math.abs(p[last]) + Math.abs(p[last + 1]) + Math.abs(p[last + 2])
  const slack = slackOf(line, p, a + BODY, size)
  let enter = -Infinity
  let earliest = -Infinity
  let surely = -Infinity
  let exit = Infinity
  let latest = Infinity
  let face = first
  for (let at = first; at < end; at += 4) {
    const nx = p[at]
    const ny = p[at + 1]
    const nz = p[at + 2]
    const away = x * nx + y * ny + z * nz - p[at + 3]
    const speed = dx * nx + dy * ny + dz * nz
    if (speed >= 0) {
      if (away > slack) return MISS
      if (speed === 0) {
        if (away >= -slack) surely = Infinity
        continue
      }
      // Compared without a division first: most faces are left later.
      if (-away - slack < exit * speed) exit = (-away - slack) / speed
      if (slack - away < latest * speed) latest = (slack - away) / speed
    } else {
      const t = -away / speed
      const rough = -slack / speed
      if (t > enter) {
        enter = t
        face = at
      }
      if (t - rough > earliest) earliest = t - rough
      if (t + rough > surely) surely = t + rough
    }
  }
  if (surely > exit) return earliest <= latest ? NEAR : MISS
  if (exit <= 0) return MISS
  if (surely < 0) return inside(line, out)
  if (earliest <= 0) enter = 0
  if (enter > out[FRACTION]) return MISS
  out[FRACTION] = enter
  out[RAY_NORMAL] = p[face]
  out[RAY_NORMAL + 1] = p[face + 1]
  out[RAY_NORMAL + 2] = p[face + 2]
  return HIT
}

function rayCylinder(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const b = a + BODY
  const ux = p[b + 3]
  const uy = p[b + 4]
  const uz = p[b + 5]
  const hh = p[b + 6]
  const r = p[b + 7]
  const fx = line[0] - p[b]
  const fy = line[1] - p[b + 1]
  const fz = line[2] - p[b + 2]
  const up = fx * ux + fy * uy + fz * uz
  const climb = line[3] * ux + line[4] * uy + line[5] * uz
  let enter = -Infinity
  let exit = Infinity
  const slack = slackOf(line, p, b, hh + r)
  const slackSquare = 2 * r * slack
  const still = ROUNDING * (Math.abs(line[3] * ux) + Math.abs(line[4] * uy) + Math.abs(line[5] * uz))
  let near = false
  if (climb <= still && climb >= -still) {
    const out = (up < 0 ? -up : up) - hh
    if (out > slack) return MISS
    near = out >= -slack
  } else {
    // A start on a disc, to rounding, is on it.
    const first = climb > 0 ? -hh - up : hh - up
    const last = climb > 0 ? hh - up : -hh - up
    enter = first <= slack && first >= -slack ? 0 : first / climb
    exit = last <= slack && last >= -slack ? 0 : last / climb
    if (exit <= 0) return MISS
  }
  const gx = fx - up * ux
  const gy = fy - up * uy
  const gz = fz - up * uz
  const hx = line[3] - climb * ux
  const hy = line[4] - climb * uy
  const hz = line[5] - climb * uz
  const across = hx * hx + hy * hy + hz * hz
  const along = gx * hx + gy * hy + gz * hz
  const beyond = gx * gx + gy * gy + gz * gz - r * r
  let round = false
  if (across <= ALONG * climb * climb) {
    if (beyond > slackSquare) return MISS
    if (beyond >= -slackSquare) near = true
  } else {
    if (beyond > slackSquare && along >= 0) return MISS
    const cx = gy * hz - gz * hy
    const cy = gz * hx - gx * hz
    const cz = gx * hy - gy * hx
    const root = across * r * r - (cx * cx + cy * cy + cz * cz)
    if (root <= 0) return -root <= NEARLY * across * r * r ? NEAR : MISS
    if (root * root <= GRAZE * across * across * r * r * (fx * fx + fy * fy + fz * fz)) return NEAR
    if (beyond >= -slackSquare && along >= 0) return MISS
    const on = beyond >= -slackSquare ? 0 : -Infinity
    const t = beyond > slackSquare ? beyond / (-along + Math.sqrt(root)) : on
    const last = (-along + Math.sqrt(root)) / across
    if (t > enter) {
      enter = t
      round = true
    }
    if (last < exit) exit = last
  }
  if (near) return NEAR
  if (enter > exit) return MISS
  if (enter < 0) return inside(line, out)
  if (enter > out[FRACTION]) return MISS
  out[FRACTION] = enter + 0
  if (!round) {
    const side = climb > 0 ? -1 : 1
    out[RAY_NORMAL] = side * ux
    out[RAY_NORMAL + 1] = side * uy
    out[RAY_NORMAL + 2] = side * uz
    return HIT
  }
  const x = gx + enter * hx
  const y = gy + enter * hy
  const z = gz + enter * hz
  const length = Math.sqrt(x * x + y * y + z * z)
  out[RAY_NORMAL] = x / length
  out[RAY_NORMAL + 1] = y / length
  out[RAY_NORMAL + 2] = z / length
  return HIT
}

/** Steps after which a ray that keeps very near is taken to graze. */
const MANY_STEPS = 200

/**
 * By steps: the distance of a point that moves straight from a convex shape is a convex function of the way, so where its
 * tangent comes to zero the point is still outside or on the surface (Newton's method, from one side).
 */
function raySteps(p: Float64Array, a: number, line: Float64Array, out: Float64Array): number {
  const start = startOf(p, a, line, out)
  if (start !== GO_ON) return start
  const limit = out[FRACTION]
  let t = 0
  for (let step = 0; step < MANY_STEPS; step++) {
    const closing = record[NORMAL] * line[3] + record[NORMAL + 1] * line[4] + record[NORMAL + 2] * line[5]
    if (closing <= 0) return record[DISTANCE] <= 2 * slackOf(line, p, a + BODY, p[a + RADIUS]) ? NEAR : MISS
    const further = t + record[DISTANCE] / closing
    if (further > limit) return MISS
    if (further === t) break
    t = further
    for (let i = 0; i < 3; i++) shift[i] = t * line[3 + i]
    // The normal of the last place outside stays where rounding has carried the point in.
    const x = record[NORMAL]
    const y = record[NORMAL + 1]
    const z = record[NORMAL + 2]
    gap(point, 0, p, a, shift, record)
    if (record[DISTANCE] > roundingOf(point, 0, p, a, shift, record)) continue
    record[NORMAL] = x
    record[NORMAL + 1] = y
    record[NORMAL + 2] = z
    break
  }
  out[FRACTION] = t
  for (let i = 0; i < 3; i++) out[RAY_NORMAL + i] = -record[NORMAL + i]
  return goesIn(p, a, line, t) ? HIT : NEAR
}

/** Lengths behind a touch at which a ray is checked again. */
const BEYOND = [1e-12, 1e-9, 1e-6, 1e-3]

/** Whether a ray that has come to a shape goes into it, and does not run along it: over the rim of a disc, say. */
function goesIn(p: Float64Array, a: number, line: Float64Array, t: number): boolean {
  const length = Math.sqrt(line[3] * line[3] + line[4] * line[4] + line[5] * line[5])
  const slack = 4 * slackOf(line, p, a + BODY, p[a + RADIUS])
  for (const far of BEYOND) {
    for (let i = 0; i < 3; i++) shift[i] = (t + far / length) * line[3 + i]
    gap(point, 0, p, a, shift, record)
    if (record[DISTANCE] < -slack) return true
  }
  return false
}

function rayTriangles(p: Float64Array, a: number, surface: Surface, line: Float64Array, out: Float64Array): number {
  if (line[3] === 0 && line[4] === 0 && line[5] === 0) return pointOnSurface(p, a, surface, line, out)
  lineInto(p, a, line, own)
  surfaceHit[SURFACE_FRACTION] = out[FRACTION]
  if (raySurface(surface, own, surfaceHit) === MISS) return MISS
  writeSurfaceHit(p, a, out)
  return HIT
}

/** Takes the hit of a surface over: its normal turned into the world, towards the asker. */
function writeSurfaceHit(p: Float64Array, a: number, out: Float64Array): void {
  out[FRACTION] = surfaceHit[SURFACE_FRACTION]
  out[RAY_TRIANGLE] = surfaceHit[SURFACE_TRIANGLE]
  for (let i = 0; i < 3; i++) out[RAY_WEIGHTS + i] = surfaceHit[SURFACE_WEIGHTS + i]
  out[RAY_BACK] = surfaceHit[SURFACE_BACK]
  const nx = surfaceHit[SURFACE_NORMAL]
  const ny = surfaceHit[SURFACE_NORMAL + 1]
  const nz = surfaceHit[SURFACE_NORMAL + 2]
  const size = (surfaceHit[SURFACE_BACK] !== 0 ? -1 : 1) / Math.sqrt(nx * nx + ny * ny + nz * nz)
  const m = a + BODY + 3
  for (let i = 0; i < 3; i++) {
    out[RAY_NORMAL + i] = (p[m + 3 * i] * nx + p[m + 3 * i + 1] * ny + p[m + 3 * i + 2] * nz) * size
  }
}

/** A point is met by a surface that it lies on. */
function pointOnSurface(p: Float64Array, a: number, surface: Surface, line: Float64Array, out: Float64Array): number {
  for (let i = 0; i < 3; i++) point[BODY + i] = box[i] = box[3 + i] = line[i]
  boxInto(p, a, box, 0, own)
  found.clear()
  searchSurface(surface, own, found)
  for (let k = 0; k < found.length; k++) {
    triangleInto(surface, found.data[k], p, a, triangle)
    gap(point, 0, triangle, 0, HERE, record)
    if (record[DISTANCE] > 0) continue
    out[FRACTION] = 0
    for (let i = 0; i < 3; i++) out[RAY_NORMAL + i] = -record[NORMAL + i]
    out[RAY_TRIANGLE] = found.data[k]
    out[RAY_WEIGHTS] = out[RAY_WEIGHTS + 1] = out[RAY_WEIGHTS + 2] = 1 / 3
    out[RAY_BACK] = 0
    return HIT
  }
  return MISS
}
