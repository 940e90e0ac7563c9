/** What every hit has, and what the modes of queries need of a kernel. */
import type { IntList } from '../state/table.ts'
import type { BoundsTree } from '../tree/boundsTree.ts'
import type { Vectors } from './lines.ts'

/** Answers of a ray and a cast against one piece, besides 1 for a hit. A miss by no more than rounding, or nearly, is NEAR. */
export const NEAR = -1
export const MISS = 0
export const INSIDE = 2

/** What every hit says. */
interface AnyHit<B, C> {
  collider: C
  body: B
  /** The edge of a polyline or the triangle of a surface, in the user's own numbering; -1 for other shapes. */
  part: number
  /** Index in the compound; -1 for other shapes. */
  child: number
}

/** What a ray and a cast say besides. */
interface AnyRayHit<B, C> extends AnyHit<B, C> {
  /** 0..1 of the whole length. */
  fraction: number
  /** Lengths from the start. */
  distance: number
  startedInside: boolean
}

/** What a ray says. */
export interface RayHit<B, C, V> extends AnyRayHit<B, C> {
  point: V
  /** Unit, towards the asker. */
  normal: V
}

/** What an overlap says. */
export interface OverlapHit<B, C, V> extends AnyHit<B, C> {
  /** How deep they overlap along the normal; 0 unless asked for. */
  depth: number
  /** The way out, unit; null unless asked for. */
  normal: V | null
  /** On the surface of what was met; null unless asked for. */
  point: V | null
}

/** What the nearest says. */
export interface NearestHit<B, C, V> extends AnyHit<B, C> {
  /** The nearest point of what was met. */
  point: V
  /** Unit, towards the asker; inside, the way out. */
  normal: V
  /** Lengths; negative inside. */
  distance: number
}

/** An empty hit of a ray. */
export function newRayHit<B, C, V>({ zero }: Vectors<V>): RayHit<B, C, V> {
  return {
    collider: null as C,
    body: null as B,
    point: zero(),
    normal: zero(),
    fraction: 0,
    distance: 0,
    startedInside: false,
    part: -1,
    child: -1,
  }
}

/** An empty hit of an overlap. */
export function newOverlapHit<B, C, V>(): OverlapHit<B, C, V> {
  return { collider: null as C, body: null as B, part: -1, child: -1, depth: 0, normal: null, point: null }
}

/** An empty hit of the nearest. */
export function newNearestHit<B, C, V>({ zero }: Vectors<V>): NearestHit<B, C, V> {
  return {
    collider: null as C,
    body: null as B,
    point: zero(),
    normal: zero(),
    distance: 0,
    part: -1,
    child: -1,
  }
}

/** A hit on one shape, by the plain functions. */
export interface PlainHit<V> {
  readonly point: V
  /** Unit, towards the asker. */
  readonly normal: V
  /** 0..1 of the whole length. */
  readonly fraction: number
  /** Lengths from the start. */
  readonly distance: number
  readonly startedInside: boolean
  readonly part: number
  readonly child: number
}

/** How far apart two shapes are, and where. */
export interface PlainDistance<V> {
  /** Lengths; negative is the depth. */
  readonly distance: number
  /** The nearest point of each; when they overlap, the deepest. */
  readonly pointA: V
  readonly pointB: V
  /** Unit, from a to b. */
  readonly normal: V
}

/** The part of a kernel that queries go through. */
export interface QueryKernel {
  readonly geometry: {
    readonly first: { readonly data: Int32Array }
    readonly pieceCount: { readonly data: Int32Array }
    ownerOf(piece: number): number
    childOf(piece: number): number
    /** Its place among the pieces of its collider. */
    ordinalOf(piece: number): number
    hasSiblings(piece: number): boolean
    after(piece: number): number
    /** The user's number of the part that a record at `values[at]` is about; -1 for none. */
    partOf(piece: number, values: Float64Array, at: number): number
  }
  /** Pieces that are halfspaces: they are in no tree. */
  readonly planes: IntList
  readonly trees: readonly BoundsTree[]
  /** Whether any collider adds something of its own to a hit. */
  readonly describesHits: boolean
  /** Brings geometry and trees up to date. */
  refresh(): void
  /** Writes the direction, in the world, towards which a collider lets through; false where it lets nothing through. */
  readOneWay(c: number, out: Float64Array): boolean
  /** Whether a ray runs along a piece; writes a graze record. */
  graze(piece: number, line: Float64Array, out: Float64Array): boolean
}
