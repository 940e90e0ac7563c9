/**
 * A ray against one convex shape (a block of radius and core points), in closed form. Exact to rounding: no skin, no
 * margin.
 *
 * On the surface at the start, to rounding: moving in is a hit at 0, moving away or along is none. Inside at the start is a hit
 * at 0 whose normal is against the motion. A ray of no length asks about its point, and the normal is the way out. What a solid is
 * missed by, or entered, by no more than rounding is a graze, and told as NEAR: `graze.ts` looks closer.
 */
import { CONVEX, COUNT, HEAD, KIND, PLANE } from '../shapes/layout.ts'
import { gap } from './gap.ts'
import type * as grazes from './graze.ts'
import type * as layout from './records.ts'
import { GAP_SIZE } from './records.ts'

const ROUNDING: typeof grazes.ROUNDING = 4.5e-16
const NEAR: typeof layout.NEAR = -1
const MISS: typeof layout.MISS = 0
const HIT: typeof layout.HIT = 1
const INSIDE: typeof layout.INSIDE = 2
const FRACTION: typeof layout.FRACTION = 0
const RAY_NORMAL: typeof layout.RAY_NORMAL = 1
const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1

/** The start of the ray as a block: a point without radius. */
const point = Float64Array.of(CONVEX, 1, 0, 0, 0)
const record = new Float64Array(GAP_SIZE)

/** What a ray meets of a piece: the plane, or a convex core grown by its radius. Returns MISS, HIT, INSIDE or NEAR; see the records. */
export function rayAgainst(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  if (p[at + KIND] === PLANE) return rayPlane(p, at, line, out)
  if (line[2] === 0 && line[3] === 0) return pointAgainst(p, at, line, out)
  const n = p[at + COUNT] | 0
  if (n === 1) return rayCircle(p, at, line, out)
  if (p[at] !== 0) return rayRounded(p, at, line, out)
  return n === 2 ? rayLine(p, at, line, out) : rayPolygon(p, at, line, out)
}

/**
 * A segment without inside, from either side. Which side of the ray an end lies on is computed from that end alone, so
 * of two segments that share an end at least one is hit by a ray through it.
 */
function rayLine(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  const dx = line[2]
  const dy = line[3]
  const x0 = p[at + 1] - line[0]
  const y0 = p[at + 2] - line[1]
  const x1 = p[at + 3] - line[0]
  const y1 = p[at + 4] - line[1]
  const side0 = dx * y0 - dy * x0
  const side1 = dx * y1 - dy * x1
  if ((side0 > 0 && side1 > 0) || (side0 < 0 && side1 < 0)) return MISS
  const ex = x1 - x0
  const ey = y1 - y0
  const speed = dx * ey - dy * ex
  // Along the segment is a graze; a start on it is no hit, for every way leads off it.
  if (speed === 0) return MISS
  const t = (x0 * ey - y0 * ex) / speed
  if (!(t > 0 && t <= out[FRACTION])) return MISS
  out[FRACTION] = t
  if (speed > 0) unit(-ey, ex, out)
  else unit(ey, -ex, out)
  return HIT
}

function rayPlane(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  const nx = p[at + 1]
  const ny = p[at + 2]
  const away = line[0] * nx + line[1] * ny - p[at]
  const speed = line[2] * nx + line[3] * ny
  const slack = ROUNDING * (Math.abs(line[0] * nx) + Math.abs(line[1] * ny) + Math.abs(p[at])) + line[5]
  if (line[2] === 0 && line[3] === 0) {
    if (away > 0) return MISS
    out[FRACTION] = 0
    out[RAY_NORMAL] = nx
    out[RAY_NORMAL + 1] = ny
    return away < 0 ? INSIDE : HIT
  }
  if (away < -slack) return inside(line, out)
  if (speed >= 0) return away <= slack ? NEAR : MISS
  // Along the plane, to rounding.
  if (away <= slack && -speed <= ROUNDING * (Math.abs(line[2] * nx) + Math.abs(line[3] * ny))) return NEAR
  const t = away > slack ? -away / speed : 0
  if (t > out[FRACTION]) return MISS
  out[FRACTION] = t + 0
  out[RAY_NORMAL] = nx
  out[RAY_NORMAL + 1] = ny
  return HIT
}

function pointAgainst(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  point[HEAD + 1] = line[0]
  point[HEAD + 2] = line[1]
  gap(p, at, point, HEAD, record)
  const distance = record[DISTANCE]
  if (distance > 0) return MISS
  out[FRACTION] = 0
  out[RAY_NORMAL] = record[NORMAL]
  out[RAY_NORMAL + 1] = record[NORMAL + 1]
  return distance < 0 ? INSIDE : HIT
}

/** The start lies inside: a hit at once, against the motion. */
function inside(line: Float64Array, out: Float64Array): number {
  out[FRACTION] = 0
  unit(-line[2], -line[3], out)
  return INSIDE
}

