/**
 * Shapes are immutable values that can be shared. Each is made of pieces: convex cores of 1 to n points, counter-
 * clockwise, grown by a radius (a circle is one point, a capsule two, a box four), lines (two points, no radius, no
 * inside), or a half of the plane. Full sizes, never half sizes; a size is set, never scaled.
 */
import { refuseForeignShape } from '../../core/util/checks.ts'
import type { Vec2 } from '../vector.ts'

export interface Piece {
  /** Its numbers about the shape's origin: see layout.ts. */
  readonly block: Float64Array
  /** Number of the edge in the user's own numbering, -1 when there is none. */
  readonly part: number
  /** Index in the compound that it belongs to, -1 when there is none. */
  readonly child: number
}

/** What every shape knows about itself. */
export interface ShapeFacts {
  /** The dimension of the worlds that it is for. */
  readonly dimension: 2
  /** Square metres; a line has none, a half of the plane Infinity. Overlaps within a compound count twice. */
  readonly area: number
  /** Centre of area; of a line, its middle by length. */
  readonly centroid: Vec2
  /** Polar second moment of area about the centroid, m^4: inertia at a mass of 1 kg a square metre. */
  readonly inertia: number
  /** Bounds about the shape's own origin. */
  readonly bounds: { readonly min: Vec2; readonly max: Vec2 }
  /** @internal */
  readonly pieces: readonly Piece[]
}

export interface Circle extends ShapeFacts {
  readonly kind: 'circle'
  readonly radius: number
}

export interface Box extends ShapeFacts {
  readonly kind: 'box'
  readonly width: number
  readonly height: number
  /** Radius of the rounded corners, within the full size. */
  readonly radius: number
}

export interface Capsule extends ShapeFacts {
  readonly kind: 'capsule'
  readonly a: Vec2
  readonly b: Vec2
  readonly radius: number
}

export interface Polygon extends ShapeFacts {
  readonly kind: 'polygon'
  /** The outline, counter-clockwise, without repeated and collinear points. */
  readonly points: readonly Vec2[]
  /** How far it reaches beyond the outline. */
  readonly radius: number
}

export interface Segment extends ShapeFacts {
  readonly kind: 'segment'
  readonly a: Vec2
  readonly b: Vec2
}

export interface Polyline extends ShapeFacts {
  readonly kind: 'polyline'
  readonly points: readonly Vec2[]
  readonly loop: boolean
}

export interface Halfspace extends ShapeFacts {
  readonly kind: 'halfspace'
  /** Unit, out of the solid side. */
  readonly normal: Vec2
  /** Metres from the origin to the surface, along the normal. */
  readonly offset: number
}

/** A shape within a compound. */
export interface CompoundPart {
  readonly shape: Shape2
  /** Default: the origin of the compound. */
  readonly at?: Vec2 | undefined
  readonly angle?: number | undefined
}

export interface Compound extends ShapeFacts {
  readonly kind: 'compound'
  readonly parts: readonly CompoundPart[]
}

export type Shape2 = Circle | Box | Capsule | Polygon | Segment | Polyline | Halfspace | Compound

/** Throws `bad-shape` for what is no shape of this dimension. */
export function refuseNoShape(value: unknown, what: string): void {
  refuseForeignShape(value, what, 2)
}
