/**
 * Shapes are immutable values that can be shared. Each is made of pieces: convex cores grown by a radius (a sphere is one
 * point, a capsule two, a hull its corners; boxes, cylinders and cones know themselves), a surface of triangles
 * (a mesh, a heightfield), or a halfspace. Full sizes, never half sizes; a size is set, never scaled.
 */
import { refuseForeignShape } from '../../core/util/checks.ts'
import type { Surface } from '../surface/surface.ts'
import type { Rotation, Vec3 } from '../vector.ts'

export interface Piece {
  /** See shapes/layout.ts. */
  readonly block: Float64Array
  /** The triangles of a mesh or a heightfield; null for every other piece. */
  readonly surface: Surface | null
  /** Index in the compound that it belongs to, -1 when there is none. */
  readonly child: number
}

/** Moments of inertia and products, as the symmetric tensor's six numbers. */
export interface Inertia {
  /** About the axis of x. */
  readonly xx: number
  /** About the axis of y. */
  readonly yy: number
  /** About the axis of z. */
  readonly zz: number
  /** Product of x and y. */
  readonly xy: number
  /** Product of x and z. */
  readonly xz: number
  /** Product of y and z. */
  readonly yz: number
}

/** What every shape knows about itself. */
export interface ShapeFacts {
  /** The dimension of the worlds that it is for. */
  readonly dimension: 3
  /** Cubic metres; a surface has none, a halfspace Infinity. Overlaps within a compound count twice. */
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

/** A sphere about the origin of its body. Made by `sphere()`. */
export interface Sphere extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'sphere'
  /** Its radius. */
  readonly radius: number
}

/** A box along the axes of its body. Made by `box()`. */
export interface Box extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'box'
  /** Full sizes along the axes. */
  readonly size: Vec3
  /** Radius of the rounded edges and corners, within the full size. */
  readonly radius: number
}

/** A segment grown by a radius. Made by `capsule()`. */
export interface Capsule extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'capsule'
  /** One end of the segment. */
  readonly a: Vec3
  /** The other end of the segment. */
  readonly b: Vec3
  /** By how much the segment is grown. */
  readonly radius: number
}

/** A cylinder along y. Made by `cylinder()`. */
export interface Cylinder extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'cylinder'
  /** Along y. */
  readonly height: number
  /** Its radius. */
  readonly radius: number
}

/** A cone along y, its tip up. Made by `cone()`. */
export interface Cone extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'cone'
  /** Along y, the tip at the top; the origin is halfway. */
  readonly height: number
  /** Of its base. */
  readonly radius: number
}

/** The convex hull of points. Made by `hull()`. */
export interface Hull extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'hull'
  /** The corners, without those inside, on faces or on edges. */
  readonly points: readonly Vec3[]
  /** The faces: indexes of corners, counter-clockwise seen from outside. */
  readonly faces: readonly (readonly number[])[]
}

/** From which sides the triangles of a surface are met. */
export type Sides = 'both' | 'front'

/** A surface of triangles. Made by `mesh()`. */
export interface Mesh extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'mesh'
  /** Triangles, without those that have no area. */
  readonly triangles: number
  /** From which sides it is met. */
  readonly sides: Sides
  /** Whether every edge joins exactly two triangles that run the same way round. */
  readonly closed: boolean
}

/** A floor of triangles over a grid. Made by `heightfield()`. */
export interface Heightfield extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'heightfield'
  /** Numbers of heights along x and along z. */
  readonly columns: number
  /** Heights along z. */
  readonly rows: number
  /** From which sides it is met. */
  readonly sides: Sides
}

/** All that lies behind a plane (2D: a line). Made by `halfspace()`. */
export interface Halfspace extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'halfspace'
  /** Unit, out of the solid side. */
  readonly normal: Vec3
  /** Metres from the origin to the surface, along the normal. */
  readonly offset: number
}

/** A shape within a compound. */
export interface CompoundPart {
  /** The shape of the part. */
  readonly shape: Exclude<Shape3, Compound | Halfspace>
  /** Default: the origin of the compound. */
  readonly at?: Vec3 | undefined
  /** Rotation within the compound. Default none. */
  readonly rotation?: Rotation | undefined
}

/** Several shapes as one. Made by `compound()`. */
export interface Compound extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'compound'
  /** What it is made of; `child` of a hit is the index here. */
  readonly parts: readonly CompoundPart[]
}

/** Any shape of 3D. */
export type Shape3 = Sphere | Box | Capsule | Cylinder | Cone | Hull | Mesh | Heightfield | Halfspace | Compound

/** Throws `bad-shape` for what is no shape of this dimension. */
export function refuseNoShape(value: unknown, what: string): void {
  refuseForeignShape(value, what, 3)
}