/** The square of how much, as a part of the distance, a line may come into a circle that it only grazes, twice. */
const GRAZE = 4e-31

/** How near to a graze, as a part of what is compared, a line that misses a circle is told as near. */
const NEARLY = 1e-13

/** What the last {@link circleEntry} of a line that found none came to: MISS or NEAR. */
let missed: number = MISS

/** Entry of a line into a circle as a fraction of the motion; NaN when it misses or grazes. The start must lie outside. */
function circleEntry(fx: number, fy: number, r: number, dx: number, dy: number): number {
  const along = fx * dx + fy * dy
  const square = dx * dx + dy * dy
  // The distance of the line, by the cross product: b^2 - ac would lose all digits far away.
  const cross = fx * dy - fy * dx
  const root = square * r * r - cross * cross
  missed = MISS
  if (along > 0) return Number.NaN
  if (root <= 0) {
    if (-root <= NEARLY * square * r * r) missed = NEAR
    return Number.NaN
  }
  const away = fx * fx + fy * fy
  // A graze, to rounding: it would hold what slides over a row of circles, or of ends of segments.
  if (root * root <= GRAZE * square * square * r * r * away) {
    missed = NEAR
    return Number.NaN
  }
  return (away - r * r) / (-along + Math.sqrt(root))
}

function rayCircle(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  const r = p[at]
  const dx = line[2]
  const dy = line[3]
  const fx = line[0] - p[at + 1]
  const fy = line[1] - p[at + 2]
  const outside = fx * fx + fy * fy - r * r
  // The square of the distance is wrong by twice the radius times what the place is wrong by.
  const slack =
    2 *
    r *
    (ROUNDING * (Math.abs(line[0]) + Math.abs(line[1]) + Math.abs(p[at + 1]) + Math.abs(p[at + 2]) + r) + line[5])
  if (outside < -slack) return inside(line, out)
  const along = fx * dx + fy * dy
  if (along >= 0) return outside <= slack && along === 0 ? NEAR : MISS
  const t = outside <= slack ? 0 : circleEntry(fx, fy, r, dx, dy)
  if (!(t <= out[FRACTION])) return t > out[FRACTION] ? MISS : missed
  // On the circle and along it, to rounding.
  if (outside <= slack && along * along <= NEARLY * NEARLY * (dx * dx + dy * dy) * (fx * fx + fy * fy)) return NEAR
  out[FRACTION] = t
  unit(fx + t * dx, fy + t * dy, out)
  return HIT
}

function unit(x: number, y: number, out: Float64Array): void {
  const length = Math.sqrt(x * x + y * y)
  out[RAY_NORMAL] = x / length
  out[RAY_NORMAL + 1] = y / length
}

/**
 * A convex polygon is entered through the one edge whose first end lies left of the ray and whose second does not, and
 * left through the one the other way round; so a miss costs a cross product a corner, and a hit one division.
 */
function rayPolygon(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  const n = p[at + COUNT] | 0
  const ox = line[0]
  const oy = line[1]
  const dx = line[2]
  const dy = line[3]
  let entering = -1
  let leaving = -1
  let along = 0
  let before = at + 2 * n - 1
  let sideBefore = dx * (p[before + 1] - oy) - dy * (p[before] - ox)
  for (let i = at + 1; i <= at + 2 * n; i += 2) {
    const side = dx * (p[i + 1] - oy) - dy * (p[i] - ox)
    const wasLeft = +(sideBefore > 0)
    const left = +(side > 0)
    entering += (before - entering) * (wasLeft & (1 - left))
    leaving += (before - leaving) * (left & (1 - wasLeft))
    along |= +(side === 0) & +(sideBefore === 0)
    before = i
    sideBefore = side
  }
  if (along !== 0) return NEAR
  if (entering < 0 || leaving < 0) return passesNear(p, at, line)
  const last = at + 2 * n - 1
  let next = entering === last ? at + 1 : entering + 2
  const ax = p[entering]
  const ay = p[entering + 1]
  const bx = p[next]
  const by = p[next + 1]
  const far = Math.abs(ox) + Math.abs(ax) + Math.abs(bx) + Math.abs(oy) + Math.abs(ay) + Math.abs(by)
  const rough = ROUNDING * far + line[5]
  // Where an end of that edge lies on the ray, to rounding, the whole polygon may: it is but grazed then.
  const sideA = dx * (ay - oy) - dy * (ax - ox)
  const sideB = dx * (by - oy) - dy * (bx - ox)
  const thin = 4 * rough * (Math.abs(dx) + Math.abs(dy))
  if ((sideA <= thin || sideB >= -thin) && passesNear(p, at, line) === NEAR) return NEAR
  const ux = by - ay
  const uy = ax - bx
  const away = (ox - ax) * ux + (oy - ay) * uy
  const speed = dx * ux + dy * uy
  // Of a start on the edge, to rounding, nothing but the direction counts.
  const slack = rough * (Math.abs(ux) + Math.abs(uy))
  if (away > slack) {
    // Not facing the motion, by rounding only.
    if (speed >= 0) return MISS
    // The fraction itself is compared, so that of two shapes in the same place both count.
    const t = -away / speed
    if (t > out[FRACTION]) return MISS
    out[FRACTION] = t + 0
    unit(ux, uy, out)
    return HIT
  }
  next = leaving === last ? at + 1 : leaving + 2
  const vx = p[next + 1] - p[leaving + 1]
  const vy = p[leaving] - p[next]
  const behind = (ox - p[leaving]) * vx + (oy - p[leaving + 1]) * vy
  const room = (rough + ROUNDING * (Math.abs(p[leaving]) + Math.abs(p[leaving + 1]))) * (Math.abs(vx) + Math.abs(vy))
  if (behind >= -room) return MISS
  if (away < -slack) return inside(line, out)
  if (speed >= 0) return MISS
  out[FRACTION] = 0
  unit(ux, uy, out)
  return HIT
}

