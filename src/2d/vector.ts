/** Vectors and poses of 2D, as the public interface takes them. */

import type { Vectors } from '../core/query/lines.ts'
import { finite, vectorHint } from '../core/util/checks.ts'
import { KeenError, show } from '../core/util/errors.ts'
import { COORDINATE } from '../core/util/limits.ts'

/** A point or a direction. Any object with these fields can be passed in. */
export interface Vec2 {
  /** Along x, to the right. */
  readonly x: number
  /** Along y, upwards. */
  readonly y: number
}

/** A vector that a result can be written into. */
export interface MutableVec2 {
  /** Along x, to the right. */
  x: number
  /** Along y, upwards. */
  y: number
}

/** A place and a turn: metres, and radians counter-clockwise. */
export interface Pose2 {
  /** Place of the origin. */
  readonly at: Vec2
  /** Radians, counter-clockwise. */
  readonly angle: number
}

/** A pose that can be written into. */
export interface MutablePose2 {
  /** Place of the origin. */
  at: MutableVec2
  /** Radians, counter-clockwise. */
  angle: number
}

/**
 * Checks a vector. Throws `bad-argument` or `bad-number`, naming the argument.
 * @param most how far from 0 its numbers may be
 */
export function checkVec(value: unknown, what: string, most = COORDINATE): Vec2 {
  // Most are right: they are not checked any closer.
  if (typeof value === 'object' && value !== null) {
    const { x, y } = value as Vec2
    if (isWithin(x, most) && isWithin(y, most)) return value as Vec2
  }
  return refuseVec(value, what, most)
}

function refuseVec(value: unknown, what: string, most: number): Vec2 {
  if (typeof value !== 'object' || value === null || !('x' in value && 'y' in value)) {
    throw new KeenError(
      'bad-argument',
      `${what} must be a vector { x, y }, got ${show(value)}${vectorHint(value, ['x', 'y'])}`,
    )
  }
  finite(value.x, `'x' of ${what}`, most)
  finite(value.y, `'y' of ${what}`, most)
  return value as Vec2
}

function isWithin(value: unknown, most: number): boolean {
  return typeof value === 'number' && value <= most && value >= -most
}

/**
 * Checks a direction and brings it to length 1: by its greater part first, so that no square is lost or endless.
 */
export function checkDirection(value: unknown, what: string): Vec2 {
  writeDirection(checkVec(value, what, Number.MAX_VALUE), what, direction, 0)
  return { x: direction[0], y: direction[1] }
}

const direction = new Float64Array(2)

function writeDirection({ x, y }: Vec2, what: string, out: Float64Array, at: number): void {
  const most = Math.max(Math.abs(x), Math.abs(y))
  if (most === 0) throw new KeenError('bad-argument', `${what} must not be zero`)
  const length = Math.sqrt((x / most) * (x / most) + (y / most) * (y / most))
  out[at] = x / most / length
  out[at + 1] = y / most / length
}

/** How the core reads and writes vectors of 2D. */
export const VECTORS: Vectors<MutableVec2> = {
  axes: 2,
  read(value, what, out, at) {
    const { x, y } = checkVec(value, what)
    out[at] = x
    out[at + 1] = y
  },
  readDirection(value, what, out, at) {
    writeDirection(checkVec(value, what, Number.MAX_VALUE), what, out, at)
  },
  zero: () => ({ x: 0, y: 0 }),
  write(out, from, at) {
    // Adding 0 turns -0 into 0.
    out.x = from[at] + 0
    out.y = from[at + 1] + 0
  },
  writeAlong(out, line, fraction) {
    out.x = line[0] + fraction * line[2]
    out.y = line[1] + fraction * line[3]
  },
}
