/**
 * A ray against a surface. The test of a triangle is watertight (Woop, Benthin and Wald, 2013): the corners are sheared so that
 * the ray runs along an axis, and three products tell on which side of it each edge passes. Of a difference of two rounded
 * products the sign is right or zero; where it is zero the products are compared exactly (Dekker, 1971), so every edge
 * gives the same answer to both of its triangles, and nothing slips between.
 */

import { reciprocal } from '../../core/tree/walk.ts'
import type * as narrow from '../narrow/records.ts'
import type * as layout from '../tree/layout.ts'
import type { Surface } from './surface.ts'

const NODE: typeof layout.NODE = 16
const LINK: typeof layout.LINK = 12
const MISS: typeof narrow.MISS = 0
const HIT: typeof narrow.HIT = 1

/** Places in the record of a hit. The fraction is read first, as the limit. */
export const SURFACE_FRACTION = 0
export const SURFACE_TRIANGLE = 1
/** The weights of the three corners. */
export const SURFACE_WEIGHTS = 2
/** 1 where the back of the triangle was hit. */
export const SURFACE_BACK = 5
/** Which way the front of the triangle looks, of any length. */
export const SURFACE_NORMAL = 6
export const SURFACE_RAY_SIZE = 9

/** By how much a limit is wider before a division: its rounding. */
const WIDER = 1 + 1e-15
/** Splits a double into two halves of 26 bits. */
const SPLITTER = 134217729
/** Part of the square of its longest edge below which the area of a triangle is that of a line: its weights have few digits. */
const THIN = 1e-8
/** Part of the size of all by which bounds are widened: more than the rounding of sheared corners. */
const SLACK = 2e-15

let stack = new Int32Array(128)
let enters = new Float64Array(128)
const cold = new Float64Array(12)

/**
 * The nearest hit of a ray, about the surface's own origin. A start on a triangle is no hit.
 * @param ray start and motion, six numbers
 * @param out the record; its fraction is the limit
 * @returns MISS or HIT
 */
