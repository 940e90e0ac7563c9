/** What a dimension owes the core: whole stages of a tick, never a call a pair (but for what is asked rarely). */

import type { ContactPoint } from '../watch/event.ts'

/** How far two colliders are from each other now. */
export interface Apart {
  /** Between their bounds; 0 when these overlap. */
  readonly bounds: number
  /** Between their shapes; negative when they overlap. */
  readonly shapes: number
  /** The gap within which a solid pair counts as touching. */
  readonly touch: number
}

export interface Space<V> {
  /** Changes made outside the step become world geometry, bounds and trees. */
  prepare(): void
  /** Makes the bounds of all that moves hold the way that it is expected to take. */
  foresee(): void
  /** Contacts of the pairs that the solver is to work on, at the start poses; lists pairs for the decide hooks. */
  touch(): void
  /** Solves the contacts and moves every mover to its end pose. */
  move(): void
  /** Follows what moved fast along its way, and lets it bounce where it would have gone through. */
  sweep(): void
  /** Broad phase: adds candidate pairs for whatever left its bounds or must be looked for anew. */
  findPairs(): void
  /** Verdicts at the end poses: lists changed pairs, dooms those that are no candidates any more. */
  settle(): void
  /** The verdict of one pair again, after a decide hook answered. */
  judge(pair: number): void
  /** How a pair's `a` moves as seen from its `b` in this tick, a second, as three numbers. */
  readApproach(pair: number, out: Float64Array, at: number): void
  /** For explanations: how far two colliders are from each other. Cold. */
  apart(a: number, b: number): Apart
  /** For explanations: how forces move a dynamic body, in a few words. Cold. */
  weight(body: number): string
  /** For explanations: when the last teleport of either jumped over the other, a sentence about it. Cold. */
  jumped(a: number, b: number): string | null
  /** Something about this collider changed: what rests on it wakes. */
  disturb(collider: number): void
  /** A pair's slot is about to be used again. */
  forgetPair(pair: number): void
  /** Friction, restitution and surface speed of a solid pair, as decide hooks see and set them. */
  readSurface(pair: number, out: Float64Array): void
  writeSurface(pair: number, from: Float64Array): void
  /** This collider's candidates must be looked for anew. */
  refind(collider: number): void
  /** A collider slot is about to be used again. */
  forget(collider: number): void
  /** The unit normal of a solid pair, from its `a` to its `b`, as three numbers (2D: the last is 0). */
  readNormal(pair: number, out: Float64Array, at: number): void
  /** Where the two of a solid pair that met and parted within the tick met, as three numbers. */
  readMet(pair: number, out: Float64Array, at: number): void
  /** Where the two of a solid pair touch now. Cold. */
  pointsOf(pair: number): ContactPoint<V>[]
  /** A vector of this dimension, to be filled by {@link fillVector}. */
  newVector(): V
  fillVector(out: V, from: Float64Array, at: number, sign: number): void
}
