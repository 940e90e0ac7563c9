/**
 * Shapes are immutable values that can be shared. Each is made of pieces: convex cores of 1 to n points, counter-
 * clockwise, grown by a radius (a circle is one point, a capsule two, a box four), lines (two points, no radius, no
 * inside), or a halfspace. Full sizes, never half sizes; a size is set, never scaled.
 */
import { refuseForeignShape } from '../../core/util/checks.ts'
import type { Grid } from '../tiles/grid.ts'
import type { Ground } from '../tiles/ground.ts'
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
  /** Square metres; a line has none, a halfspace Infinity. Overlaps within a compound count twice. */
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

/** A circle about the origin of its body. Made by `circle()`. */
export interface Circle extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'circle'
  /** Its radius. */
  readonly radius: number
}

/** A box along the axes of its body. Made by `box()`. */
export interface Box extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'box'
  /** Full size along x. */
  readonly width: number
  /** Full size along y. */
  readonly height: number
  /** Radius of the rounded corners, within the full size. */
  readonly radius: number
}

/** A segment grown by a radius. Made by `capsule()`. */
export interface Capsule extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'capsule'
  /** One end of the segment. */
  readonly a: Vec2
  /** The other end of the segment. */
  readonly b: Vec2
  /** By how much the segment is grown. */
  readonly radius: number
}

/** A polygon; a concave one is made of convex pieces. Made by `polygon()`. */
export interface Polygon extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'polygon'
  /** The outline, counter-clockwise, without repeated and collinear points. */
  readonly points: readonly Vec2[]
  /** How far it reaches beyond the outline. */
  readonly radius: number
}

/** A line between two points. Made by `segment()`. */
export interface Segment extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'segment'
  /** One end. */
  readonly a: Vec2
  /** The other end. */
  readonly b: Vec2
}

/** Segments in a row, without an inside. Made by `polyline()`. */
export interface Polyline extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'polyline'
  /** Its corners; `part` of a hit is the number of the edge's first. */
  readonly points: readonly Vec2[]
  /** Whether the last corner is joined to the first. */
  readonly loop: boolean
}

/** All that lies behind a plane (2D: a line). Made by `halfspace()`. */
export interface Halfspace extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'halfspace'
  /** Unit, out of the solid side. */
  readonly normal: Vec2
  /** Metres from the origin to the surface, along the normal. */
  readonly offset: number
}

/** A shape within a compound. */
export interface CompoundPart {
  /** The shape of the part. */
  readonly shape: Shape2
  /** Default: the origin of the compound. */
  readonly at?: Vec2 | undefined
  /** Turn within the compound, radians. Default 0. */
  readonly angle?: number | undefined
}

/** Several shapes as one. Made by `compound()`. */
export interface Compound extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'compound'
  /** What it is made of; `child` of a hit is the index here. */
  readonly parts: readonly CompoundPart[]
}

/** A tile: where it is in its grid (the first row on top), what it is, and which edge of its shape was met. */
export interface Tile {
  /** From the left, from 0. */
  column: number
  /** From the top, from 0. */
  row: number
  /** The sign of its kind. */
  kind: string
  /** The number of the edge in its shape (of a full tile 0 is the lower one, then counter-clockwise); -1 at a corner, or where none was met. */
  edge: number
}

/** What hits of 2D have besides. */
export interface OnTile {
  /** The tile that was met, of what is made of tiles; `part` is its number, row by row from the top left. Else null. */
  tile: Tile | null
}

/** A hit of 2D. Added to it: a copy of it would take ten times as long. */
export function onTile<H extends object>(hit: H): H & OnTile {
  const whole = hit as H & OnTile
  whole.tile = null
  return whole
}

/** A grid of tiles, solid inside. Made by `tiles()`. */
export interface Tiles<L extends string = string> extends ShapeFacts {
  /** Which shape it is. */
  readonly kind: 'tiles'
  /** Full size of a cell. */
  readonly cell: number
  /** How many columns the grid has. */
  readonly columns: number
  /** How many rows the grid has. */
  readonly rows: number
  /** How many tiles there are. */
  readonly count: number
  /** Closed loops of corners with the solid on the left, of all tiles that press from every side. */
  readonly outline: readonly (readonly Vec2[])[]
  /** The rows as text, the first on top. */
  text(): string[]
  /** Layers that its kinds name belong to the world that it is put into. */
  fits?(layer: L): void
  /** @internal */ readonly grid: Grid
  /** @internal The number of a behaviour; -1 for all that hold. */
  readonly group: number
  /** @internal A grid of its own, with a shape for each behaviour. */
  grow(): readonly Tiles[]
  /** @internal The grid that it is a part of, once it is on a body. */
  readonly ground: Ground | null
}

/** Any shape of 2D. */
export type Shape2 = Circle | Box | Capsule | Polygon | Segment | Polyline | Halfspace | Compound | Tiles

/** Throws `bad-shape` for what is no shape of this dimension. */
export function refuseNoShape(value: unknown, what: string): void {
  refuseForeignShape(value, what, 2)
}
