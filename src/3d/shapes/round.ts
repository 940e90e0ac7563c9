/** Shapes that are round about a point or an axis. */
import { size } from '../../core/util/checks.ts'
import { checkVec, ORIGIN, type Vec3 } from '../vector.ts'
import { factsOf, Moments, onePiece, PI, pointsBlock } from './facts.ts'
import { CONE, CYLINDER } from './layout.ts'
import type { Capsule, Cone, Cylinder, Sphere } from './shape.ts'

const UP: Vec3 = Object.freeze({ x: 0, y: 1, z: 0 })
/** Length of the segment, as a part of the radius, below which it counts as a point. */
const POINT_LIKE = 1e-15

function sphereVolume(r: number): number {
  return (4 / 3) * PI * r * r * r
}

/**
 * A sphere about its origin.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`
 */
export function sphere(radius: number): Sphere {
  size(radius, "'radius' of a sphere")
  const volume = sphereVolume(radius)
  const moments = new Moments()
  const each = (volume * radius * radius) / 5
  moments.addRound(volume, ORIGIN, UP, each, each)
  return Object.freeze({
    kind: 'sphere',
    radius,
    ...factsOf(onePiece(pointsBlock(radius, [ORIGIN])), moments, true),
  })
}

/**
 * All points within `radius` of the segment from `a` to `b`; when the two are equal, a sphere.
 * @param radius metres, above 0
 * @throws KeenError `bad-number`, `bad-argument`
 */
export function capsule(a: Vec3, b: Vec3, radius: number): Capsule {
  checkVec(a, "'a' of a capsule")
  checkVec(b, "'b' of a capsule")
  const r = size(radius, "'radius' of a capsule")
  const e = { x: b.x - a.x, y: b.y - a.y, z: b.z - a.z }
  // Shorter than the rounding of its radius, the segment has no direction that means anything.
  const isPoint = Math.max(Math.abs(e.x), Math.abs(e.y), Math.abs(e.z)) <= POINT_LIKE * r
  const length = isPoint ? 0 : Math.sqrt(e.x * e.x + e.y * e.y + e.z * e.z)
  const axis = isPoint ? UP : { x: e.x / length, y: e.y / length, z: e.z / length }
  const middle = { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, z: (a.z + b.z) / 2 }
  const moments = new Moments()
  const barrel = PI * r * r * length
  const caps = sphereVolume(r)
  // Two halves of a ball, each moved out by half the length; the first moment of half a ball about its disc is pi r^4 / 4.
  const along =
    (barrel * length * length) / 12 +
    (caps * length * length) / 4 +
    (PI * r * r * r * r * length) / 2 +
    (caps * r * r) / 5
  moments.addRound(barrel + caps, middle, axis, along, (barrel * r * r) / 4 + (caps * r * r) / 5)
  return Object.freeze({
    kind: 'capsule',
    a: Object.freeze({ x: a.x, y: a.y, z: a.z }),
    b: Object.freeze({ x: b.x, y: b.y, z: b.z }),
    radius: r,
    ...factsOf(onePiece(pointsBlock(r, isPoint ? [a] : [a, b])), moments, true),
  })
}

/**
 * A cylinder about its origin, along y.
 * @param height metres along y, above 0
 * @param radius metres, above 0
 * @throws KeenError `bad-number`
 */
export function cylinder(height: number, radius: number): Cylinder {
  size(height, "'height' of a cylinder")
  size(radius, "'radius' of a cylinder")
  const volume = PI * radius * radius * height
  const moments = new Moments()
  moments.addRound(volume, ORIGIN, UP, (volume * height * height) / 12, (volume * radius * radius) / 4)
  const block = [CYLINDER, 0, 0, 0, 0, 0, 0, 0, 1, 0, height / 2, radius]
  return Object.freeze({ kind: 'cylinder', height, radius, ...factsOf(onePiece(block), moments, true) })
}

/**
 * A cone along y with its tip at the top; its origin lies halfway up.
 * @param height metres from the base to the tip, above 0
 * @param radius metres, of the base, above 0
 * @throws KeenError `bad-number`
 */
export function cone(height: number, radius: number): Cone {
  size(height, "'height' of a cone")
  size(radius, "'radius' of a cone")
  const volume = (PI * radius * radius * height) / 3
  const moments = new Moments()
  const at = { x: 0, y: -height / 4, z: 0 }
  moments.addRound(volume, at, UP, (3 * volume * height * height) / 80, (3 * volume * radius * radius) / 20)
  const block = [CONE, 0, 0, 0, 0, 0, 0, 0, 1, 0, height / 2, radius]
  return Object.freeze({ kind: 'cone', height, radius, ...factsOf(onePiece(block), moments, true) })
}