/** NEAR where the whole shape lies on one side of the ray, and reaches it, to rounding; else MISS. */
function passesNear(p: Float64Array, at: number, line: Float64Array): number {
  const n = p[at + COUNT] | 0
  const ox = line[0]
  const oy = line[1]
  const dx = line[2]
  const dy = line[3]
  const r = p[at]
  let least = Infinity
  let most = -Infinity
  let far = 0
  for (let i = at + 1; i <= at + 2 * n; i += 2) {
    const side = dx * (p[i + 1] - oy) - dy * (p[i] - ox)
    if (side < least) least = side
    if (side > most) most = side
    const away = Math.abs(p[i]) + Math.abs(p[i + 1])
    if (away > far) far = away
  }
  const slack = (2 * ROUNDING * (far + r + Math.abs(ox) + Math.abs(oy)) + line[5]) * (Math.abs(dx) + Math.abs(dy))
  if (r !== 0) {
    const grown = r * Math.sqrt(dx * dx + dy * dy)
    least -= grown
    most += grown
  }
  return (least >= -slack && least <= slack) || (most <= slack && most >= -slack) ? NEAR : MISS
}

/** A rounded core: the nearest entry among the shifted edges and the circles about the corners. */
function rayRounded(p: Float64Array, at: number, line: Float64Array, out: Float64Array): number {
  const n = p[at + COUNT] | 0
  const r = p[at]
  const ox = line[0]
  const oy = line[1]
  const dx = line[2]
  const dy = line[3]
  point[HEAD + 1] = ox
  point[HEAD + 2] = oy
  gap(p, at, point, HEAD, record)
  const distance = record[DISTANCE]
  const slack = 2 * ROUNDING * (Math.abs(ox) + Math.abs(oy) + Math.abs(p[at + 1]) + Math.abs(p[at + 2]) + r) + line[5]
  if (distance < -slack) return inside(line, out)
  if (distance <= slack) {
    const speed = record[NORMAL] * dx + record[NORMAL + 1] * dy
    if (speed >= -4 * ROUNDING * (Math.abs(dx) + Math.abs(dy))) return NEAR
    out[FRACTION] = 0
    out[RAY_NORMAL] = record[NORMAL]
    out[RAY_NORMAL + 1] = record[NORMAL + 1]
    return HIT
  }
  let best = Number.POSITIVE_INFINITY
  let nx = 0
  let ny = 0
  const first = at + 1
  for (let i = 0; i < n; i++) {
    const x0 = p[first + 2 * i]
    const y0 = p[first + 2 * i + 1]
    const j = i + 1 === n ? 0 : i + 1
    const ex = p[first + 2 * j] - x0
    const ey = p[first + 2 * j + 1] - y0
    const fx = ox - x0
    const fy = oy - y0
    const length = Math.sqrt(ex * ex + ey * ey)
    const ux = ey / length
    const uy = -ex / length
    const speed = dx * ux + dy * uy
    const away = fx * ux + fy * uy - r
    if (speed < 0 && away >= 0) {
      const t = -away / speed
      const along = (fx + t * dx) * ex + (fy + t * dy) * ey
      if (t < best && along >= 0 && along <= length * length) {
        best = t
        nx = ux
        ny = uy
      }
    }
    if (fx * fx + fy * fy >= r * r) {
      const t = circleEntry(fx, fy, r, dx, dy)
      if (t < best) {
        best = t
        nx = fx + t * dx
        ny = fy + t * dy
      }
    }
  }
  if (best === Infinity) return passesNear(p, at, line)
  if (!(best <= out[FRACTION])) return MISS
  out[FRACTION] = best < 0 ? 0 : best
  unit(nx, ny, out)
  return HIT
}
