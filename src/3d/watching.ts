/** What watches and decide hooks of 3D are given and give: the core's types, with the bodies and vectors of 3D. */
import type { AnyKinds, Kinds } from '../core/state/handle.ts'
import type { DecidedPair, Hook } from '../core/watch/decideHooks.ts'
import type { WatchEvent } from '../core/watch/event.ts'
import type { WatchSide } from '../core/watch/sides.ts'
import type { Watch, WatchHandlers } from '../core/watch/watch.ts'
import type { Body3 } from './body.ts'
import type { Collider3 } from './collider.ts'
import type { MutableVec3 } from './vector.ts'

/** A side of a watch: a layer, several, a body, a collider, `{ tag }`, or `'*'` for all. */
export type WatchSide3<K extends Kinds = AnyKinds> = WatchSide<K, Body3<K>, Collider3<K>>

/** A fact about two bodies or two colliders of 3D, valid until the handler returns. */
export interface WatchEvent3<K extends Kinds = AnyKinds> extends WatchEvent<Body3<K>, Collider3<K>, MutableVec3> {}

/** What is done on each kind of event. Left out: it is only recorded. */
export interface WatchHandlers3<K extends Kinds = AnyKinds> extends WatchHandlers<WatchEvent3<K>> {}

/** A standing order of a world of 3D. */
export interface Watch3<K extends Kinds = AnyKinds> extends Watch<Body3<K>, Collider3<K>, MutableVec3> {}

/** The pair that a decide hook of 3D is asked about. */
export interface DecidedPair3<K extends Kinds = AnyKinds> extends DecidedPair<Body3<K>, Collider3<K>, MutableVec3> {
  /** How fast the surfaces carry `a` along past `b`, about the world. Can be set for this pair, until the two part. */
  surfaceVelocity: Readonly<MutableVec3>
}

/** A decide hook in force, in 3D. */
export interface Hook3<K extends Kinds = AnyKinds> extends Hook<Body3<K>, Collider3<K>, MutableVec3> {}
