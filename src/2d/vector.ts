/** Vectors and poses of the plane, as the public interface takes them. */
import { finite } from '../core/checks.ts'
import { KeenError, show } from '../core/errors.ts'

/** A point or a direction. Any object with these fields can be passed in. */
export interface Vec2 {
  readonly x: number
  readonly y: number
}

/** A vector that a result can be written into. */
export interface MutableVec2 {
  x: number
  y: number
}

/** A place and a turn: metres, and radians counter-clockwise. */
export interface Pose2 {
  readonly at: Vec2
  readonly angle: number
}

export interface MutablePose2 {
  at: MutableVec2
  angle: number
}

/** Checks a vector. Throws `bad-argument` or `bad-number`, naming the argument. */
export function checkVec(value: unknown, what: string): Vec2 {
  if (typeof value !== 'object' || value === null || !('x' in value && 'y' in value)) {
    throw new KeenError('bad-argument', `${what} must be a vector { x, y }, got ${show(value)}`)
  }
  // The name of a field is only put together when it is wrong.
  if (!Number.isFinite(value.x)) finite(value.x, `${what}.x`)
  if (!Number.isFinite(value.y)) finite(value.y, `${what}.y`)
  return value as Vec2
}
