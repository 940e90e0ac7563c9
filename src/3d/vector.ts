/** Vectors, rotations and poses of 3D, as the public interface takes them. */
import type { Vectors } from '../core/query/lines.ts'
import { finite, vectorHint } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { ANGLE, COORDINATE } from '../core/util/limits.ts'
import { cosSin } from '../core/util/maths.ts'
import type * as places from '../core/util/places.ts'

const PLACE: typeof places.PLACE = 0x3fffffff

/** A point or a direction. Any object with these fields can be passed in. */
export interface Vec3 {
  /** Along x. */
  readonly x: number
  /** Along y, upwards. */
  readonly y: number
  /** Along z. */
  readonly z: number
}

/** A vector that a result can be written into. */
export interface MutableVec3 {
  /** Along x. */
  x: number
  /** Along y, upwards. */
  y: number
  /** Along z. */
  z: number
}

/** A rotation as a unit quaternion. One of another length is brought to length 1. */
export interface Rotation {
  /** The first part of the axis. */
  readonly x: number
  /** The second part of the axis. */
  readonly y: number
  /** The third part of the axis. */
  readonly z: number
  /** The part that is no axis: the cosine of half the angle. */
  readonly w: number
}

/** A quaternion that can be written into. */
export interface MutableRotation {
  /** The first part of the axis. */
  x: number
  /** The second part of the axis. */
  y: number
  /** The third part of the axis. */
  z: number
  /** The part that is no axis: the cosine of half the angle. */
  w: number
}

/** A place and a rotation. */
export interface Pose3 {
  /** Place of the origin. */
  readonly at: Vec3
  /** A unit quaternion. */
  readonly rotation: Rotation
}

/** A pose that can be written into. */
export interface MutablePose3 {
  /** Place of the origin. */
  at: MutableVec3
  /** A unit quaternion. */
  rotation: MutableRotation
}

export const ORIGIN: Vec3 = Object.freeze({ x: 0, y: 0, z: 0 })
/** No rotation. */
export const UPRIGHT: Rotation = Object.freeze({ x: 0, y: 0, z: 0, w: 1 })

/** Places in a pose of numbers: x, y, z, then the rotation's matrix row by row. */
export const FRAME = 3
export const POSE_SIZE = 12

/**
 * Checks a vector. Throws `bad-argument` or `bad-number`, naming the argument.
 * @param most how far from 0 its numbers may be
 */
export function checkVec(value: unknown, what: string, most = COORDINATE): Vec3 {
  // Most are right: they are not checked any closer.
  if (typeof value === 'object' && value !== null) {
    const { x, y, z } = value as Vec3
    if (isWithin(x, most) && isWithin(y, most) && isWithin(z, most)) return value as Vec3
  }
  return refuseVec(value, what, most)
}

function refuseVec(value: unknown, what: string, most: number): Vec3 {
  if (typeof value !== 'object' || value === null || !('x' in value && 'y' in value && 'z' in value)) {
    throw new KeenError(
      'bad-argument',
      `${what} must be a vector { x, y, z }, got ${show(value)}${vectorHint(value, ['x', 'y', 'z'])}`,
    )
  }
  finite(value.x, `'x' of ${what}`, most)
  finite(value.y, `'y' of ${what}`, most)
  finite(value.z, `'z' of ${what}`, most)
  return value as Vec3
}

function isWithin(value: unknown, most: number): boolean {
  return typeof value === 'number' && value <= most && value >= -most
}

/** Checks a direction and brings it to length 1. */
export function checkDirection(value: unknown, what: string): Vec3 {
  writeDirection(checkVec(value, what, Number.MAX_VALUE), what, direction, 0)
  return { x: direction[0], y: direction[1], z: direction[2] }
}

const direction = new Float64Array(3)

function writeDirection({ x, y, z }: Vec3, what: string, out: Float64Array, at: number): void {
  const most = Math.max(Math.abs(x), Math.abs(y), Math.abs(z))
  if (most === 0) throw new KeenError('bad-argument', `${what} must not be zero`)
  out[at] = x / most
  out[at + 1] = y / most
  out[at + 2] = z / most
  const length = Math.sqrt(out[at] * out[at] + out[at + 1] * out[at + 1] + out[at + 2] * out[at + 2])
  for (let k = at; k < at + 3; k++) out[k] /= length
}

/** Square of a quaternion's length that counts as 1, to rounding. */
const UNIT = 4e-16