export function raySurface(surface: Surface, ray: Float64Array, out: Float64Array): number {
  const { f32, i32, corners, front } = surface
  const ox = ray[0]
  const oy = ray[1]
  const oz = ray[2]
  const dx = ray[3]
  const dy = ray[4]
  const dz = ray[5]
  const wideX = dx < 0 ? -dx : dx
  const wideY = dy < 0 ? -dy : dy
  const wideZ = dz < 0 ? -dz : dz
  // The axis along which the ray goes farthest, and the other two so that the turn is kept.
  const kz = wideX > wideY ? (wideX > wideZ ? 0 : 2) : wideY > wideZ ? 1 : 2
  const flip = (kz === 0 ? dx : kz === 1 ? dy : dz) < 0
  const next = kz === 2 ? 0 : kz + 1
  const last = next === 2 ? 0 : next + 1
  const kx = flip ? last : next
  const ky = flip ? next : last
  const ok = kz === 0 ? ox : kz === 1 ? oy : oz
  const oi = kx === 0 ? ox : kx === 1 ? oy : oz
  const oj = ky === 0 ? ox : ky === 1 ? oy : oz
  const dk = kz === 0 ? dx : kz === 1 ? dy : dz
  if (dk === 0) return MISS
  // No triangle that reaches farther across the ray than all is wide: most are settled by this alone.
  const thin = 100 * THIN * surface.scale * surface.scale
  const sz = 1 / dk
  const sx = (kx === 0 ? dx : kx === 1 ? dy : dz) * sz
  const sy = (ky === 0 ? dx : ky === 1 ? dy : dz) * sz
  const ix = reciprocal(dx)
  const iy = reciprocal(dy)
  const iz = reciprocal(dz)
  const slack = SLACK * ((ox < 0 ? -ox : ox) + (oy < 0 ? -oy : oy) + (oz < 0 ? -oz : oz) + surface.scale)
  const nearX = ix < 0 ? 3 : 0
  const farX = 3 - nearX
  const nearY = iy < 0 ? 4 : 1
  const farY = 5 - nearY
  const nearZ = iz < 0 ? 5 : 2
  const farZ = 7 - nearZ
  const inX = ix < 0 ? ox - slack : ox + slack
  const outX = ix < 0 ? ox + slack : ox - slack
  const inY = iy < 0 ? oy - slack : oy + slack
  const outY = iy < 0 ? oy + slack : oy - slack
  const inZ = iz < 0 ? oz - slack : oz + slack
  const outZ = iz < 0 ? oz + slack : oz - slack
  if (stack.length < surface.depth + 2) {
    stack = new Int32Array(2 * surface.depth + 4)
    enters = new Float64Array(2 * surface.depth + 4)
  }
  const todo = stack
  const entries = enters
  let limit = out[SURFACE_FRACTION]
  let found = -1
  let foundU = 0
  let foundV = 0
  let foundW = 0
  todo[0] = 0
  entries[0] = 0
  let height = 1
  while (height > 0) {
    height = (height - 1) | 0
    if (entries[height] > limit) continue
    const link = todo[height]
    if (link >= 0) {
      const base = (link * NODE) | 0
      const x00 = (f32[(base + nearX) | 0] - inX) * ix
      const x01 = (f32[(base + farX) | 0] - outX) * ix
      const y00 = (f32[(base + nearY) | 0] - inY) * iy
      const y01 = (f32[(base + farY) | 0] - outY) * iy
      const z00 = (f32[(base + nearZ) | 0] - inZ) * iz
      const z01 = (f32[(base + farZ) | 0] - outZ) * iz
      const x10 = (f32[(base + nearX + 6) | 0] - inX) * ix
      const x11 = (f32[(base + farX + 6) | 0] - outX) * ix
      const y10 = (f32[(base + nearY + 6) | 0] - inY) * iy
      const y11 = (f32[(base + farY + 6) | 0] - outY) * iy
      const z10 = (f32[(base + nearZ + 6) | 0] - inZ) * iz
      const z11 = (f32[(base + farZ + 6) | 0] - outZ) * iz
      const enter0 = x00 > y00 ? (x00 > z00 ? x00 : z00) : y00 > z00 ? y00 : z00
      const enter1 = x10 > y10 ? (x10 > z10 ? x10 : z10) : y10 > z10 ? y10 : z10
      const hit0 =
        +(x00 <= y01) &
        +(x00 <= z01) &
        +(y00 <= x01) &
        +(y00 <= z01) &
        +(z00 <= x01) &
        +(z00 <= y01) &
        +(x00 <= limit) &
        +(y00 <= limit) &
        +(z00 <= limit) &
        +(x01 >= 0) &
        +(y01 >= 0) &
        +(z01 >= 0)
      const hit1 =
        +(x10 <= y11) &
        +(x10 <= z11) &
        +(y10 <= x11) &
        +(y10 <= z11) &
        +(z10 <= x11) &
        +(z10 <= y11) &
        +(x10 <= limit) &
        +(y10 <= limit) &
        +(z10 <= limit) &
        +(x11 >= 0) &
        +(y11 >= 0) &
        +(z11 >= 0)
      // The farther child goes below the nearer. Which are hit is unpredictable, so both are written and the height grows by 0 to 2.
      const both = hit0 & hit1
      const first = (hit1 & (1 - hit0)) | (both & +(enter1 < enter0))
      todo[height] = i32[(base + LINK + 1 - first) | 0]
      entries[height] = first === 1 ? enter0 : enter1
      height = (height + both) | 0
      todo[height] = i32[(base + LINK + first) | 0]
      entries[height] = first === 1 ? enter1 : enter0
      height = (height + (hit0 | hit1)) | 0
      continue
    }
    const code = ~link
    const start = code >> 3
    const end = (start + (code & 7) + 1) | 0
    for (let triangle = start; triangle < end; triangle++) {
      const at = (9 * triangle) | 0
      const az = corners[(at + kz) | 0] - ok
      const bz = corners[(at + 3 + kz) | 0] - ok
      const cz = corners[(at + 6 + kz) | 0] - ok
      const ax = corners[(at + kx) | 0] - oi - sx * az
      const ay = corners[(at + ky) | 0] - oj - sy * az
      const bx = corners[(at + 3 + kx) | 0] - oi - sx * bz
      const by = corners[(at + 3 + ky) | 0] - oj - sy * bz
      const cx = corners[(at + 6 + kx) | 0] - oi - sx * cz
      const cy = corners[(at + 6 + ky) | 0] - oj - sy * cz
      let u = cx * by - cy * bx
      let v = ax * cy - ay * cx
      let w = bx * ay - by * ax
      if (((+(u < 0) | +(v < 0) | +(w < 0)) & (+(u > 0) | +(v > 0) | +(w > 0))) !== 0) continue
      let det = u + v + w
      if (u === 0 || v === 0 || w === 0 || (det < thin && det > -thin)) {
        cold[0] = ax
        cold[1] = ay
        cold[2] = bx
        cold[3] = by
        cold[4] = cx
        cold[5] = cy
        cold[6] = u
        cold[7] = v
        cold[8] = w
        if (!resolve(corners, at)) continue
        u = cold[6]
        v = cold[7]
        w = cold[8]
        det = u + v + w
      }
      if (front && det < 0) continue
      const reach = (u * az + v * bz + w * cz) * sz
      // Along the motion and short of the limit, before anything is divided.
      if (det > 0 ? !(reach > 0 && reach <= WIDER * limit * det) : !(reach < 0 && reach >= WIDER * limit * det))
        continue
      // The fraction itself is compared, so that of two shapes in the same place both count.
      const fraction = reach / det
      if (fraction > limit) continue
      limit = fraction
      found = triangle
      foundU = u / det
      foundV = v / det
      foundW = w / det
    }
  }
  if (found < 0) return MISS
  out[SURFACE_FRACTION] = limit
  out[SURFACE_TRIANGLE] = found
  out[SURFACE_WEIGHTS] = foundU
  out[SURFACE_WEIGHTS + 1] = foundV
  out[SURFACE_WEIGHTS + 2] = foundW
  const at = (9 * found) | 0
  const ex = corners[at + 3] - corners[at]
  const ey = corners[at + 4] - corners[at + 1]
  const ez = corners[at + 5] - corners[at + 2]
  const fx = corners[at + 6] - corners[at]
  const fy = corners[at + 7] - corners[at + 1]
  const fz = corners[at + 8] - corners[at + 2]
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  out[SURFACE_BACK] = dx * nx + dy * ny + dz * nz > 0 ? 1 : 0
  out[SURFACE_NORMAL] = nx
  out[SURFACE_NORMAL + 1] = ny
  out[SURFACE_NORMAL + 2] = nz
  return HIT
}

