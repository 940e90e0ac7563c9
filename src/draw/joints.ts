/** Joints as lines and marks, each type so that one tells what it is; in either dimension. */
import type { JointType } from '../2d/index.ts'
import { BROKEN, JOINT } from './palette.ts'

/** A vector, and how a dimension adds a part of another to it. */
interface Vectors<V> {
  /** `p + k * v`. */
  plus(p: V, v: V, k: number): V
  /** `q - p`. */
  from(p: V, q: V): V
  length(v: V): number
  /** A unit direction across another. */
  across(v: V): V
}

/** A joint, as far as it is drawn. */
interface Shown<V> {
  readonly type: JointType
  readonly enabled: boolean
  readonly anchors: { readonly a: V; readonly b: V; readonly axis: V }
  readonly limits: { readonly min: number; readonly max: number } | null
}

/** What is drawn of a joint, with its limits where its type has any. */
export function jointLook<V>(joint: Shown<V>): Shown<V> {
  const { type, enabled, anchors } = joint
  const limited = type === 'distance' || type === 'slide' || type === 'axle'
  return { type, enabled, anchors, limits: limited ? joint.limits : null }
}

/** What is drawn of joints: lines and marks, in world units. */
export type JointItem<V> =
  | {
      readonly kind: 'line'
      readonly from: V
      readonly to: V
      readonly colour: string
      readonly width: number
      readonly dashed: boolean
    }
  | {
      readonly kind: 'mark'
      readonly at: V
      readonly sign: 'dot' | 'ring' | 'cross'
      readonly colour: string
      readonly size: number
    }

/** Turns of a spring, and how far they reach to either side, as a part of its length. */
const COILS = 6
const COIL_WIDTH = 0.12
const ARC_STEPS = 16

/** Draws a joint. @param centres of its bodies, of those that are not static: arms are drawn to them */
export function jointItems<V>(joint: Shown<V>, vectors: Vectors<V>, centres: readonly V[]): JointItem<V>[] {
  const colour = JOINT
  const { a, b, axis } = joint.anchors
  const items: JointItem<V>[] = []
  const dashed = !joint.enabled
  const line = (from: V, to: V, width = 1.4, dash = dashed): void => {
    items.push({ kind: 'line', from, to, colour, width, dashed: dash })
  }
  const mark = (at: V, sign: 'dot' | 'ring' | 'cross', size: number): void => {
    items.push({ kind: 'mark', at, sign, colour, size })
  }
  const coil = (from: V, to: V): void => {
    const way = vectors.from(from, to)
    const length = vectors.length(way)
    const aside = vectors.across(way)
    let last = from
    for (let i = 1; i < 2 * COILS; i++) {
      const next = vectors.plus(
        vectors.plus(from, way, i / (2 * COILS)),
        aside,
        (i % 2 === 0 ? -1 : 1) * COIL_WIDTH * length,
      )
      line(last, next)
      last = next
    }
    line(last, to)
  }
  switch (joint.type) {
    case 'hinge':
    case 'ball':
      for (const centre of centres) line(a, centre, 1)
      mark(a, 'ring', joint.type === 'ball' ? 11 : 8)
      break
    case 'distance': {
      // A rope that is slack is dashed.
      const slack = joint.limits !== null && joint.limits.max > vectors.length(vectors.from(a, b)) * 1.001
      line(a, b, 2, dashed || slack)
      mark(a, 'dot', 5)
      mark(b, 'dot', 5)
      break
    }
    case 'spring':
      coil(a, b)
      mark(a, 'dot', 4)
      mark(b, 'dot', 4)
      break
    case 'slide':
    case 'axle': {
      const base = a
      const { min, max } = joint.limits ?? { min: -Infinity, max: Infinity }
      const from = vectors.plus(base, axis, Number.isFinite(min) ? min : -1)
      const to = vectors.plus(base, axis, Number.isFinite(max) ? max : 1)
      const aside = vectors.across(axis)
      line(from, to, 1)
      for (const [end, at] of [
        [min, from],
        [max, to],
      ] as const) {
        // A stop across the way, where there is a limit.
        if (Number.isFinite(end)) line(vectors.plus(at, aside, -0.12), vectors.plus(at, aside, 0.12), 2)
      }
      if (joint.type === 'axle') coil(vectors.plus(b, axis, 0.5), b)
      mark(b, joint.type === 'axle' ? 'ring' : 'dot', joint.type === 'axle' ? 8 : 6)
      break
    }
    case 'fixed':
      for (const centre of centres) line(a, centre, 1)
      mark(a, 'cross', 9)
      break
    case 'carry':
      line(a, b, 1.2, true)
      mark(a, 'dot', 6)
      mark(b, 'ring', 12)
      break
  }
  return items
}

/** How far a hinge may turn: an arc about it, from a direction that stands for none. */
export function arcItems<V>(
  at: V,
  limits: { readonly min: number; readonly max: number } | null,
  turned: (angle: number) => V,
  vectors: Vectors<V>,
): JointItem<V>[] {
  if (limits === null) return []
  const items: JointItem<V>[] = []
  const min = Math.max(limits.min, -2 * Math.PI)
  const max = Math.min(limits.max, min + 2 * Math.PI)
  let last = vectors.plus(at, turned(min), 1)
  const line = (from: V, to: V): void => {
    items.push({ kind: 'line', from, to, colour: JOINT, width: 1, dashed: false })
  }
  line(at, last)
  for (let i = 1; i <= ARC_STEPS; i++) {
    const next = vectors.plus(at, turned(min + ((max - min) * i) / ARC_STEPS), 1)
    line(last, next)
    last = next
  }
  line(last, at)
  return items
}

/** Where a joint broke in the last tick. */
export function brokenItems<V>({ a, b }: { readonly a: V; readonly b: V }): JointItem<V>[] {
  return [a, b].map((at) => ({ kind: 'mark', at, sign: 'cross', colour: BROKEN, size: 16 }))
}
