/** The gap of a point and a core in closed form: segments, triangles, boxes, cylinders and cones. */
import type * as shape from '../shapes/layout.ts'
import type * as layout from './records.ts'

const BODY: typeof shape.BODY = 4
const POINT_COUNT: typeof shape.POINT_COUNT = 1
const POINTS: typeof shape.POINTS = 0
const BOX: typeof shape.BOX = 1
const CYLINDER: typeof shape.CYLINDER = 2
const CONE: typeof shape.CONE = 3
const TRIANGLE: typeof shape.TRIANGLE = 4
const DISTANCE: typeof layout.DISTANCE = 0
const NORMAL: typeof layout.NORMAL = 1
const POINT_A: typeof layout.POINT_A = 4
const POINT_B: typeof layout.POINT_B = 7

/** Metres whose square still has all its digits. */
const TINY = 1e-150
/** The square of the sine between the edges of a triangle below which its plane has too few digits; and of what has all of them. */
const THIN = 1e-12
const LEAST = 1e-290
/** Part of the coordinates by which a closed form is rounded. */
const ROUNDING = 1e-14

const dir = new Float64Array(3)

/** Whether there is one against a core. */
export function hasClosedForm(q: Float64Array, b: number): boolean {
  const kind = q[b]
  if (kind === POINTS) return q[b + POINT_COUNT] <= 2
  return kind === BOX || kind === CYLINDER || kind === CONE || (kind === TRIANGLE && isWide(q, b + BODY))
}

/** Whether a triangle is no sliver. */
function isWide(q: Float64Array, c: number): boolean {
  const ex = q[c + 3] - q[c]
  const ey = q[c + 4] - q[c + 1]
  const ez = q[c + 5] - q[c + 2]
  const fx = q[c + 6] - q[c]
  const fy = q[c + 7] - q[c + 1]
  const fz = q[c + 8] - q[c + 2]
  const ee = ex * ex + ey * ey + ez * ez
  const ff = fx * fx + fy * fy + fz * fz
  const ef = ex * fx + ey * fy + ez * fz
  return ee * ff - ef * ef > THIN * ee * ff && ee * ff > LEAST
}

/** The point in `out[POINT_A]` against a core: distance, normal from the point to the core, and the core's nearest point. */
export function pointGap(q: Float64Array, b: number, out: Float64Array): void {
  const kind = q[b]
  if (kind === BOX) pointBox(q, b + BODY, out)
  else if (kind === TRIANGLE) pointTriangle(q, b + BODY, out)
  else if (kind === POINTS) pointSegment(q, b + BODY, b + BODY + 3 * (q[b + POINT_COUNT] - 1), out)
  else pointRound(q, b + BODY, kind === CONE, out)
}