/** Checks a rotation and writes it as a unit quaternion x, y, z, w. Throws `bad-argument` or `bad-number`. */
export function checkRotation(value: unknown, what: string, out: Float64Array, at: number): void {
  if (typeof value !== 'object' || value === null || !('x' in value && 'y' in value && 'z' in value && 'w' in value)) {
    throw new KeenError('bad-argument', `${what} must be a rotation { x, y, z, w }, got ${show(value)}`)
  }
  out[at] = finite(value.x, `'x' of ${what}`)
  out[at + 1] = finite(value.y, `'y' of ${what}`)
  out[at + 2] = finite(value.z, `'z' of ${what}`)
  out[at + 3] = finite(value.w, `'w' of ${what}`)
  if (!normalise(out, at)) throw new KeenError('bad-argument', `${what} must not be zero in all four numbers`)
}

/** Brings a quaternion to length 1; one that has it already stays to the bit. False for zero. */
export function normalise(q: Float64Array, at: number): boolean {
  let square = 0
  for (let i = 0; i < 4; i++) square += q[at + i] * q[at + i]
  if (Math.abs(square - 1) <= UNIT) return true
  if (!(square > 1e-300 && square < 1e300)) {
    let most = 0
    for (let i = 0; i < 4; i++) most = Math.max(most, Math.abs(q[at + i]))
    if (most === 0) return false
    for (let i = 0; i < 4; i++) q[at + i] /= most
    square = 0
    for (let i = 0; i < 4; i++) square += q[at + i] * q[at + i]
  }
  const length = Math.sqrt(square)
  for (let i = 0; i < 4; i++) q[at + i] /= length
  return true
}

/** Writes the matrix of a unit quaternion, row by row. */
export function writeFrame(q: Float64Array, from: number, out: Float64Array, to: number): void {
  const f = from & PLACE
  const at = to & PLACE
  const x = q[f]
  const y = q[f + 1]
  const z = q[f + 2]
  const w = q[f + 3]
  out[at] = 1 - 2 * (y * y + z * z)
  out[at + 1] = 2 * (x * y - w * z)
  out[at + 2] = 2 * (x * z + w * y)
  out[at + 3] = 2 * (x * y + w * z)
  out[at + 4] = 1 - 2 * (x * x + z * z)
  out[at + 5] = 2 * (y * z - w * x)
  out[at + 6] = 2 * (x * z - w * y)
  out[at + 7] = 2 * (y * z + w * x)
  out[at + 8] = 1 - 2 * (x * x + y * y)
}

/** Writes the product of two quaternions: first the second rotation, then the first. May write over either. */
export function multiply(
  a: Float64Array,
  aAt: number,
  b: Float64Array,
  bAt: number,
  out: Float64Array,
  to: number,
): void {
  const i = aAt & PLACE
  const j = bAt & PLACE
  const at = to & PLACE
  const ax = a[i]
  const ay = a[i + 1]
  const az = a[i + 2]
  const aw = a[i + 3]
  const bx = b[j]
  const by = b[j + 1]
  const bz = b[j + 2]
  const bw = b[j + 3]
  out[at] = aw * bx + ax * bw + ay * bz - az * by
  out[at + 1] = aw * by - ax * bz + ay * bw + az * bx
  out[at + 2] = aw * bz + ax * by - ay * bx + az * bw
  out[at + 3] = aw * bw - ax * bx - ay * by - az * bz
}

const turn = new Float64Array(3)

/**
 * Writes the quaternion of a turn given as a vector: its direction is the axis, its length the angle in radians (right-
 * handed).
 */
export function writeTurn(v: Float64Array, from: number, out: Float64Array, at: number): void {
  const x = v[from]
  const y = v[from + 1]
  const z = v[from + 2]
  const angle = Math.sqrt(x * x + y * y + z * z)
  turn[0] = angle / 2
  cosSin(turn, 0)
  // Near zero the sine of half the angle over the angle is a half.
  const part = angle < 1e-8 ? 0.5 : turn[2] / angle
  out[at] = x * part
  out[at + 1] = y * part
  out[at + 2] = z * part
  out[at + 3] = turn[1]
}

/** Writes a pose of numbers from a point and a rotation. Throws as {@link checkRotation}. */
export function writePose(at: Vec3, rotation: Rotation | undefined, what: string, out: Float64Array): void {
  out[0] = at.x
  out[1] = at.y
  out[2] = at.z
  if (rotation === undefined) {
    out.fill(0, FRAME, POSE_SIZE)
    out[FRAME] = out[FRAME + 4] = out[FRAME + 8] = 1
    return
  }
  checkRotation(rotation, what, quaternion, 0)
  writeFrame(quaternion, 0, out, FRAME)
}

const quaternion = new Float64Array(4)
const matrix = new Float64Array(9)

