/**
 * Shapes are immutable values that can be shared. Every convex one is a core of 1 to n points, counter-clockwise,
 * grown by a radius: a circle is one point, a capsule two, a box four with radius 0.
 */
import type { Vec2 } from '../vector.ts'

interface Round {
  /** The radius, then the core points x, y, x, y … about the shape's own origin, counter-clockwise. @internal */
  readonly block: Float64Array
  /** How far the shape reaches beyond its core. */
  readonly radius: number
}

export interface Circle extends Round {
  readonly kind: 'circle'
}

export interface Box extends Round {
  readonly kind: 'box'
  readonly width: number
  readonly height: number
}

export interface Capsule extends Round {
  readonly kind: 'capsule'
  readonly a: Vec2
  readonly b: Vec2
}

export type Shape2 = Circle | Box | Capsule