/** The point against a segment between two corners, which may be one. */
function pointSegment(q: Float64Array, from: number, to: number, out: Float64Array): void {
  const x = out[POINT_A]
  const y = out[POINT_A + 1]
  const z = out[POINT_A + 2]
  const ex = q[to] - q[from]
  const ey = q[to + 1] - q[from + 1]
  const ez = q[to + 2] - q[from + 2]
  const square = ex * ex + ey * ey + ez * ez
  const along = (x - q[from]) * ex + (y - q[from + 1]) * ey + (z - q[from + 2]) * ez
  const t = along <= 0 ? 0 : along >= square ? 1 : along / square
  const end = t === 1 ? to : from
  let cx = q[end]
  let cy = q[end + 1]
  let cz = q[end + 2]
  const inner = t > 0 && t < 1
  if (inner) {
    cx += t * ex
    cy += t * ey
    cz += t * ez
  }
  let dx = cx - x
  let dy = cy - y
  let dz = cz - z
  if (inner) {
    // Very near, what is left of it along the segment is rounding, and there is much of it.
    const rest = (dx * ex + dy * ey + dz * ez) / square
    dx -= rest * ex
    dy -= rest * ey
    dz -= rest * ez
  }
  const length = Math.sqrt(dx * dx + dy * dy + dz * dz)
  // On the segment, by rounding, there is no direction to it; of two points the difference is exact.
  const none = TINY + ROUNDING * Math.sqrt(square)
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

/** Whether the origin's foot on the line through two points lies between them. */
function isBetween(x: number, y: number, z: number, toX: number, toY: number, toZ: number): boolean {
  const ex = toX - x
  const ey = toY - y
  const ez = toZ - z
  return x * ex + y * ey + z * ez < 0 && toX * ex + toY * ey + toZ * ez > 0
}

/** Over the face of a triangle it is the distance to its plane, else that to the nearest edge. On it, the normal leads in from its front. */
function pointTriangle(q: Float64Array, c: number, out: Float64Array): void {
  const x = out[POINT_A]
  const y = out[POINT_A + 1]
  const z = out[POINT_A + 2]
  // The corners as the point sees them.
  const ax = q[c] - x
  const ay = q[c + 1] - y
  const az = q[c + 2] - z
  const bx = q[c + 3] - x
  const by = q[c + 4] - y
  const bz = q[c + 5] - z
  const cx = q[c + 6] - x
  const cy = q[c + 7] - y
  const cz = q[c + 8] - z
  const ex = q[c + 3] - q[c]
  const ey = q[c + 4] - q[c + 1]
  const ez = q[c + 5] - q[c + 2]
  const fx = q[c + 6] - q[c]
  const fy = q[c + 7] - q[c + 1]
  const fz = q[c + 8] - q[c + 2]
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const square = nx * nx + ny * ny + nz * nz
  const area = Math.sqrt(square)
  // On which side of each edge its foot lies.
  const u = nx * (by * cz - bz * cy) + ny * (bz * cx - bx * cz) + nz * (bx * cy - by * cx)
  const w = nx * (cy * az - cz * ay) + ny * (cz * ax - cx * az) + nz * (cx * ay - cy * ax)
  const t = nx * (ay * bz - az * by) + ny * (az * bx - ax * bz) + nz * (ax * by - ay * bx)
  const aa = ax * ax + ay * ay + az * az
  const bb = bx * bx + by * by + bz * bz
  const cc = cx * cx + cy * cy + cz * cz
  if (u > 0 && w > 0 && t > 0) {
    // From the nearest corner, which keeps most digits.
    const height =
      aa <= bb && aa <= cc
        ? nx * ax + ny * ay + nz * az
        : bb <= cc
          ? nx * bx + ny * by + nz * bz
          : nx * cx + ny * cy + nz * cz
    const side = height > 0 ? 1 : -1
    const part = height / square
    out[DISTANCE] = (side * height) / area
    out[NORMAL] = (side * nx) / area
    out[NORMAL + 1] = (side * ny) / area
    out[NORMAL + 2] = (side * nz) / area
    out[POINT_B] = x + part * nx
    out[POINT_B + 1] = y + part * ny
    out[POINT_B + 2] = z + part * nz
    return
  }
  // Beyond an edge and between its ends; else at the corner that is nearest.
  if (t <= 0 && isBetween(ax, ay, az, bx, by, bz)) pointSegment(q, c, c + 3, out)
  else if (u <= 0 && isBetween(bx, by, bz, cx, cy, cz)) pointSegment(q, c + 3, c + 6, out)
  else if (w <= 0 && isBetween(cx, cy, cz, ax, ay, az)) pointSegment(q, c + 6, c, out)
  else {
    const corner = aa <= bb && aa <= cc ? c : bb <= cc ? c + 3 : c + 6
    pointSegment(q, corner, corner, out)
  }
  if (out[DISTANCE] > 0) return
  out[NORMAL] = -nx / area
  out[NORMAL + 1] = -ny / area
  out[NORMAL + 2] = -nz / area
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