/**
 * The rotation about an axis, right-handed: seen from the tip of the axis, counter-clockwise.
 * @param axis of any length but 0
 * @param angle radians
 * @throws KeenError `bad-argument`, `bad-number`
 */
export function rotationAbout(axis: Vec3, angle: number): Rotation {
  const { x, y, z } = checkDirection(axis, "'axis' of a rotation")
  finite(angle, "'angle' of a rotation", ANGLE)
  turn[0] = angle / 2
  cosSin(turn, 0)
  return { x: x * turn[2], y: y * turn[2], z: z * turn[2], w: turn[1] }
}

/**
 * The rotation that turns -z to a direction (forward, as a camera looks) and keeps y as near to `up` as it can.
 * @param forward of any length but 0
 * @param up default y; where it lies along `forward`, another is taken
 * @throws KeenError `bad-argument`, `bad-number`
 */
export function rotationTowards(forward: Vec3, up: Vec3 = { x: 0, y: 1, z: 0 }): Rotation {
  const f = checkDirection(forward, "'forward' of a rotation")
  const back = { x: -f.x, y: -f.y, z: -f.z }
  let right = cross(checkDirection(up, "'up' of a rotation"), back)
  let length = Math.sqrt(dot(right, right))
  if (length < 1e-9) {
    const other = Math.abs(f.x) < 0.5 ? { x: 1, y: 0, z: 0 } : { x: 0, y: 0, z: 1 }
    right = cross(other, back)
    length = Math.sqrt(dot(right, right))
  }
  right = { x: right.x / length, y: right.y / length, z: right.z / length }
  const top = cross(back, right)
  return ofColumns(right, top, back)
}

/** A vector turned by a rotation. */
export function rotated(rotation: Rotation, vector: Vec3): MutableVec3 {
  checkRotation(rotation, "'rotation'", quaternion, 0)
  const { x, y, z } = checkVec(vector, "'vector'")
  writeFrame(quaternion, 0, matrix, 0)
  return {
    x: matrix[0] * x + matrix[1] * y + matrix[2] * z,
    y: matrix[3] * x + matrix[4] * y + matrix[5] * z,
    z: matrix[6] * x + matrix[7] * y + matrix[8] * z,
  }
}

export function cross(a: Vec3, b: Vec3): Vec3 {
  return { x: a.y * b.z - a.z * b.y, y: a.z * b.x - a.x * b.z, z: a.x * b.y - a.y * b.x }
}

export function dot(a: Vec3, b: Vec3): number {
  return a.x * b.x + a.y * b.y + a.z * b.z
}

/** The rotation whose matrix has these columns, by the largest of its four numbers (Shepperd, 1978). */
function ofColumns(a: Vec3, b: Vec3, c: Vec3): Rotation {
  const sum = a.x + b.y + c.z
  if (sum > 0) {
    const s = 2 * Math.sqrt(1 + sum)
    return { x: (b.z - c.y) / s, y: (c.x - a.z) / s, z: (a.y - b.x) / s, w: s / 4 }
  }
  if (a.x > b.y && a.x > c.z) {
    const s = 2 * Math.sqrt(1 + a.x - b.y - c.z)
    return { x: s / 4, y: (a.y + b.x) / s, z: (c.x + a.z) / s, w: (b.z - c.y) / s }
  }
  if (b.y > c.z) {
    const s = 2 * Math.sqrt(1 + b.y - a.x - c.z)
    return { x: (a.y + b.x) / s, y: s / 4, z: (b.z + c.y) / s, w: (c.x - a.z) / s }
  }
  const s = 2 * Math.sqrt(1 + c.z - a.x - b.y)
  return { x: (c.x + a.z) / s, y: (b.z + c.y) / s, z: s / 4, w: (a.y - b.x) / s }
}

/** How the core reads and writes vectors of 3D. */
export const VECTORS: Vectors<MutableVec3> = {
  axes: 3,
  read(value, what, out, at) {
    const { x, y, z } = checkVec(value, what)
    out[at] = x
    out[at + 1] = y
    out[at + 2] = z
  },
  readDirection(value, what, out, at) {
    writeDirection(checkVec(value, what, Number.MAX_VALUE), what, out, at)
  },
  zero: () => ({ x: 0, y: 0, z: 0 }),
  write(out, from, at) {
    // Adding 0 turns -0 into 0.
    out.x = from[at] + 0
    out.y = from[at + 1] + 0
    out.z = from[at + 2] + 0
  },
  writeAlong(out, line, fraction) {
    out.x = line[0] + fraction * line[3]
    out.y = line[1] + fraction * line[4]
    out.z = line[2] + fraction * line[5]
  },
}
