/** Shapes without area, and the halfspace. */

import { finite, flag, onlyFields } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { COORDINATE } from '../../core/util/limits.ts'
import { checkDirection, checkVec, type Vec2 } from '../vector.ts'
import { factsOf } from './facts.ts'
import { LINE, PLANE } from './layout.ts'
import type { Halfspace, Piece, Polyline, Segment } from './shape.ts'

/** Metres whose square still has all its digits. */
const TINY = 1e-150

function point(value: unknown, what: string): Vec2 {
  const { x, y } = checkVec(value, what)
  return Object.freeze({ x, y })
}

/** Whether two points are one: equal, or so near that the square of their distance is lost. */
function same(a: Vec2, b: Vec2): boolean {
  return Math.abs(a.x - b.x) < TINY && Math.abs(a.y - b.y) < TINY
}

function line(a: Vec2, b: Vec2, part: number): Piece {
  return { block: Float64Array.of(LINE, 2, 0, a.x, a.y, b.x, b.y), part, child: -1 }
}

/**
 * A segment from `a` to `b`: no area, no inside, hit from both sides.
 * @throws KeenError `bad-number`, `bad-argument`, `bad-shape` when the two are equal or nearer than 1e-150 to each other
 */
export function segment(a: Vec2, b: Vec2): Segment {
  const from = point(a, "'a' of a segment")
  const to = point(b, "'b' of a segment")
  if (same(from, to)) {
    throw new KeenError(
      'bad-shape',
      `a segment must join two different points, got (${from.x}, ${from.y}) and (${to.x}, ${to.y}): not nearer than 1e-150`,
    )
  }
  return Object.freeze({ kind: 'segment', a: from, b: to, ...factsOf([line(from, to, -1)]) })
}

/**
 * Segments from point to point: no area and no inside, a closed loop included. `part` of a hit is the index of the
 * segment's first point in the list that was given; repeated points are passed over.
 * @param options `loop` joins the last point with the first
 * @throws KeenError `bad-number`, `bad-argument`, `bad-shape` with fewer than two different points
 */
export function polyline(points: readonly Vec2[], options: { loop?: boolean | undefined } = {}): Polyline {
  if (!Array.isArray(points))
    throw new KeenError('bad-argument', `a polyline takes a list of points, got ${show(points)}`)
  onlyFields(options, ['loop'], 'the options of a polyline')
  const loop = flag(options.loop, false, "'loop' of a polyline")
  const all = points.map((each, index) => point(each, `points[${index}] of a polyline`))
  const pieces: Piece[] = []
  const count = loop ? all.length : all.length - 1
  // A repeated point joins what is on its two sides.
  for (let i = 0; i < count; i++) {
    const a = all[i]
    const b = all[(i + 1) % all.length]
    if (!same(a, b)) pieces.push(line(a, b, i))
  }
  if (pieces.length === 0) throw new KeenError('bad-shape', 'a polyline needs at least two different points')
  return Object.freeze({ kind: 'polyline', points: Object.freeze(all), loop, ...factsOf(pieces) })
}

/**
 * Everything on one side of a line: the points with `normal . p <= offset`. For static bodies; it cannot ask.
 * @param normal out of the solid side, of any length but 0
 * @param offset metres from the origin to the surface along the normal
 * @throws KeenError `bad-number`, `bad-argument`
 */
export function halfspace(normal: Vec2, offset: number): Halfspace {
  const { x, y } = checkDirection(normal, "'normal' of a halfspace")
  finite(offset, "'offset' of a halfspace", COORDINATE)
  const piece: Piece = { block: Float64Array.of(PLANE, 1, offset, x, y), part: -1, child: -1 }
  return Object.freeze({
    kind: 'halfspace',
    normal: Object.freeze({ x, y }),
    offset,
    ...factsOf([piece]),
  })
}
