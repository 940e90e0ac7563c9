/** Rays and motions as numbers: start, motion, and the length of the motion behind them. */
import { finite, notNegative, onlyFields, record } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { COORDINATE } from '../util/limits.ts'

/** How a dimension reads and writes vectors `V`. What reads throws `bad-argument` or `bad-number`, naming the argument. */
export interface Vectors<V> {
  readonly axes: number
  read(value: unknown, what: string, out: Float64Array, at: number): void
  /** The same, brought to length 1. */
  readDirection(value: unknown, what: string, out: Float64Array, at: number): void
  /** A new vector of zeros. */
  zero(): V
  /** Writes a vector from numbers, without a negative zero. */
  write(out: V, from: Float64Array, at: number): void
  /** Writes the point at a fraction of a line. */
  writeAlong(out: V, line: Float64Array, fraction: number): void
}

/** The length in metres of a ray to which no end was given. */
export const ENDLESS = 1e9

const TO = ['from', 'to'] as const
const BY = ['from', 'by'] as const
const DIRECTION = ['from', 'direction', 'reach'] as const

/** Square of the length in metres below which a motion is none: its products would have no digits left. */
const NO_MOTION = 1e-300

/** A ray as somebody may pass it. */
interface AnyRay {
  readonly from?: unknown | undefined
  readonly to?: unknown | undefined
  readonly by?: unknown | undefined
  readonly direction?: unknown | undefined
  readonly reach?: number | undefined
}

/** Checks a ray and writes start, motion and length. */
export function readRay(ray: AnyRay, vectors: Vectors<unknown>, line: Float64Array): void {
  const { axes } = vectors
  record(ray, 'a ray')
  vectors.read(ray.from, "'from' of a ray", line, 0)
  if ('to' in ray) {
    onlyFields(ray, TO, "a ray with 'to'")
    vectors.read(ray.to, "'to' of a ray", line, axes)
    line[axes] -= line[0]
    line[axes + 1] -= line[1]
    if (axes === 3) line[5] -= line[2]
  } else if ('by' in ray) {
    onlyFields(ray, BY, "a ray with 'by'")
    vectors.read(ray.by, "'by' of a ray", line, axes)
  } else if ('direction' in ray) {
    onlyFields(ray, DIRECTION, "a ray with 'direction'")
    vectors.readDirection(ray.direction, "'direction' of a ray", line, axes)
    const endless = ray.reach === undefined || ray.reach === Infinity
    const length = endless ? ENDLESS : notNegative(ray.reach, "'reach' of a ray", COORDINATE)
    for (let k = 0; k < axes; k++) line[axes + k] *= length
  } else {
    throw new KeenError('bad-argument', "a ray needs 'to', 'by' or 'direction' besides 'from'")
  }
  finishLine(line, axes, 'a ray')
}

/** Drops a tiny motion and writes the length. Throws `bad-number` where it is not finite. */
export function finishLine(line: Float64Array, axes: number, what: string): void {
  if (!hasFiniteMotion(line, axes)) finite(Number.NaN, `the length of ${what}`)
  dropTinyMotion(line, axes)
  const x = line[axes]
  const y = line[axes + 1]
  const z = axes === 3 ? line[5] : 0
  line[2 * axes] = Math.sqrt(x * x + y * y + z * z)
}

export function hasFiniteMotion(line: Float64Array, axes: number): boolean {
  return Number.isFinite(line[axes] + line[axes + 1] + (axes === 3 ? line[5] : 0))
}

/** Makes a motion that is too short to be computed with a standing still. */
export function dropTinyMotion(line: Float64Array, axes: number): void {
  const x = line[axes]
  const y = line[axes + 1]
  const z = axes === 3 ? line[5] : 0
  if (x * x + y * y + z * z < NO_MOTION) for (let k = 0; k < axes; k++) line[axes + k] = 0
}
