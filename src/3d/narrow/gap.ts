/**
 * The signed distance of two pieces: closed forms where a point or a plane is one of them, otherwise the nearest points of
 * the cores, or their depth where they overlap. Radii are taken off at the end. Surfaces are asked triangle by triangle.
 */
import type * as shape from '../shapes/words.ts'
import { DEPTH, DEPTH_A, DEPTH_B, DEPTH_NORMAL, DEPTH_SIZE, depthOf } from './depth.ts'
import { NEAR_A, NEAR_B, NEAR_SCALE, NEAR_SIZE, NEAR_SQUARE, NEAR_V, nearest, simplex } from './nearest.ts'
import { forget, support } from './support.ts'
import type * as words from './words.ts'

const BODY: typeof shape.BODY = 4
const POINT_COUNT: typeof shape.POINT_COUNT = 1
const RADIUS: typeof shape.RADIUS = 3
const POINTS: typeof shape.POINTS = 0
const BOX: typeof shape.BOX = 1
const CYLINDER: typeof shape.CYLINDER = 2
const CONE: typeof shape.CONE = 3
const PLANE: typeof shape.PLANE = 5
const DISTANCE: typeof words.DISTANCE = 0
const NORMAL: typeof words.NORMAL = 1
const POINT_A: typeof words.POINT_A = 4
const POINT_B: typeof words.POINT_B = 7

/** Metres whose square still has all its digits. */
const TINY = 1e-150

/** Part of the coordinates by which a gap is rounded: by a closed form, and by a search. */
const ROUNDING = 1e-14
const SEARCHED = 2e-12

/** Rounding of the distance of two cores, as a part of the size of all. */
const LAST_BITS = 4e-16

/** Steps in which the direction of a gap is steadied, at most. */
const STEADYING = 32
/** Part of the size of all below which two places are one for that; and by which corners may lie behind at the end. */
const NEARLY = 1e-9
const UNSTEADY = 1e-11
/** Part of the size of all below which the direction between discs is rough. */
const TOUCHING = 1e-8

const near = new Float64Array(NEAR_SIZE)
const farA = new Float64Array(3)
const farB = new Float64Array(3)
const deep = new Float64Array(DEPTH_SIZE)
const dir = new Float64Array(3)
/** Where one stands that is not moved. */
export const HERE = new Float64Array(3)

/**
 * Writes the gap of two pieces: signed distance, unit normal from A to B, nearest points. Two planes are never apart.
 * @param shift added to the first: where it would stand
 */
export function gap(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): void {
  const aKind = p[a]
  const bKind = q[b]
  if (bKind === PLANE || aKind === PLANE) {
    if (aKind !== PLANE) planeGap(p, a, shift, q, b, out)
    else if (bKind !== PLANE) {
      planeGap(q, b, HERE, p, a, out)
      turnGap(out)
    } else out[DISTANCE] = -Infinity
    return
  }
  if (aKind === POINTS && p[a + POINT_COUNT] === 1 && hasClosedForm(q, b)) {
    for (let i = 0; i < 3; i++) out[POINT_A + i] = p[a + BODY + i] + shift[i]
    pointGap(q, b, out)
    grow(p[a + RADIUS], q[b + RADIUS], out)
    return
  }
  if (bKind === POINTS && q[b + POINT_COUNT] === 1 && hasClosedForm(p, a)) {
    // The point stands still instead, and the other way round.
    for (let i = 0; i < 3; i++) out[POINT_A + i] = q[b + BODY + i] - shift[i]
    pointGap(p, a, out)
    for (let i = 0; i < 3; i++) {
      out[POINT_B + i] += shift[i]
      out[POINT_A + i] = q[b + BODY + i]
    }
    turnGap(out)
    grow(p[a + RADIUS], q[b + RADIUS], out)
    return
  }
  if (nearest(p, a, q, b, shift, near)) {
    const length = Math.sqrt(near[NEAR_SQUARE])
    const radii = p[a + RADIUS] + q[b + RADIUS]
    // A touch by the radii is one, whatever the last bit says.
    out[DISTANCE] = Math.abs(length - radii) <= LAST_BITS * near[NEAR_SCALE] ? radii : length
    for (let i = 0; i < 3; i++) {
      out[NORMAL + i] = -near[NEAR_V + i] / length
      out[POINT_A + i] = near[NEAR_A + i]
      out[POINT_B + i] = near[NEAR_B + i]
    }
    if (!simplex.sure) {
      const round = aKind === CYLINDER || aKind === CONE || bKind === CYLINDER || bKind === CONE
      // A disc has no corners to steady it by.
      if ((round || !steady(p, a, q, b, shift, out)) && length < TOUCHING * near[NEAR_SCALE]) {
        // The direction is searched as that of a depth, of less than nothing.
        depthOf(p, a, q, b, shift, near[NEAR_SCALE], deep)
        for (let i = 0; i < 3; i++) out[NORMAL + i] = deep[DEPTH_NORMAL + i]
      }
    }
  } else {
    depthOf(p, a, q, b, shift, near[NEAR_SCALE], deep)
    out[DISTANCE] = 0 - deep[DEPTH]
    for (let i = 0; i < 3; i++) {
      out[NORMAL + i] = deep[DEPTH_NORMAL + i]
      out[POINT_A + i] = deep[DEPTH_A + i]
      out[POINT_B + i] = deep[DEPTH_B + i]
    }
  }
  grow(p[a + RADIUS], q[b + RADIUS], out)
}

