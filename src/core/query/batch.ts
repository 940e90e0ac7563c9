/** What many questions at once are answered in: typed arrays, no objects. */
import { resultArrays } from '../util/checks.ts'
import { KeenError, show } from '../util/errors.ts'

/** What `overlap.batch` writes to, whatever the dimension. */
export interface OverlapResults {
  /** Where the colliders of each box begin in `collider`; one number more than there are boxes, the last of which says where they end. */
  readonly first: Int32Array
  /** For `world.colliderAt`, until the next removal. */
  readonly collider: Int32Array
}

/** What `nearest.batch` writes to, whatever the dimension. */
export interface NearestResults {
  /** Lengths; negative inside, Infinity where nothing is within reach. */
  readonly distance: Float64Array
  /** The nearest point of what was met: the coordinates of each. */
  readonly point: Float64Array
  /** Unit, towards the point that asks; inside, the way out. */
  readonly normal: Float64Array
  /** For `world.colliderAt`, until the next removal; -1 for none. */
  readonly collider: Int32Array
}

const MOST_RESULTS = 2 ** 26

/**
 * Results for up to `boxes` boxes with up to `hits` hits in all.
 * @throws KeenError `bad-number`
 */
export function overlapResults(boxes: number, hits: number): OverlapResults {
  checkSize(boxes, 'overlapResults')
  checkSize(hits, 'overlapResults')
  return { first: new Int32Array(boxes + 1), collider: new Int32Array(hits) }
}

/** Results for up to `count` points, of so many coordinates. */
export function newNearestResults(count: number, axes: number): NearestResults {
  checkSize(count, 'nearestResults')
  return {
    distance: new Float64Array(count),
    point: new Float64Array(axes * count),
    normal: new Float64Array(axes * count),
    collider: new Int32Array(count),
  }
}

/** Checks what many boxes are asked with: how many they are. */
export function checkBoxes(boxes: unknown, out: OverlapResults, axes: number): number {
  const count = countOf(boxes, 2 * axes, "'boxes' of a batch", `the least ${names(axes)}, then the greatest`)
  const maker = `overlapResults(${count}, …)`
  resultArrays(out, count + 1, [['first', Int32Array, 1]], maker)
  resultArrays(out, 0, [['collider', Int32Array, 1]], maker)
  const numbers = boxes as Float64Array
  for (let i = 0; i < numbers.length; i += 2 * axes) {
    let fits = true
    for (let k = 0; k < axes; k++) {
      const least = numbers[i + k]
      const most = numbers[i + axes + k]
      if (!(least <= most && least > -Infinity && most < Infinity)) fits = false
    }
    if (fits) continue
    const given = numbers.subarray(i, i + 2 * axes).join(', ')
    throw new KeenError(
      'bad-number',
      `box ${i / (2 * axes)} of a batch must have finite numbers, the least ${names(axes)} no greater than the greatest, got ${given}`,
    )
  }
  return count
}

/** Checks what many points are asked with: how many they are. */
export function checkPoints(points: unknown, out: NearestResults, axes: number): number {
  const count = countOf(points, axes + 1, "'points' of a batch", `${names(axes)}, reach`)
  resultArrays(
    out,
    count,
    [
      ['distance', Float64Array, 1],
      ['point', Float64Array, axes],
      ['normal', Float64Array, axes],
      ['collider', Int32Array, 1],
    ],
    `nearestResults(${count})`,
  )
  const numbers = points as Float64Array
  for (let i = 0; i < numbers.length; i += axes + 1) {
    let fits = numbers[i + axes] >= 0
    for (let k = 0; k < axes; k++) if (!Number.isFinite(numbers[i + k])) fits = false
    if (fits) continue
    const given = numbers.subarray(i, i + axes + 1).join(', ')
    throw new KeenError(
      'bad-number',
      `point ${i / (axes + 1)} of a batch must have finite coordinates and a reach of at least 0, got ${given}`,
    )
  }
  return count
}

function names(axes: number): string {
  return ['x', 'y', 'z'].slice(0, axes).join(', ')
}

function countOf(given: unknown, size: number, what: string, each: string): number {
  if (given instanceof Float64Array && given.length % size === 0) return given.length / size
  const got = given instanceof Float64Array ? `one of ${given.length}` : show(given)
  throw new KeenError('bad-argument', `${what} must be a Float64Array of ${size} numbers each (${each}), got ${got}`)
}

/** Checks how much is to be made room for. */
export function checkSize(count: number, maker: string): void {
  if (Number.isInteger(count) && count >= 0 && count <= MOST_RESULTS) return
  throw new KeenError('bad-number', `${maker} takes whole numbers from 0 to ${MOST_RESULTS}, got ${show(count)}`)
}
