/**
 * Polygons: the outline is cleaned and checked, and a concave one is cut into convex pieces: ears are clipped to
 * triangles (Meisters, 1975), which are then joined again wherever the result stays convex (Hertel and Mehlhorn, 1983).
 */

import { notNegative, onlyFields } from '../../core/util/checks.ts'
import { KeenError, show } from '../../core/util/errors.ts'
import { SIZE } from '../../core/util/limits.ts'
import { checkVec, type Vec2 } from '../vector.ts'
import { factsOf } from './facts.ts'
import { CONVEX } from './layout.ts'
import type { Piece, Polygon } from './shape.ts'

/** Sine of the bend below which three points count as in line. */
const STRAIGHT = 1e-12

/**
 * A polygon by its outline. Clockwise outlines are turned, repeated and collinear points dropped, a concave one is cut
 * into convex pieces.
 * @param points at least three that are not in line
 * @param options `radius` grows it outward and rounds its corners
 * @throws KeenError `bad-shape` when the outline crosses itself (the crossing is named) or has no area; `bad-number`
 */
export function polygon(points: readonly Vec2[], options: { radius?: number | undefined } = {}): Polygon {
  if (!Array.isArray(points))
    throw new KeenError('bad-argument', `a polygon takes a list of points, got ${show(points)}`)
  onlyFields(options, ['radius'], 'the options of a polygon')
  const radius = notNegative(options.radius ?? 0, "'radius' of a polygon", SIZE)
  const given = points.map((each, index) => {
    const { x, y } = checkVec(each, `points[${index}] of a polygon`)
    return Object.freeze({ x, y })
  })
  const outline = tidy(given)
  if (outline.length < 3) {
    throw new KeenError(
      'bad-shape',
      `a polygon needs at least three points that are not in line, got ${given.length} of which ${outline.length} count`,
    )
  }
  refuseCrossing(outline, given)
  if (twiceArea(outline) < 0) outline.reverse()
  const pieces: Piece[] = convexParts(outline).map((part) => ({
    block: Float64Array.of(CONVEX, part.length, radius, ...part.flatMap((p) => [p.x, p.y])),
    part: -1,
    child: -1,
  }))
  return Object.freeze({ kind: 'polygon', points: Object.freeze(outline), radius, ...factsOf(pieces) })
}

function cross(a: Vec2, b: Vec2, c: Vec2): number {
  return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)
}

function twiceArea(points: readonly Vec2[]): number {
  const [origin] = points
  let sum = 0
  for (let i = 1; i + 1 < points.length; i++) sum += cross(origin, points[i], points[i + 1])
  return sum
}

/** Not by `Math.hypot`, which engines round in different ways. */
function distanceOf(a: Vec2, b: Vec2): number {
  const x = b.x - a.x
  const y = b.y - a.y
  return Math.sqrt(x * x + y * y)
}

/** Whether b lies on the straight way through a and c, going on or turning back. */
function inLine(a: Vec2, b: Vec2, c: Vec2): boolean {
  const first = distanceOf(a, b)
  const second = distanceOf(b, c)
  return first === 0 || second === 0 || Math.abs(cross(a, b, c)) <= STRAIGHT * first * second
}

/** Drops repeated and collinear points until none is left. */
function tidy(points: readonly Vec2[]): Vec2[] {
  const kept = [...points]
  for (let i = 0, calm = 0; kept.length >= 3 && calm < kept.length; ) {
    const at = i % kept.length
    const before = kept[(at + kept.length - 1) % kept.length]
    const after = kept[(at + 1) % kept.length]
    if (inLine(before, kept[at], after)) {
      kept.splice(at, 1)
      calm = 0
      i = at === 0 ? 0 : at - 1
    } else {
      calm++
      i = at + 1
    }
  }
  return kept
}

/** Refuses an outline two of whose edges meet elsewhere than at a shared corner. */
function refuseCrossing(outline: readonly Vec2[], given: readonly Vec2[]): void {
  const n = outline.length
  for (let i = 0; i < n; i++) {
    for (let j = i + 2; j < n; j++) {
      if (i === 0 && j === n - 1) continue
      const [a, b, c, d] = [outline[i], outline[i + 1], outline[j], outline[(j + 1) % n]]
      if (!meet(a, b, c, d)) continue
      const name = (p: Vec2): string => `points[${given.indexOf(p)}]`
      throw new KeenError(
        'bad-shape',
        `the outline of a polygon crosses itself: the edge ${name(a)} to ${name(b)} meets the edge ${name(c)} to ${name(d)}`,
      )
    }
  }
}