/**
 * Where cores nearly touch, or faces are nearly parallel, the nearest points have all their digits while the direction from
 * one to the other has few. The right one has all of the difference ahead of its nearest point: as long as a corner lies
 * behind, the direction gives way to it (Kaczmarz's projections).
 * @returns whether no corner lies behind any more, by more than a little; where directions are pressed from both sides they
 *   go to and fro
 */
function steady(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  out: Float64Array,
): boolean {
  const rounding = 1e-15 * near[NEAR_SCALE]
  const tiny = NEARLY * near[NEAR_SCALE]
  let best = -Infinity
  for (let i = 0; i < 3; i++) dir[i] = -out[NORMAL + i]
  for (let step = 0; step < STEADYING; step++) {
    support(p, a, dir, -1, farA, 0, 0)
    support(q, b, dir, 1, farB, 0, 1)
    let behind = 0
    let square = 0
    for (let i = 0; i < 3; i++) {
      farA[i] += shift[i] - farB[i] - near[NEAR_V + i]
      behind += dir[i] * farA[i]
      square += farA[i] * farA[i]
    }
    if (behind > best) {
      best = behind
      for (let i = 0; i < 3; i++) out[NORMAL + i] = -dir[i]
    }
    // A corner that is all but the nearest point says nothing of a direction.
    if (behind >= -rounding || square <= tiny * tiny) break
    let length = 0
    for (let i = 0; i < 3; i++) {
      dir[i] -= (behind / square) * farA[i]
      length += dir[i] * dir[i]
    }
    length = Math.sqrt(length)
    for (let i = 0; i < 3; i++) dir[i] /= length
  }
  return best >= -UNSTEADY * near[NEAR_SCALE]
}

/** Whether two pieces overlap or touch. */
export function meet(p: Float64Array, a: number, q: Float64Array, b: number, record: Float64Array): boolean {
  const radius = p[a + RADIUS] + q[b + RADIUS]
  const aKind = p[a]
  const bKind = q[b]
  const aPoint = aKind === POINTS && p[a + POINT_COUNT] === 1
  const bPoint = bKind === POINTS && q[b + POINT_COUNT] === 1
  if (!(aPoint || bPoint || aKind === PLANE || bKind === PLANE)) {
    // No need to know how deep.
    if (nearest(p, a, q, b, HERE, near)) {
      return Math.sqrt(near[NEAR_SQUARE]) <= radius + LAST_BITS * near[NEAR_SCALE]
    }
    if (near[NEAR_SQUARE] === 0 || radius > 0) return true
  }
  gap(p, a, q, b, HERE, record)
  return record[DISTANCE] <= 0
}

/** Takes both radii off. */
function grow(ra: number, rb: number, out: Float64Array): void {
  if (ra === 0 && rb === 0) return
  out[DISTANCE] -= ra + rb
  for (let i = 0; i < 3; i++) {
    out[POINT_A + i] += ra * out[NORMAL + i]
    out[POINT_B + i] -= rb * out[NORMAL + i]
  }
}