/**
 * Settles a test in which an edge passes the ray so near that its product came out as zero, or in which the triangle has next to
 * no area as the ray sees it. (What is only seen edge on keeps its weights.)
 * @returns whether the ray meets the triangle
 */
function resolve(corners: Float64Array, at: number): boolean {
  const u = sign(4, 3, 5, 2)
  const v = sign(0, 5, 1, 4)
  const w = sign(2, 1, 3, 0)
  if ((u < 0 || v < 0 || w < 0) && (u > 0 || v > 0 || w > 0)) return false
  // Seen edge on: no area, and what it bounds is met by its neighbours.
  if (u === 0 && v === 0 && w === 0) return false
  if (cold[6] + cold[7] + cold[8] === 0 || isSliver(corners, at)) weighLine(u < 0 || v < 0 || w < 0 ? -1 : 1)
  return true
}

/** Whether a triangle is as good as a line. */
function isSliver(corners: Float64Array, at: number): boolean {
  const ex = corners[at + 3] - corners[at]
  const ey = corners[at + 4] - corners[at + 1]
  const ez = corners[at + 5] - corners[at + 2]
  const fx = corners[at + 6] - corners[at]
  const fy = corners[at + 7] - corners[at + 1]
  const fz = corners[at + 8] - corners[at + 2]
  const nx = ey * fz - ez * fy
  const ny = ez * fx - ex * fz
  const nz = ex * fy - ey * fx
  const ee = ex * ex + ey * ey + ez * ez
  const ff = fx * fx + fy * fy + fz * fz
  const gg = (fx - ex) * (fx - ex) + (fy - ey) * (fy - ey) + (fz - ez) * (fz - ez)
  const longest = ee > ff ? (ee > gg ? ee : gg) : ff > gg ? ff : gg
  return nx * nx + ny * ny + nz * nz < THIN * THIN * longest * longest
}

/** Writes weights of the place on the longest edge that is nearest to the ray, as it is seen along it. */
function weighLine(side: number): void {
  let from = 0
  let most = -1
  for (let corner = 0; corner < 3; corner++) {
    const to = corner === 2 ? 0 : corner + 1
    const x = cold[2 * to] - cold[2 * corner]
    const y = cold[2 * to + 1] - cold[2 * corner + 1]
    if (x * x + y * y <= most) continue
    most = x * x + y * y
    from = corner
  }
  const to = from === 2 ? 0 : from + 1
  const x = cold[2 * to] - cold[2 * from]
  const y = cold[2 * to + 1] - cold[2 * from + 1]
  const part = most > 0 ? -(cold[2 * from] * x + cold[2 * from + 1] * y) / most : 0
  const second = part < 0 ? 0 : part > 1 ? 1 : part
  cold[6] = cold[7] = cold[8] = 0
  cold[6 + from] = side * (1 - second)
  cold[6 + to] = side * second
}

/** The sign of p q - r s, exactly, of numbers in the cold array. */
function sign(p: number, q: number, r: number, s: number): number {
  const one = cold[p] * cold[q]
  const other = cold[r] * cold[s]
  if (one !== other) return one > other ? 1 : -1
  const rest = lost(cold[p], cold[q], one) - lost(cold[r], cold[s], other)
  return rest > 0 ? 1 : rest < 0 ? -1 : 0
}

/** What rounding took from a product. */
function lost(a: number, b: number, product: number): number {
  const wideA = SPLITTER * a
  const highA = wideA - (wideA - a)
  const lowA = a - highA
  const wideB = SPLITTER * b
  const highB = wideB - (wideB - b)
  const lowB = b - highB
  return lowA * lowB - (product - highA * highB - lowA * highB - highA * lowB)
}