function meet(a: Vec2, b: Vec2, c: Vec2, d: Vec2): boolean {
  const sides = [cross(a, b, c), cross(a, b, d), cross(c, d, a), cross(c, d, b)]
  if (sides[0] * sides[1] < 0 && sides[2] * sides[3] < 0) return true
  const within = (p: Vec2, q: Vec2, r: Vec2): boolean =>
    Math.min(p.x, q.x) <= r.x && r.x <= Math.max(p.x, q.x) && Math.min(p.y, q.y) <= r.y && r.y <= Math.max(p.y, q.y)
  return (
    (sides[0] === 0 && within(a, b, c)) ||
    (sides[1] === 0 && within(a, b, d)) ||
    (sides[2] === 0 && within(c, d, a)) ||
    (sides[3] === 0 && within(c, d, b))
  )
}

/** Convex polygons that make up a counter-clockwise outline. */
function convexParts(outline: readonly Vec2[]): Vec2[][] {
  const triangles = clipEars(outline)
  const parts: number[][] = triangles
  // Join two parts over a shared edge as long as the joint outline stays convex.
  for (let i = 0; i < parts.length; i++) {
    for (let j = i + 1; j < parts.length; ) {
      const joined = join(parts[i], parts[j], outline)
      if (joined === null) j++
      else {
        parts[i] = joined
        parts.splice(j, 1)
        j = i + 1
      }
    }
  }
  return parts.map((part) => tidy(part.map((index) => outline[index])))
}

function clipEars(outline: readonly Vec2[]): number[][] {
  const left = outline.map((_, index) => index)
  const triangles: number[][] = []
  const isEar = (at: number): boolean => {
    const before = left[(at + left.length - 1) % left.length]
    const after = left[(at + 1) % left.length]
    const [a, b, c] = [outline[before], outline[left[at]], outline[after]]
    if (cross(a, b, c) <= 0) return false
    return !left.some((index) => {
      if (index === before || index === left[at] || index === after) return false
      const p = outline[index]
      return cross(a, b, p) >= 0 && cross(b, c, p) >= 0 && cross(c, a, p) >= 0
    })
  }
  while (left.length > 3) {
    let at = left.findIndex((_, index) => isEar(index))
    // Rounding can hide every ear of a very thin outline: then the most convex corner is taken.
    if (at < 0) at = mostConvex(left, outline)
    triangles.push([left[(at + left.length - 1) % left.length], left[at], left[(at + 1) % left.length]])
    left.splice(at, 1)
  }
  triangles.push(left)
  return triangles.filter(([a, b, c]) => cross(outline[a], outline[b], outline[c]) > 0)
}

function mostConvex(left: readonly number[], outline: readonly Vec2[]): number {
  let best = 0
  let most = Number.NEGATIVE_INFINITY
  for (let at = 0; at < left.length; at++) {
    const a = outline[left[(at + left.length - 1) % left.length]]
    const c = outline[left[(at + 1) % left.length]]
    const bend = cross(a, outline[left[at]], c)
    if (bend > most) {
      most = bend
      best = at
    }
  }
  return best
}

/** Two parts joined over an edge that they share, or null when they share none or the result would not be convex. */
function join(one: readonly number[], other: readonly number[], outline: readonly Vec2[]): number[] | null {
  for (let i = 0; i < one.length; i++) {
    const a = one[i]
    const b = one[(i + 1) % one.length]
    const j = other.indexOf(b)
    if (j < 0 || other[(j + 1) % other.length] !== a) continue
    // From b around one to a, then around the other back to b.
    const joined: number[] = []
    for (let k = 1; k <= one.length; k++) joined.push(one[(i + k) % one.length])
    for (let k = 2; k < other.length; k++) joined.push(other[(j + k) % other.length])
    const convex = joined.every((_, k) => {
      const p = outline[joined[k]]
      const q = outline[joined[(k + 1) % joined.length]]
      const r = outline[joined[(k + 2) % joined.length]]
      return cross(p, q, r) >= 0
    })
    return convex ? joined : null
  }
  return null
}