/** The same gap seen from the other side. */
export function turnGap(out: Float64Array): void {
  for (let i = 0; i < 3; i++) {
    out[NORMAL + i] = -out[NORMAL + i]
    const kept = out[POINT_A + i]
    out[POINT_A + i] = out[POINT_B + i]
    out[POINT_B + i] = kept
  }
}

function hasClosedForm(q: Float64Array, b: number): boolean {
  const kind = q[b]
  return kind === BOX || kind === CYLINDER || kind === CONE || (kind === POINTS && q[b + POINT_COUNT] <= 2)
}

function planeGap(
  p: Float64Array,
  a: number,
  shift: Float64Array,
  q: Float64Array,
  b: number,
  out: Float64Array,
): void {
  const nx = q[b + BODY + 1]
  const ny = q[b + BODY + 2]
  const nz = q[b + BODY + 3]
  dir[0] = -nx
  dir[1] = -ny
  dir[2] = -nz
  forget()
  support(p, a, dir, 1, out, POINT_A, 0)
  for (let i = 0; i < 3; i++) out[POINT_A + i] += shift[i]
  const height = nx * out[POINT_A] + ny * out[POINT_A + 1] + nz * out[POINT_A + 2] - q[b + BODY]
  const r = p[a + RADIUS]
  out[DISTANCE] = height - r
  for (let i = 0; i < 3; i++) {
    const n = q[b + BODY + 1 + i]
    out[NORMAL + i] = -n
    out[POINT_B + i] = out[POINT_A + i] - n * height
    out[POINT_A + i] -= n * r
  }
}

/** The point in `out[POINT_A]` against a core: distance, normal from the point to the core, and the core's nearest point. */
function pointGap(q: Float64Array, b: number, out: Float64Array): void {
  const kind = q[b]
  if (kind === BOX) pointBox(q, b + BODY, out)
  else if (kind === POINTS) pointSegment(q, b + BODY, q[b + POINT_COUNT], out)
  else pointRound(q, b + BODY, kind === CONE, out)
}

function pointSegment(q: Float64Array, c: number, count: number, out: Float64Array): void {
  const x = out[POINT_A]
  const y = out[POINT_A + 1]
  const z = out[POINT_A + 2]
  let cx = q[c]
  let cy = q[c + 1]
  let cz = q[c + 2]
  let ex = 0
  let ey = 0
  let ez = 0
  let inner = false
  if (count === 2) {
    ex = q[c + 3] - cx
    ey = q[c + 4] - cy
    ez = q[c + 5] - cz
    const along = (x - cx) * ex + (y - cy) * ey + (z - cz) * ez
    const square = ex * ex + ey * ey + ez * ez
    const t = along <= 0 ? 0 : along >= square ? 1 : along / square
    inner = t > 0 && t < 1
    if (t === 1) {
      cx = q[c + 3]
      cy = q[c + 4]
      cz = q[c + 5]
    } else {
      cx += t * ex
      cy += t * ey
      cz += t * ez
    }
  }
  let dx = cx - x
  let dy = cy - y
  let dz = cz - z
  if (inner) {
    // Very near, what is left of it along the segment is rounding, and there is much of it.
    const square = ex * ex + ey * ey + ez * ez
    const rest = (dx * ex + dy * ey + dz * ez) / square
    dx -= rest * ex
    dy -= rest * ey
    dz -= rest * ez
  }
  const length = Math.sqrt(dx * dx + dy * dy + dz * dz)
  // On the segment, by rounding, there is no direction to it; of two points the difference is exact.
  const none = count === 2 ? TINY + ROUNDING * Math.sqrt(ex * ex + ey * ey + ez * ez) : TINY
  out[DISTANCE] = length > none ? length : 0
  out[POINT_B] = cx
  out[POINT_B + 1] = cy
  out[POINT_B + 2] = cz
  if (length > none) {
    out[NORMAL] = dx / length
    out[NORMAL + 1] = dy / length
    out[NORMAL + 2] = dz / length
    return
  }
  // In the same place: any direction across the segment, so that the way out is the least.
  acrossTo(ex, ey, ez, out)
}

