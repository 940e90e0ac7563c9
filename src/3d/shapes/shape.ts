/**
 * Shapes are immutable values that can be shared. Each is made of pieces: convex cores grown by a radius (a sphere is one
 * point, a capsule two, a hull its corners; boxes, cylinders and cones know themselves), a surface of triangles
 * (a mesh, a heightfield), or a half of space. Full sizes, never half sizes; a size is set, never scaled.
 */
import { refuseForeignShape } from '../../core/util/checks.ts'
import type { Surface } from '../surface/surface.ts'
import type { Rotation, Vec3 } from '../vector.ts'

export interface Piece {
  /** See shapes/words.ts. */
  readonly block: Float64Array
  /** The triangles of a mesh or a heightfield; null for every other piece. */
  readonly surface: Surface | null
  /** Index in the compound that it belongs to, -1 when there is none. */
  readonly child: number
}

/** Moments of inertia and products, as the symmetric tensor's six numbers. */
export interface Inertia {
  readonly xx: number
  readonly yy: number
  readonly zz: number
  readonly xy: number
  readonly xz: number
  readonly yz: number
}

/** What every shape knows about itself. */
export interface ShapeFacts {
  /** The dimension of the worlds that it is for. */
  readonly dimension: 3
  /** Cubic metres; a surface has none, a half of space Infinity. Overlaps within a compound count twice. */
  readonly volume: number
  /** Centre of volume; of a surface, of its area. */
  readonly centroid: Vec3
  /** Inertia tensor about the centroid at a density of 1, m^5; all zero for a surface. */
  readonly inertia: Inertia
  /** Bounds about the shape's own origin. */
  readonly bounds: { readonly min: Vec3; readonly max: Vec3 }
  /** @internal */
  readonly pieces: readonly Piece[]
}

export interface Sphere extends ShapeFacts {
  readonly kind: 'sphere'
  readonly radius: number
}

export interface Box extends ShapeFacts {
  readonly kind: 'box'
  /** Full sizes along the axes. */
  readonly size: Vec3
  /** Radius of the rounded edges and corners, within the full size. */
  readonly radius: number
}

export interface Capsule extends ShapeFacts {
  readonly kind: 'capsule'
  readonly a: Vec3
  readonly b: Vec3
  readonly radius: number
}

export interface Cylinder extends ShapeFacts {
  readonly kind: 'cylinder'
  /** Along y. */
  readonly height: number
  readonly radius: number
}

export interface Cone extends ShapeFacts {
  readonly kind: 'cone'
  /** Along y, the tip at the top; the origin is halfway. */
  readonly height: number
  /** Of its base. */
  readonly radius: number
}

export interface Hull extends ShapeFacts {
  readonly kind: 'hull'
  /** The corners, without those inside, on faces or on edges. */
  readonly points: readonly Vec3[]
  /** The faces: indexes of corners, counter-clockwise seen from outside. */
  readonly faces: readonly (readonly number[])[]
}

export type Sides = 'both' | 'front'

export interface Mesh extends ShapeFacts {
  readonly kind: 'mesh'
  /** Triangles, without those that have no area. */
  readonly triangles: number
  readonly sides: Sides
  /** Whether every edge joins exactly two triangles that run the same way round. */
  readonly closed: boolean
}

export interface Heightfield extends ShapeFacts {
  readonly kind: 'heightfield'
  /** Numbers of heights along x and along z. */
  readonly columns: number
  readonly rows: number
  readonly sides: Sides
}

export interface Halfspace extends ShapeFacts {
  readonly kind: 'halfspace'
  /** Unit, out of the solid side. */
  readonly normal: Vec3
  /** Metres from the origin to the surface, along the normal. */
  readonly offset: number
}

/** A shape within a compound. */
export interface CompoundPart {
  readonly shape: Exclude<Shape3, Compound | Halfspace>
  /** Default: the origin of the compound. */
  readonly at?: Vec3 | undefined
  readonly rotation?: Rotation | undefined
}

export interface Compound extends ShapeFacts {
  readonly kind: 'compound'
  readonly parts: readonly CompoundPart[]
}

export type Shape3 = Sphere | Box | Capsule | Cylinder | Cone | Hull | Mesh | Heightfield | Halfspace | Compound

/** Throws `bad-shape` for what is no shape of this dimension. */
export function refuseNoShape(value: unknown, what: string): void {
  refuseForeignShape(value, what, 3)
}
