/** Rays and motions as numbers: start, motion, and the length of the motion behind them. */
import { finite, notNegative, onlyFields, record } from '../util/checks.ts'
import { KeenError } from '../util/errors.ts'
import { COORDINATE } from '../util/limits.ts'

/** How a dimension reads vectors. Each throws `bad-argument` or `bad-number`, naming the argument. */
export interface VectorReader {
  readonly axes: number
  read(value: unknown, what: string, out: Float64Array, at: number): void
  /** The same, brought to length 1. */
  readDirection(value: unknown, what: string, out: Float64Array, at: number): void
}

/** The length in metres of a ray to which no end was given. */
export const ENDLESS = 1e9

const TO = ['from', 'to'] as const
const BY = ['from', 'by'] as const
const DIRECTION = ['from', 'direction', 'reach'] as const

/** Square of the length in metres below which a motion is none: its products would have no digits left. */
const NO_MOTION = 1e-300

interface AnyRay {
  readonly from?: unknown
  readonly to?: unknown
  readonly by?: unknown
  readonly direction?: unknown
  readonly reach?: number
}

/** Checks a ray and writes start, motion and length. */
export function readRay(ray: object, vectors: VectorReader, line: Float64Array): void {
  const { axes } = vectors
  record(ray, 'a ray')
  const { from, to, by, direction, reach } = ray as AnyRay
  vectors.read(from, "'from' of a ray", line, 0)
  if ('to' in ray) {
    onlyFields(ray, TO, "a ray with 'to'")
    vectors.read(to, "'to' of a ray", line, axes)
    for (let k = 0; k < axes; k++) line[axes + k] -= line[k]
  } else if ('by' in ray) {
    onlyFields(ray, BY, "a ray with 'by'")
    vectors.read(by, "'by' of a ray", line, axes)
  } else if ('direction' in ray) {
    onlyFields(ray, DIRECTION, "a ray with 'direction'")
    vectors.readDirection(direction, "'direction' of a ray", line, axes)
    const endless = reach === undefined || reach === Infinity
    const length = endless ? ENDLESS : notNegative(reach, "'reach' of a ray", COORDINATE)
    for (let k = 0; k < axes; k++) line[axes + k] *= length
  } else {
    throw new KeenError('bad-argument', "a ray needs 'to', 'by' or 'direction' besides 'from'")
  }
  finishLine(line, axes, 'a ray')
}

/** Drops a tiny motion and writes the length. Throws `bad-number` where it is not finite. */
export function finishLine(line: Float64Array, axes: number, what: string): void {
  if (!hasFiniteMotion(line, axes)) finite(Number.NaN, `the length of ${what}`)
  const square = dropTinyMotion(line, axes)
  line[2 * axes] = Math.sqrt(square)
}

export function hasFiniteMotion(line: Float64Array, axes: number): boolean {
  let sum = 0
  for (let k = 0; k < axes; k++) sum += line[axes + k]
  return Number.isFinite(sum)
}

/** Makes a motion that is too short to be computed with a standing still; returns the square of its length. */
export function dropTinyMotion(line: Float64Array, axes: number): number {
  let square = 0
  for (let k = 0; k < axes; k++) square += line[axes + k] * line[axes + k]
  if (square >= NO_MOTION) return square
  for (let k = 0; k < axes; k++) line[axes + k] = 0
  return 0
}