/** Writes a unit direction across another one (or up, where that is zero) as the normal. */
function acrossTo(ex: number, ey: number, ez: number, out: Float64Array): void {
  const wx = ex < 0 ? -ex : ex
  const wy = ey < 0 ? -ey : ey
  const wz = ez < 0 ? -ez : ez
  if (wx < TINY && wz < TINY) {
    out[NORMAL] = wy < TINY ? 0 : 1
    out[NORMAL + 1] = wy < TINY ? 1 : 0
    out[NORMAL + 2] = 0
    return
  }
  // Across both it and y.
  const length = Math.sqrt(wx * wx + wz * wz)
  out[NORMAL] = ez / length
  out[NORMAL + 1] = 0
  out[NORMAL + 2] = -ex / length
}

function pointBox(q: Float64Array, c: number, out: Float64Array): void {
  const x = out[POINT_A] - q[c]
  const y = out[POINT_A + 1] - q[c + 1]
  const z = out[POINT_A + 2] - q[c + 2]
  let square = 0
  let least = Infinity
  let axis = 0
  let side = 1
  for (let i = 0; i < 3; i++) {
    const at = c + 3 + 3 * i
    const half = q[c + 12 + i]
    const local = x * q[at] + y * q[at + 1] + z * q[at + 2]
    const over = (local < 0 ? -local : local) - half
    const inside = over > 0 ? (local < 0 ? -half : half) : local
    // The difference from the point to the nearest one, along each axis.
    dir[i] = inside - local
    if (over > 0) square += over * over
    if (-over < least) {
      least = -over
      axis = i
      side = local < 0 ? -1 : 1
    }
  }
  if (square > 0) {
    const length = Math.sqrt(square)
    out[DISTANCE] = length
    for (let k = 0; k < 3; k++) {
      const step = dir[0] * q[c + 3 + k] + dir[1] * q[c + 6 + k] + dir[2] * q[c + 9 + k]
      out[NORMAL + k] = step / length
      out[POINT_B + k] = out[POINT_A + k] + step
    }
    return
  }
  // The way out of the nearest face; the normal leads from the point into the box.
  out[DISTANCE] = 0 - least
  for (let k = 0; k < 3; k++) {
    const n = side * q[c + 3 + 3 * axis + k]
    out[NORMAL + k] = 0 - n
    out[POINT_B + k] = out[POINT_A + k] + least * n
  }
}

/** A point against a cylinder or a cone: in the half plane of the axis and the point, a rectangle or a triangle. */
function pointRound(q: Float64Array, c: number, isCone: boolean, out: Float64Array): void {
  const ux = q[c + 3]
  const uy = q[c + 4]
  const uz = q[c + 5]
  const hh = q[c + 6]
  const disc = q[c + 7]
  const x = out[POINT_A] - q[c]
  const y = out[POINT_A + 1] - q[c + 1]
  const z = out[POINT_A + 2] - q[c + 2]
  const up = x * ux + y * uy + z * uz
  let rx = x - up * ux
  let ry = y - up * uy
  let rz = z - up * uz
  // Once more: near the axis most of what is left is rounding, and not across it.
  const rest = rx * ux + ry * uy + rz * uz
  rx -= rest * ux
  ry -= rest * uy
  rz -= rest * uz
  const away = Math.sqrt(rx * rx + ry * ry + rz * rz)
  if (away > TINY) {
    rx /= away
    ry /= away
    rz /= away
  } else {
    acrossTo(ux, uy, uz, out)
    rx = out[NORMAL]
    ry = out[NORMAL + 1]
    rz = out[NORMAL + 2]
  }
  // The nearest place of the profile, and whether the point lies inside.
  let toAway = away
  let toUp = up
  let inside = false
  // Out of the profile, where the point lies inside or on it.
  let outAway = 0
  let outUp = 0
  if (isCone) {
    const height = 2 * hh
    const length = Math.sqrt(disc * disc + height * height)
    const na = height / length
    const nu = disc / length
    const side = (away - disc) * na + (up + hh) * nu
    const below = -hh - up
    if (side <= 0 && below <= 0) {
      inside = true
      const bySide = side >= below
      outAway = bySide ? na : 0
      outUp = bySide ? nu : -1
      const reach = bySide ? -side : -below
      toAway = away + reach * outAway
      toUp = up + reach * outUp
      if (toAway < 0) toAway = 0
    } else {
      // The nearer of the base and the side, from the rim to the tip.
      const onBase = away < disc ? away : disc
      const baseSquare = (away - onBase) * (away - onBase) + (below > 0 ? below * below : (up + hh) * (up + hh))
      let t = ((up + hh) * height - (away - disc) * disc) / (length * length)
      t = t < 0 ? 0 : t > 1 ? 1 : t
      const sideAway = disc - t * disc
      const sideUp = t === 1 ? hh : -hh + t * height
      const sideSquare = (away - sideAway) * (away - sideAway) + (up - sideUp) * (up - sideUp)
      toAway = baseSquare <= sideSquare ? onBase : sideAway
      toUp = baseSquare <= sideSquare ? -hh : sideUp
    }
  } else {
    const overAway = away - disc
    const overUp = (up < 0 ? -up : up) - hh
    if (overAway <= 0 && overUp <= 0) {
      inside = true
      if (overAway >= overUp) {
        outAway = 1
        toAway = disc
      } else {
        outUp = up < 0 ? -1 : 1
        toUp = up < 0 ? -hh : hh
      }
    } else {
      if (overAway > 0) toAway = disc
      if (overUp > 0) toUp = up < 0 ? -hh : hh
    }
  }
  const da = toAway - away
  const du = toUp - up
  const distance = Math.sqrt(da * da + du * du)
  if (!inside && distance <= (isCone ? ROUNDING * (hh + disc) : TINY)) {
    // On the surface, by rounding: out of what it lies on.
    inside = true
    const above = (up < 0 ? -up : up) - hh
    const base = isCone && toUp === -hh && away < disc
    outUp = base ? -1 : isCone ? disc : above > away - disc ? up : 0
    outAway = base ? 0 : isCone ? 2 * hh : outUp === 0 ? 1 : 0
    const length = Math.sqrt(outUp * outUp + outAway * outAway)
    outUp /= length
    outAway /= length
  }
  out[DISTANCE] = inside ? 0 - distance : distance
  let na = inside ? -outAway : da / distance
  let nu = inside ? -outUp : du / distance
  if (isCone && !inside) {
    // Very near, a difference has few digits: of the side and of the base the normal is known, and at the rim and the tip it
    // lies between those of what meets there.
    const length = Math.sqrt(disc * disc + 4 * hh * hh)
    const sideAway = (-2 * hh) / length
    const sideUp = -disc / length
    const onBase = toUp === -hh
    const bySide = na * sideUp - nu * sideAway
    if (onBase ? bySide < 0 && toAway === disc : toUp < hh || bySide > 0) {
      na = sideAway
      nu = sideUp
    } else if (onBase && (toAway < disc || na > 0)) {
      na = 0
      nu = 1
    } else if (toUp === hh && na > 0) {
      na = 0
      nu = -1
    }
  }
  out[NORMAL] = na * rx + nu * ux
  out[NORMAL + 1] = na * ry + nu * uy
  out[NORMAL + 2] = na * rz + nu * uz
  out[POINT_B] = q[c] + (toUp * ux + toAway * rx)
  out[POINT_B + 1] = q[c + 1] + (toUp * uy + toAway * ry)
  out[POINT_B + 2] = q[c + 2] + (toUp * uz + toAway * rz)
}

/**
 * The distance below which a gap of two pieces is rounding, and its direction with it.
 * @param record their gap
 */
export function roundingOf(
  p: Float64Array,
  a: number,
  q: Float64Array,
  b: number,
  shift: Float64Array,
  record: Float64Array,
): number {
  let size = 0
  for (let i = 0; i < 3; i++) {
    size += Math.abs(record[POINT_A + i]) + Math.abs(p[a + BODY + i] + shift[i])
    if (q[b] !== PLANE) size += Math.abs(q[b + BODY + i])
  }
  return (p[a] === POINTS && p[a + POINT_COUNT] === 1 ? ROUNDING : SEARCHED) * size
}
